#pragma once
// Draws one face of the chassis to scale: parts from this side, ghosts of the other, and layers of what the layout
// answers.

#include "core/build/build.h"
#include "core/chassis/layout_figures.h"

#include <QPainter>

#include <set>
#include <vector>

namespace ember::app {

enum class Layer { Signal, Field, Heat, Sag, Clearance, Wiring, Holes };

/// Which way a face is looked at.
struct PlateSide {
    Face face = Face::Top;
    bool fromBelow = false; ///< the top's underside, mirrored as the real one is
};

/// From millimetres of a face to pixels.
struct PlateScale {
    double scale = 2; ///< [pixel/mm]
    QPointF origin;   ///< pixel of the face's origin corner as drawn
    double width = 0; ///< of the face [mm], for mirroring
    bool mirrored = false;
    [[nodiscard]] QPointF at(double x, double y) const;     ///< from [m]
    [[nodiscard]] QPointF back(const QPointF& pixel) const; ///< to [m]
    [[nodiscard]] double length(double metres) const { return metres * 1e3 * scale; }
};

class PlatePicture {
  public:
    PlatePicture(QPainter& painter, const Build& b, const chassis::LayoutFigures& figures, PlateSide view,
                 const PlateScale& to)
        : p(painter),
          build(b),
          layout(figures),
          side(view),
          scale(to) {}

    void plate(bool inches) const;
    void glow() const; ///< the heat's tint, for under the parts
    void parts(const std::vector<std::size_t>& selected) const;
    void layers(const std::set<Layer>& shown) const;
    void problems() const;
    /// Outlines of another layout of the same parts.
    void overlay(const std::vector<Standing>& places) const;
    /// A line from one part to another with its length.
    void measure(const QPointF& from, const QPointF& to) const; ///< [m]

  private:
    void part(std::size_t index, bool ghost, bool chosen) const;
    void rulers(bool inches) const;
    void signal() const;
    void field() const;
    void heat() const;
    void sag() const;
    void clearances() const;
    void wiring() const;
    void holes() const;
    /// A chassis point as this face sees it.
    [[nodiscard]] QPointF flat(const chassis::Vector& point) const;
    /// Lines of equal value over a grid of `columns` x `rows` values spread over the face; cell centres or rim points.
    void contours(const std::vector<double>& values, int columns, int rows, bool cells,
                  const std::vector<double>& levels, const QPen& pen,
                  const std::function<QString(double)>& words) const;
    [[nodiscard]] QPolygonF outline(const chassis::PlacedBody& body) const;

    QPainter& p;
    const Build& build;
    const chassis::LayoutFigures& layout;
    PlateSide side;
    PlateScale scale;
};

} // namespace ember::app
