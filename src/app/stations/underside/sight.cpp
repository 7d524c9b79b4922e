#include "sight.h"

#include <algorithm>

namespace ember::app {

void Sight::lay(QSizeF millimetres, const QRectF& to, bool isMirrored) {
    if (face != millimetres) {
        face = millimetres;
        fit();
    }
    room = to;
    mirrored = isMirrored;
    keepInside();
}

double Sight::whole() const {
    return std::max(0.01, std::min(room.width() / face.width(), room.height() / face.height()));
}

PlateScale Sight::scale() const {
    PlateScale s;
    s.mirrored = mirrored;
    s.width = face.width();
    s.scale = times * whole();
    const double x = mirrored ? face.width() - centre.x() : centre.x();
    s.origin = room.center() + QPointF(-x * s.scale, centre.y() * s.scale);
    return s;
}

void Sight::fit() {
    times = 1;
    centre = {face.width() / 2, face.height() / 2};
}

void Sight::zoomBy(double factor, const QPointF& pixel) {
    const QPointF before = scale().back(pixel) * 1e3;
    times = std::clamp(times * factor, 1.0, most);
    const QPointF after = scale().back(pixel) * 1e3;
    centre += before - after;
    keepInside();
}

void Sight::panBy(const QPointF& pixels) {
    const PlateScale s = scale();
    centre += (s.back({0, 0}) - s.back(pixels)) * 1e3;
    keepInside();
}

void Sight::lookAt(const QRectF& metres, double pixelsPerMillimetre) {
    const QSizeF wanted = metres.size() * 1e3;
    const double fits =
        std::min(room.width() / std::max(1.0, wanted.width()), room.height() / std::max(1.0, wanted.height()));
    times = std::clamp(std::min(fits, pixelsPerMillimetre) / whole(), 1.0, most);
    centre = metres.center() * 1e3;
    keepInside();
}

/// No empty room is shown where there is more of the face.
void Sight::keepInside() {
    const double s = times * whole(), wide = room.width() / s / 2, high = room.height() / s / 2;
    const auto keep = [](double at, double half, double side) {
        return 2 * half >= side ? side / 2 : std::clamp(at, half, side - half);
    };
    centre = {keep(centre.x(), wide, face.width()), keep(centre.y(), high, face.height())};
}

} // namespace ember::app
