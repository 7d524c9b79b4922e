#include "layout_picture.h"

#include "app/stations/plate_picture.h"
#include "app/theme/theme.h"

#include <algorithm>

namespace ember::app {

QPixmap pictureOf(const Build& b, const chassis::LayoutFigures& f, const QSize& size,
                  const std::vector<Standing>& over) {
    // In a row drawn large and shown small, so that lines stay fine; larger ones keep their letters readable.
    const double ratio = size == pictureSize ? 3 : 1.25;
    QImage image(size * ratio, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    QPainter painter(&image);
    painter.setRenderHint(QPainter::Antialiasing);
    const bool tower = chassis::isTower(b.chassis);
    const double w = b.chassis.width * 1e3, d = b.chassis.depth * 1e3, each = image.width() / (tower ? 2.0 : 1.0);
    PlateScale scale;
    scale.width = w;
    scale.scale = 0.96 * std::min(each / w, image.height() / d);
    for (const Face face : plateFaces) {
        if (isLower(face) && !tower) continue;
        const double left = isLower(face) ? each : 0;
        scale.origin = {left + (each - w * scale.scale) / 2, (image.height() + d * scale.scale) / 2};
        painter.setPen(QPen(theme::color(theme::Role::BoneFaint), 2));
        painter.setBrush(theme::color(theme::Role::Ash));
        painter.drawRect(QRectF(scale.at(0, b.chassis.depth), scale.at(b.chassis.width, 0)));
        const PlatePicture picture(painter, b, f, {face, false}, scale);
        picture.parts({});
        if (!over.empty()) picture.overlay(over);
    }
    painter.end();
    QPixmap out = QPixmap::fromImage(image);
    out.setDevicePixelRatio(ratio);
    return out;
}

} // namespace ember::app
