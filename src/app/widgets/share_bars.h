#pragma once
// Causes with their probabilities: a sentence, percent, and a bar under both.

#include <QStringList>
#include <QWidget>

#include <vector>

namespace ember::app {

class ShareBars : public QWidget {
    Q_OBJECT
  public:
    struct Row {
        QString words;
        double share = 0; ///< 0 .. 1
        bool good = false;
    };
    explicit ShareBars(QWidget* parent = nullptr);
    void show(std::vector<Row> rows);
    [[nodiscard]] QStringList inWords() const; ///< "C11 leaks: 62 %"
    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override;
    [[nodiscard]] QSize sizeHint() const override { return {260, heightForWidth(260)}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    [[nodiscard]] int wordsHeight(const Row& row, int width) const;
    std::vector<Row> rows;
};

} // namespace ember::app
