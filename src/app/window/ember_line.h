#pragma once
// The amplifier as one line from the wall to the speaker: predicted above, last measured below; what is alive glows.

#include "app/document/document.h"
#include "app/widgets/clock.h"

#include <QWidget>

namespace ember::app {

class EmberLine : public QWidget {
    Q_OBJECT
  public:
    explicit EmberLine(Document& document, QWidget* parent = nullptr);
    struct Element {
        QString name, predicted, measured, station;
        bool alive = false;
    };
    [[nodiscard]] const std::vector<Element>& shown() const { return elements; }

  Q_SIGNALS:
    void chosen(const QString& station);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void addPath(const plan::Steady* steady, const plan::Conditions& shown, bool outputsAlive, bool smallAlive,
                 bool atMoment);
    void refresh();
    [[nodiscard]] QString lastRead(const std::string& point, const plan::Conditions& shown) const;
    [[nodiscard]] double x(std::size_t k) const;
    Document& document;
    Timer renewal;
    std::vector<Element> elements;
    std::size_t focus = 0;
};

} // namespace ember::app
