#pragma once
// Figures under each other: what, how much, and beside it a change or a range. Painted, because it is renewed with
// every edit and rich text takes longer than a frame to lay out.

#include <QString>
#include <QWidget>

#include <vector>

namespace ember::app {

class FigureList : public QWidget {
    Q_OBJECT
  public:
    struct Row {
        QString what, value, beside;
        bool operator==(const Row&) const = default;
    };
    explicit FigureList(const QString& called, QWidget* parent = nullptr);
    void show(std::vector<Row> rows);
    [[nodiscard]] QString text() const; ///< all rows, for screen readers
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    std::vector<Row> rows;
};

} // namespace ember::app
