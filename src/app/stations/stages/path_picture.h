#pragma once
// A channel's path from jack to load as a picture: each part's value edited where it stands, each valve with its volts.

#include "app/document/document.h"
#include "app/stations/placed_fields.h"
#include "app/widgets/clock.h"
#include "core/schematic/stages/stage_sketch.h"

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
    void setZoom(double pixels); ///< of one symbol height
    [[nodiscard]] double zoom() const { return unit; }
    /// The part whose value has the keyboard, in the selected stage; -1: none.
    [[nodiscard]] int focusedPart() const;
    /// JSON pointer of the value that has the keyboard, or empty.
    [[nodiscard]] std::string focusedValue() const;
    [[nodiscard]] QRect stageRect(int stage) const;

  Q_SIGNALS:
    void stageChosen(int stage);
    void menuWanted(int stage, const QPoint& at);
    void valveWanted(int stage, int valve);
    void said(const QString& sentence, bool good);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    bool event(QEvent* event) override;

  private:
    struct Placed {
        schematic::StageDrawing drawing;
        double left = 0; ///< [symbol heights]
    };
    void rebuild();
    void arrange();
    [[nodiscard]] QPointF at(const Placed& stage, const schematic::Point2& p) const;
    static QRectF freePlace(const QRectF& wanted, const QPointF& a, const QPointF& b, const std::vector<QRectF>& taken);
    [[nodiscard]] QRectF fieldRect(const Placed& stage, const schematic::DrawnPart& part) const;
    void paintPart(QPainter& p, const Placed& stage, const Stage& of, const schematic::DrawnPart& part) const;
    void paintValve(QPainter& p, const Placed& stage, const Stage& of, const schematic::DrawnValve& valve,
                    std::size_t index) const;
    void paintSymbol(QPainter& p, const Placed& stage, const Stage& of, const schematic::DrawnSymbol& symbol) const;
    void paintFeedback(QPainter& p) const;
    void paintFoot(QPainter& p, const Placed& stage, std::size_t index) const;
    void paintTwoEnded(QPainter& p, const PartValue& value, const QPointF& a, const QPointF& b) const;
    void paintLoose(QPainter& p) const;
    [[nodiscard]] QRectF looseRect(std::size_t which) const;
    [[nodiscard]] std::optional<QPointF> electrodeAt(const std::string& net) const;
    [[nodiscard]] double looseHeight() const { return looseRows * looseLine; }
    [[nodiscard]] const plan::ValvePoint* pointOf(std::size_t stage, const std::string& at) const;
    [[nodiscard]] QRectF valveRect(const Placed& stage, const schematic::DrawnValve& valve) const;
    static constexpr double margin = 1.8; ///< [symbol heights] at the left
    static constexpr double foot = 50;    ///< [pixels] under the picture: gain, volts at clipping, impedances
    static constexpr int fieldWidth = 51, fieldHeight = 17;
    Document& document;
    PlacedFields fields;
    std::vector<Placed> stages;
    static constexpr std::size_t ofNoStage = static_cast<std::size_t>(-1);
    std::vector<std::pair<std::size_t, std::size_t>> fieldOf; ///< stage (or none: a loose part) and part of each field
    std::vector<std::size_t> loose;                           ///< in Build::loose, those with an end in this channel
    static constexpr double looseLine = 40, looseWidth = 330; ///< [pixels]
    int looseRows = 0, loosePerRow = 1;
    std::string shape;
    std::size_t shown = 0;
    int chosen = 0;
    double unit = 17, above = 10.5, below = 9.5; ///< [pixels]; what the tallest stage needs
    Timer renewal;
};

} // namespace ember::app
