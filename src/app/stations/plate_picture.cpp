#include "plate_picture.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/chassis/hole_list.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/tower.h"

#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::app {

using namespace chassis;
using theme::Role;
using theme::Size;

QPointF PlateScale::at(double x, double y) const {
    const double mm = x * 1e3;
    return {origin.x() + (mirrored ? width - mm : mm) * scale, origin.y() - y * 1e3 * scale};
}

QPointF PlateScale::back(const QPointF& pixel) const {
    const double mm = (pixel.x() - origin.x()) / scale;
    return {(mirrored ? width - mm : mm) * 1e-3, (origin.y() - pixel.y()) / scale * 1e-3};
}

namespace {

/// A nice step so that `pixels` or more lie between two marks.
double step(double perUnit, double pixels) {
    for (double decade = 1; decade < 1e4; decade *= 10)
        for (const double s : {1.0, 2.0, 5.0})
            if (s * decade * perUnit >= pixels) return s * decade;
    return 1e4;
}

} // namespace

void PlatePicture::plate(bool inches) const {
    const Frame f = frameOf(build.chassis, side.face);
    const QRectF r = QRectF(scale.at(0, 0), scale.at(f.width, f.height)).normalized();
    p.setPen(QPen(theme::color(Role::BoneDim), 1.4));
    p.setBrush(theme::color(side.fromBelow ? Role::Soot : Role::Ash));
    p.drawRoundedRect(r, 4, 4);
    p.setBrush(Qt::NoBrush);
    if (isPlate(side.face))
        for (const Pillar& pillar : pillarsOf(build.chassis)) {
            const double around = scale.length(pillarDiameter / 2), bolt = scale.length(pillarHole / 2);
            p.drawEllipse(scale.at(pillar.x, pillar.y), around, around);
            p.drawEllipse(scale.at(pillar.x, pillar.y), bolt, bolt);
        }
    rulers(inches);
}

void PlatePicture::rulers(bool inches) const {
    const Frame f = frameOf(build.chassis, side.face);
    const double unit = inches ? 25.4e-3 : 1e-3, perUnit = scale.length(unit);
    const double minor = inches ? 0.25 : step(perUnit, 8), major = inches ? 1 : step(perUnit, 70);
    p.setFont(theme::figures(Size::Small));
    const QRectF r = QRectF(scale.at(0, 0), scale.at(f.width, f.height)).normalized();
    const auto mark = [&](double value, bool along) {
        const bool large = std::abs(std::remainder(value, major)) < 1e-6;
        const QPointF at = along ? scale.at(value * unit, 0) : scale.at(0, value * unit);
        p.setPen(QPen(theme::color(large ? Role::BoneDim : Role::Line), 1));
        if (along) {
            p.drawLine(QPointF(at.x(), r.top() - (large ? 9 : 5)), QPointF(at.x(), r.top() - 2));
            if (large) p.drawText(QRectF(at.x() - 30, r.top() - 24, 60, 14), Qt::AlignCenter, QString::number(value));
        } else {
            p.drawLine(QPointF(r.left() - (large ? 9 : 5), at.y()), QPointF(r.left() - 2, at.y()));
            if (large)
                p.drawText(QRectF(r.left() - 44, at.y() - 7, 32, 14), Qt::AlignRight | Qt::AlignVCenter,
                           QString::number(value));
        }
    };
    for (double v = 0; v * unit <= f.width + 1e-9; v += minor) mark(v, true);
    for (double v = 0; v * unit <= f.height + 1e-9; v += minor) mark(v, false);
    p.setPen(theme::color(Role::BoneFaint));
    p.drawText(QRectF(r.left() - 44, r.top() - 24, 32, 14), Qt::AlignRight | Qt::AlignVCenter, inches ? "in" : "mm");
}

QPointF PlatePicture::flat(const Vector& v) const {
    const Frame f = frameOf(build.chassis, side.face);
    const Vector local = f.axes.transpose() * (v - f.origin);
    return scale.at(local.x(), local.y());
}

QPolygonF PlatePicture::outline(const PlacedBody& b) const {
    // The solid's corners or rim as the face sees them.
    const Frame f = frameOf(build.chassis, side.face);
    const Solid& s = b.solid;
    QPolygonF out;
    if (s.cylinder && std::abs(s.axes.col(2).dot(f.axes.col(2))) > 0.9) {
        for (int k = 0; k < 40; ++k) {
            const double t = 2 * std::numbers::pi * k / 40;
            out << flat(s.centre + s.axes * Vector(s.half.x() * std::cos(t), s.half.x() * std::sin(t), 0));
        }
        return out;
    }
    // Seen from its side or turned: the hull of its corners, four of which suffice for parts square to a face.
    const double depth = s.cylinder ? s.half.x() : s.half.y();
    double left = 1e9, right = -1e9, top = 1e9, bottom = -1e9;
    const bool level = std::abs(s.axes.col(2).dot(f.axes.col(2))) > 0.9;
    if (level) {
        for (const auto& [x, y] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}})
            out << flat(s.centre + s.axes * Vector(x * s.half.x(), y * depth, 0));
        return out;
    }
    for (const int x : {-1, 1})
        for (const int y : {-1, 1})
            for (const int z : {-1, 1}) {
                const QPointF q = flat(s.centre + s.axes * Vector(x * s.half.x(), y * depth, z * s.half.z()));
                left = std::min(left, q.x());
                right = std::max(right, q.x());
                top = std::min(top, q.y());
                bottom = std::max(bottom, q.y());
            }
    return QPolygonF(QRectF(QPointF(left, top), QPointF(right, bottom)));
}

void PlatePicture::part(std::size_t k, bool ghost, bool chosen) const {
    const PlacedPart& part = build.chassis.parts[k];
    QRectF whole;
    for (const std::size_t b : layout.assembly.of[k]) {
        const PlacedBody& body = layout.assembly.bodies[b];
        const bool here = side.face == part.face && body.outside != side.fromBelow;
        if (here == ghost) continue;
        const QPolygonF shape = outline(body);
        p.setBrush(ghost ? Qt::NoBrush : QBrush(theme::color(Role::AshRaised)));
        p.setPen(QPen(theme::color(chosen  ? Role::Brass
                                   : ghost ? Role::BoneFaint
                                           : Role::BoneDim),
                      chosen ? 2 : 1.1, ghost ? Qt::DashLine : Qt::SolidLine));
        p.drawPolygon(shape);
        whole = whole.united(shape.boundingRect());
    }
    p.setBrush(Qt::NoBrush);
    if (whole.isNull() || ghost) return;
    const Frame frame = frameOf(build.chassis, part);
    if (part.kind == "socket") {
        // Where pin 1 is, so that heater runs can be seen.
        const double r = part.bodies.empty() ? 0.008 : part.bodies[0].width * 0.32,
                     t = part.pinOne * std::numbers::pi / 180 - std::numbers::pi / 2;
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(Role::Brass));
        p.drawEllipse(flat(toChassis(frame, r * std::cos(t), r * std::sin(t), 0)), 2.2, 2.2);
        p.setBrush(Qt::NoBrush);
    }
    if (part.core == CoreAxis::Width || part.core == CoreAxis::Depth) {
        // The core's axis, an arrow: what couples is along it.
        const double reach = 0.22 * std::min(whole.width(), whole.height()) / scale.scale * 1e-3;
        const bool across = part.core == CoreAxis::Width;
        const QPointF a = flat(toChassis(frame, across ? -reach : 0, across ? 0 : -reach, 0)),
                      b = flat(toChassis(frame, across ? reach : 0, across ? 0 : reach, 0));
        p.setPen(QPen(theme::color(Role::Brass), 1.5));
        p.drawLine(a, b);
        const QPointF d = (b - a) / std::hypot(b.x() - a.x(), b.y() - a.y());
        p.drawLine(b, b - 6 * d + 4 * QPointF(-d.y(), d.x()));
        p.drawLine(b, b - 6 * d - 4 * QPointF(-d.y(), d.x()));
    }
    const QString name = text(tagOf(part));
    p.setFont(theme::text(Size::Small, true));
    p.setPen(theme::color(chosen ? Role::Brass : Role::Bone));
    const bool inside = whole.width() > 44 && whole.height() > 40 && part.kind != "socket";
    const QRectF at = inside ? QRectF(whole.left(), whole.top() + 3, whole.width(), 14)
                             : QRectF(whole.center().x() - 50, whole.bottom() + 1, 100, 13);
    p.drawText(at, Qt::AlignCenter, name + (part.locked ? " ·" : ""));
    if (inside && whole.height() > 70) {
        p.setFont(theme::figures(Size::Small));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(whole.left(), whole.bottom() - 17, whole.width(), 13), Qt::AlignCenter,
                   part.voltAmperes > 0 ? QString("%1 VA").arg(part.voltAmperes) : QString());
    }
}

void PlatePicture::parts(const std::vector<std::size_t>& selected) const {
    for (const bool ghost : {true, false})
        for (std::size_t k = 0; k < build.chassis.parts.size(); ++k) {
            if (build.chassis.parts[k].face != side.face) continue;
            part(k, ghost, std::find(selected.begin(), selected.end(), k) != selected.end());
        }
}

void PlatePicture::problems() const {
    const auto middle = [&](std::size_t k) { return scale.at(build.chassis.parts[k].x, build.chassis.parts[k].y); };
    p.setFont(theme::figures(Size::Small, true));
    for (const FitProblem& f : layout.fit) {
        const PlacedPart &a = build.chassis.parts[f.a], &b = build.chassis.parts[f.b];
        if (a.face != side.face) continue;
        const bool stop = f.kind == FitKind::Touching || f.kind == FitKind::OffTheFace;
        const QPen pen(theme::color(stop ? Role::Stop : Role::Ember), 2);
        for (const std::size_t k : {f.a, f.b})
            for (const std::size_t body : layout.assembly.of[k])
                if (build.chassis.parts[k].face == side.face) {
                    p.setPen(pen);
                    p.drawPolygon(outline(layout.assembly.bodies[body]));
                }
        if (f.a == f.b || b.face != side.face) continue;
        p.setPen(pen);
        p.drawLine(middle(f.a), middle(f.b));
        // Above both, so that the figure does not cover the part that it belongs to.
        QRectF both;
        for (const std::size_t k : {f.a, f.b})
            for (const std::size_t body : layout.assembly.of[k])
                both = both.united(outline(layout.assembly.bodies[body]).boundingRect());
        const QString words = f.gap > 0
                                  ? QString("%1 of %2 mm").arg(f.gap * 1e3, 0, 'f', 1).arg(f.wanted * 1e3, 0, 'f', 1)
                                  : QString("touch");
        p.drawText(QRectF(both.center().x() - 60, both.top() - 17, 120, 14), Qt::AlignCenter, words);
    }
}

void PlatePicture::overlay(const std::vector<Standing>& places) const {
    const Chassis so = withPlaces(build.chassis, places);
    const Assembly there = assemble(so);
    p.setBrush(Qt::NoBrush);
    p.setFont(theme::text(Size::Small));
    for (std::size_t k = 0; k < so.parts.size(); ++k) {
        if (so.parts[k].face != side.face) continue;
        p.setPen(QPen(theme::color(Role::Slate), 1.6, Qt::DotLine));
        QRectF whole;
        for (const std::size_t b : there.of[k]) {
            if (there.bodies[b].outside == side.fromBelow) continue;
            const QPolygonF shape = outline(there.bodies[b]);
            p.drawPolygon(shape);
            whole = whole.united(shape.boundingRect());
        }
        if (whole.isNull()) continue;
        p.setPen(theme::color(Role::Slate));
        p.drawText(whole.adjusted(-20, 0, 20, 0), Qt::AlignCenter, text(tagOf(so.parts[k])));
    }
}

void PlatePicture::measure(const QPointF& from, const QPointF& to) const {
    const QPointF a = scale.at(from.x(), from.y()), b = scale.at(to.x(), to.y());
    p.setPen(QPen(theme::color(Role::Brass), 1.4));
    p.drawLine(a, b);
    for (const QPointF& q : {a, b}) p.drawEllipse(q, 3, 3);
    const double mm = 1e3 * std::hypot(to.x() - from.x(), to.y() - from.y());
    p.setFont(theme::figures(Size::Text, true));
    p.drawText(QRectF((a + b) / 2 + QPointF(8, -18), QSizeF(220, 16)), Qt::AlignLeft,
               QString("%1 mm (%2, %3)")
                   .arg(mm, 0, 'f', 1)
                   .arg(1e3 * (to.x() - from.x()), 0, 'f', 1)
                   .arg(1e3 * (to.y() - from.y()), 0, 'f', 1));
}

} // namespace ember::app
