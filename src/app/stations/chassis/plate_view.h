#pragma once
// The plate in the builder's hands: pick, move, turn, turn over; every move answers at once.

#include "app/stations/plate_picture.h"

#include "app/document/document.h"
#include "core/chassis/bodies.h"

#include <QWidget>

#include <functional>
#include <optional>

namespace ember::app {

class PlateView : public QWidget {
    Q_OBJECT
  public:
    explicit PlateView(Document& document, QWidget* parent = nullptr);

    void look(PlateSide side);
    [[nodiscard]] PlateSide side() const { return looking; }
    void setLayer(Layer layer, bool shown);
    void setInches(bool on);
    void setGrid(double metres); ///< 0: no snapping to it
    void select(std::vector<std::size_t> parts);
    [[nodiscard]] const std::vector<std::size_t>& selection() const { return selected; }
    /// The layout as it is now, also in the middle of a drag.
    [[nodiscard]] const chassis::LayoutFigures& layout() const { return live; }
    [[nodiscard]] const Chassis& shown() const { return working.chassis; }
    /// Another layout of the same parts, drawn dotted over this one; none to take it away.
    void overlay(std::vector<Standing> places);
    void fit();
    [[nodiscard]] QPointF pixelOf(double x, double y) const { return scale.at(x, y); } ///< from [m]

    // What keys and menus do.
    void turn(double degrees);
    void nudge(double dx, double dy);
    void turnOver();
    void removeSelected();
    void duplicateSelected();
    void mirrorSelected();
    void lockSelected();
    void mount(const chassis::BodyKind& mounting); ///< the chosen iron in another mounting of its size
    void toOtherChassis();                         ///< of a tower; the first part that goes below makes it one
    enum class Line { Left, Centre, Right, Front, Middle, Back };
    void align(Line line);
    void distribute(bool alongX);
    void measureMode(bool on);
    /// Puts a body of the tray on the face that is shown, where it stands free, and selects it.
    Expected<Done> place(const std::string& bodyId, double size = 0);

  Q_SIGNALS:
    void selectionChanged();
    void layoutChanged();
    void sideChanged();
    void said(const QString& sentence, bool good);
    void measureYours(const QString& part); ///< its bodies and holes are wanted

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    bool focusNextPrevChild(bool next) override;

  private:
    void refresh();  ///< from the document
    void evaluate(); ///< `working` anew
    [[nodiscard]] std::optional<std::size_t> partAt(const QPointF& pixel) const;
    QPointF snapped(std::size_t part, QPointF wanted);
    void addCopies(const std::string& name, const std::function<void(PlacedPart&)>& change);
    void apply(const Expected<Edit>& edit);
    void describe();

    Document& document;
    Build working; ///< the document's, with what is being dragged
    chassis::LayoutSolver solver;
    chassis::LayoutFigures live;
    PlateSide looking;
    PlateScale scale;
    std::set<Layer> layers{Layer::Signal};
    std::vector<Standing> other; ///< laid over
    std::vector<std::size_t> selected;
    bool inches = false, measuring = false, fitted = true, stale = false;
    double grid = 1e-3;
    struct Drag {
        QPointF from;                 ///< [m]
        std::vector<QPointF> origins; ///< of the selected [m]
        bool moved = false;
    };
    std::optional<Drag> drag;
    std::optional<QPointF> panFrom;
    std::optional<QPointF> measureFrom, measureTo;
    std::vector<double> guidesX, guidesY; ///< lines that the drag has snapped to [m]
};

} // namespace ember::app
