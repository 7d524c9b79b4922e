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

void potentiometer(QPainter& p, QPointF a, QPointF b, QPointF wiper, double u) {
    resistor(p, a, b, u);
    const QPointF foot = QLineF(a, b).center();
    const QLineF in(wiper, foot);
    const QPointF tip = in.pointAt(std::max(0.0, 1 - 0.3 * u / std::max(1.0, in.length())));
    p.drawLine(wiper, tip);
    const double angle = std::atan2(tip.y() - wiper.y(), tip.x() - wiper.x());
    for (const double turn : {2.6, -2.6})
        p.drawLine(tip, tip + 0.28 * u * QPointF(std::cos(angle + turn), std::sin(angle + turn)));
}

void currentSource(QPainter& p, QPointF a, QPointF b, double u) {
    between(p, a, b, 1.5 * u, [&](double h) {
        p.drawEllipse(QPointF(-h / 3, 0), h * 2 / 3, h * 2 / 3);
        p.drawEllipse(QPointF(h / 3, 0), h * 2 / 3, h * 2 / 3);
    });
}

void diode(QPainter& p, QPointF a, QPointF b, double u, bool zener) {
    between(p, a, b, 0.8 * u, [&](double h) {
        p.drawPolygon(QPolygonF({QPointF(-h, -0.35 * u), QPointF(-h, 0.35 * u), QPointF(h, 0)}));
        p.drawLine(QPointF(h, -0.4 * u), QPointF(h, 0.4 * u));
        if (zener) p.drawLine(QPointF(h, 0.4 * u), QPointF(h - 0.2 * u, 0.4 * u));
    });
}

void transformer(QPainter& p, QPointF a, QPointF b, double u) {
    const double x = (a.x() + b.x()) / 2, y = (a.y() + b.y()) / 2, h = 1.2 * u;
    for (const double side : {-1.0, 1.0}) {
        const double from = x + side * 0.45 * u;
        QPainterPath coil(QPointF(from, y - h));
        for (int k = 0; k < 4; ++k)
            coil.arcTo(QRectF(from - 0.3 * u, y - h + k * h / 2, 0.6 * u, h / 2), 90, side < 0 ? -180 : 180);
        p.drawPath(coil);
        const double end = side < 0 ? a.x() : b.x();
        for (const double v : {y - h, y + h}) p.drawLine(QPointF(from, v), QPointF(end, v));
    }
    for (const double dx : {-0.07, 0.07}) p.drawLine(QPointF(x + dx * u, y - h), QPointF(x + dx * u, y + h));
}

void valve(QPainter& p, QPointF c, double u, bool pentode) {
    p.drawEllipse(c, 1.15 * u, 1.15 * u);
    p.drawLine(c + QPointF(0, -1.6 * u), c + QPointF(0, -0.7 * u)); // plate
    p.drawLine(c + QPointF(-0.55 * u, -0.7 * u), c + QPointF(0.55 * u, -0.7 * u));
    QPen solid = p.pen(), dashed = solid;
    dashed.setDashPattern({3, 2});
    p.setPen(dashed);
    p.drawLine(c + QPointF(-0.6 * u, 0.15 * u), c + QPointF(0.6 * u, 0.15 * u)); // control grid
    if (pentode) p.drawLine(c + QPointF(-0.6 * u, -0.25 * u), c + QPointF(0.6 * u, -0.25 * u));
    p.setPen(solid);
    p.drawLine(c + QPointF(-1.6 * u, 0), c + QPointF(-1.15 * u, 0));
    p.drawLine(c + QPointF(-1.15 * u, 0), c + QPointF(-0.6 * u, 0.15 * u));
    if (pentode) {
        p.drawLine(c + QPointF(1.6 * u, 0), c + QPointF(1.15 * u, 0));
        p.drawLine(c + QPointF(1.15 * u, 0), c + QPointF(0.6 * u, -0.25 * u));
    }
    QPainterPath cathode(c + QPointF(-0.5 * u, 0.75 * u));
    cathode.quadTo(c + QPointF(-0.45 * u, 0.6 * u), c + QPointF(-0.3 * u, 0.6 * u));
    cathode.lineTo(c + QPointF(0.3 * u, 0.6 * u));
    cathode.quadTo(c + QPointF(0.45 * u, 0.6 * u), c + QPointF(0.5 * u, 0.75 * u));
    p.drawPath(cathode);
    p.drawLine(c + QPointF(0, 0.6 * u), c + QPointF(0, 1.6 * u));
}

void ground(QPainter& p, QPointF at, double u) {
    for (int k = 0; k < 3; ++k) {
        const double half = (0.5 - 0.16 * k) * u, y = at.y() + 0.16 * k * u;
        p.drawLine(QPointF(at.x() - half, y), QPointF(at.x() + half, y));
    }
}

} // namespace ember::app::symbols
