#include "lamp_view.h"

#include "app/theme/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;

LampView::LampView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(200, 92);
    setAccessibleName("Limiter lamp");
}

void LampView::show(double k, const QString& l, const QString& f, const QString& t, bool used) {
    kelvin = k;
    looks = l;
    figures = f;
    through = t;
    inUse = used;
    setAccessibleDescription(l + ", " + f + (t.isEmpty() ? "" : ", " + t));
    update();
}

void LampView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Ash));
    const double r = std::min(width() * 0.12, height() * 0.28);
    const QPointF centre(12 + 1.25 * r, height() * 0.40);
    // The eye sees radiance; on a screen the cube of the temperature above the first glow reads about right.
    const double glow = inUse ? std::clamp(std::pow(std::max(0.0, kelvin - 700) / 2000, 1.5), 0.0, 1.0) : 0;
    const QColor light = theme::incandescent(kelvin);
    if (glow > 0.01) theme::halo(p, centre, r * (1.2 + glow), light, 0.15 + 0.7 * glow);
    p.setPen(QPen(theme::color(Role::BoneFaint), 1.4));
    QPainterPath glass;
    glass.addEllipse(centre, r, r);
    p.drawPath(glass);
    const double neck = r * 0.36, top = centre.y() + r * 0.93;
    p.drawLine(QPointF(centre.x() - neck, top), QPointF(centre.x() - neck, top + r * 0.35));
    p.drawLine(QPointF(centre.x() + neck, top), QPointF(centre.x() + neck, top + r * 0.35));
    for (int k = 0; k < 3; ++k) {
        const double y = top + r * (0.4 + 0.14 * k);
        p.drawLine(QPointF(centre.x() - neck, y), QPointF(centre.x() + neck, y));
    }
    // Filament: a zigzag on two stems.
    QColor filament = theme::color(Role::BoneFaint);
    if (glow > 0.005) filament = light;
    p.setPen(QPen(filament, 1.6 + 2 * glow));
    QPainterPath wire(QPointF(centre.x() - r * 0.2, top));
    const double fy = centre.y() + r * 0.05;
    wire.lineTo(centre.x() - r * 0.42, fy);
    for (int k = 1; k <= 6; ++k) wire.lineTo(centre.x() - r * 0.42 + r * 0.14 * k, fy + (k % 2 ? -r * 0.2 : 0));
    wire.lineTo(centre.x() + r * 0.2, top);
    p.drawPath(wire);
    p.setPen(theme::color(inUse ? (glow > 0.02 ? Role::Ember : Role::Bone) : Role::BoneDim));
    const int left = static_cast<int>(24 + 2.5 * r), wide = width() - left - 6;
    p.setFont(theme::text(theme::Size::Text, true));
    p.drawText(QRect(left, 6, wide, 20), Qt::AlignLeft | Qt::AlignVCenter, looks);
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::figures(theme::Size::Small));
    p.drawText(QRect(left, 26, wide, 30), Qt::AlignLeft | Qt::TextWordWrap, figures);
    p.setFont(theme::text(theme::Size::Small));
    p.drawText(QRect(left, 56, wide, height() - 58), Qt::AlignLeft | Qt::TextWordWrap, through);
}

} // namespace ember::app
