#include "symbols.h"

#include <QLineF>
#include <QPainterPath>

#include <cmath>

namespace ember::app::symbols {

namespace {

/// Draws as if `a` were at the left and `b` at the right, the middle at the origin; the leads are drawn here.
template <typename Draw>
void between(QPainter& p, QPointF a, QPointF b, double body, Draw draw) {
    const QLineF line(a, b);
    const double half = std::min(line.length() / 2, body / 2);
    p.save();
    p.translate(line.center());
    p.rotate(-line.angle());
    p.drawLine(QPointF(-line.length() / 2, 0), QPointF(-half, 0));
    p.drawLine(QPointF(half, 0), QPointF(line.length() / 2, 0));
    draw(half);
    p.restore();
}

} // namespace

void resistor(QPainter& p, QPointF a, QPointF b, double u) {
    between(p, a, b, 1.5 * u, [&](double h) { p.drawRect(QRectF(-h, -0.25 * u, 2 * h, 0.5 * u)); });
}

void capacitor(QPainter& p, QPointF a, QPointF b, double u, bool polarised) {
    between(p, a, b, 0.3 * u, [&](double h) {
        p.drawLine(QPointF(-h, -0.5 * u), QPointF(-h, 0.5 * u));
        p.drawLine(QPointF(h, -0.5 * u), QPointF(h, 0.5 * u));
        if (polarised) {
            p.drawLine(QPointF(-h - 0.5 * u, -0.4 * u), QPointF(-h - 0.2 * u, -0.4 * u));
            p.drawLine(QPointF(-h - 0.35 * u, -0.55 * u), QPointF(-h - 0.35 * u, -0.25 * u));
        }
    });
}

void inductor(QPainter& p, QPointF a, QPointF b, double u) {
    between(p, a, b, 1.6 * u, [&](double h) {
        QPainterPath coil(QPointF(-h, 0));
        for (int k = 0; k < 4; ++k) coil.arcTo(QRectF(-h + k * h / 2, -h / 4, h / 2, h / 2), 180, -180);
        p.drawPath(coil);
    });
}

void diode(QPainter& p, QPointF a, QPointF b, double u, bool zener) {
    between(p, a, b, 0.8 * u, [&](double h) {
        p.drawPolygon(QPolygonF({QPointF(-h, -0.35 * u), QPointF(-h, 0.35 * u), QPointF(h, 0)}));
        p.drawLine(QPointF(h, -0.4 * u), QPointF(h, 0.4 * u));
        if (zener) p.drawLine(QPointF(h, 0.4 * u), QPointF(h - 0.2 * u, 0.4 * u));
    });
}

void ground(QPainter& p, QPointF at, double u) {
    for (int k = 0; k < 3; ++k) {
        const double half = (0.5 - 0.16 * k) * u, y = at.y() + 0.16 * k * u;
        p.drawLine(QPointF(at.x() - half, y), QPointF(at.x() + half, y));
    }
}

} // namespace ember::app::symbols
