#pragma once
// A channel's path from jack to load as a drawing: each part's value edited where it stands, each valve with its volts.

#include "app/document/document.h"
#include "app/stations/placed_fields.h"
#include "app/widgets/clock.h"
#include "core/drawing/of_build.h"

#include <QWidget>

class QPainter;

namespace ember::app {

class PathPicture : public QWidget {
    Q_OBJECT
  public:
    explicit PathPicture(Document& document, QWidget* parent = nullptr);
    void setChannel(std::size_t channel);
    [[nodiscard]] std::size_t channel() const { return shown; }
    [[nodiscard]] int selected() const { return chosen; } ///< the stage that is worked on; -1: there is none
    void select(int stage);
    /// Values are entry fields from `writing` on; in a smaller picture they are read only.
    void setZoom(double pixels); ///< of a millimetre of paper
    [[nodiscard]] double zoom() const { return unit; }
    static constexpr double writing = 3.6;
    /// As large as the whole drawing fits into `room`.
    void fit(QSize room);
    /// The part whose value has the keyboard, in the selected stage; -1: none.
    [[nodiscard]] int focusedPart() const;
    /// JSON pointer of the value that has the keyboard, or empty.
    [[nodiscard]] std::string focusedValue() const;
    [[nodiscard]] QRect stageRect(int stage) const;
    /// What each stage does: its name, gain, and the volts that leave it when the channel clips; in a strip that is
    /// scrolled with the picture but stays in sight.
    void paintStrip(QPainter& p) const;
    static constexpr int foot = 50; ///< [pixels] height of that strip
    [[nodiscard]] const drawing::Drawing& drawn() const { return paper; }

  Q_SIGNALS:
    void stageChosen(int stage);
    void menuWanted(int stage, const QPoint& at);
    void valveWanted(int stage, int valve);
    void said(const QString& sentence, bool good);
    void renewed();               ///< what is painted is no longer what it was
    void moved(const QPoint& by); ///< the paper under the mouse, by a drag or because it grew

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void rebuild();
    void layOut();
    void arrange();
    [[nodiscard]] bool writable() const { return unit > 0.97 * writing; }
    [[nodiscard]] QPointF at(const drawing::Point& p) const { return {unit * p.x, unit * p.y}; }
    [[nodiscard]] QRectF at(const drawing::Box& b) const {
        return {unit * b.x, unit * b.y, unit * b.width, unit * b.height};
    }
    [[nodiscard]] int stageAt(const QPointF& p) const;
    [[nodiscard]] const drawing::Body* bodyAt(const QPointF& p) const;
    [[nodiscard]] QString footName(std::size_t stage) const;
    [[nodiscard]] QString footOhms(std::size_t stage) const;
    [[nodiscard]] const plan::ValvePoint* pointOf(const schematic::ValveUse& use) const;
    [[nodiscard]] double plateShare(const drawing::Body& body) const; ///< of its published watts; 0: not known
    void paintBodies(QPainter& p) const;
    void paintWires(QPainter& p) const;
    void paintWords(QPainter& p) const;
    void paintNote(QPainter& p, const drawing::Word& word) const;
    void paintFoot(QPainter& p, std::size_t index) const;
    static constexpr int fieldWidth = 54, fieldHeight = 17, footWidth = 120, edge = 4; ///< [pixels]
    Document& document;
    PlacedFields fields;
    std::unique_ptr<drawing::ChannelSubject> subject;
    drawing::Drawing paper;
    std::vector<std::size_t> fieldOf; ///< body of each field
    std::vector<QRectF> stages;       ///< [mm] by stage; an empty one: nothing of it is drawn
    std::string shape;
    std::size_t shown = 0;
    int chosen = 0;
    double unit = writing;
    std::optional<QPoint> dragged;
    Timer renewal;
};

} // namespace ember::app
