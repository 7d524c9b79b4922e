#pragma once
// Which part of the chassis is looked at, and how large: all of it, until the wheel, a drag or a key says otherwise.

#include "app/stations/plate_picture.h"

#include <QRectF>

namespace ember::app {

class Sight {
  public:
    static constexpr double most = 16; ///< times as large as the whole
    /// A face of `millimetres` shown within `room`.
    void lay(QSizeF millimetres, const QRectF& room, bool mirrored);
    [[nodiscard]] PlateScale scale() const;
    [[nodiscard]] double zoom() const { return times; }
    void fit();
    /// `factor` times as large as now, what is at `pixel` staying there.
    void zoomBy(double factor, const QPointF& pixel);
    void panBy(const QPointF& pixels);
    /// So that a piece of the face [m] fills the room, at most `pixelsPerMillimetre` large.
    void lookAt(const QRectF& metres, double pixelsPerMillimetre);

  private:
    [[nodiscard]] double whole() const; ///< [pixel/mm] at which all of it fits
    void keepInside();
    QSizeF face{100, 100};
    QRectF room;
    bool mirrored = false;
    double times = 1;
    QPointF centre{50, 50}; ///< [mm] of the face, as drawn in the middle of the room
};

} // namespace ember::app
