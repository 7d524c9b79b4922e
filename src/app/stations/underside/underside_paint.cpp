#include "underside_paint.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/chassis/pins.h"
#include "core/wires/hum.h"
#include "core/wires/terminals.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr double pinDot = 1.1e-3;    ///< [m] radius of a pin or tag
constexpr double numbersFrom = 2.2;  ///< [pixel/mm] at which a pin's number can stand beside it
constexpr double boardNamesFrom = 3; ///< [pixel/mm] at which a part on a board has room for its name

} // namespace

UndersidePaint::UndersidePaint(QPainter& painter, const Document::Solved& of, const PlateScale& to, bool isLower)
    : p(painter),
      solved(of),
      scale(to),
      lower(isLower) {}

bool UndersidePaint::here(std::size_t k) const {
    return isLower(solved.build.chassis.parts[k].face) == lower;
}

QRectF UndersidePaint::outline(std::size_t k, bool paint) const {
    const chassis::Assembly& assembly = solved.figures.layout->assembly;
    const bool below = chassis::wiredFromBelow(solved.build.chassis);
    QRectF whole;
    for (const std::size_t b : assembly.of[k]) {
        const chassis::PlacedBody& body = assembly.bodies[b];
        if (below && body.outside) continue;
        const auto edge = [&](const chassis::Vector& way) { return body.solid.support(way); };
        const QRectF r = QRectF(scale.at(edge(-chassis::Vector::UnitX()).x(), edge(-chassis::Vector::UnitY()).y()),
                                scale.at(edge(chassis::Vector::UnitX()).x(), edge(chassis::Vector::UnitY()).y()))
                             .normalized();
        whole = whole.united(r);
        if (!paint) continue;
        if (body.solid.cylinder && std::abs(body.solid.axes.col(2).z()) > 0.9)
            p.drawEllipse(r);
        else
            p.drawRect(r);
    }
    return whole;
}

void UndersidePaint::parts() const {
    p.setPen(QPen(theme::color(Role::BoneFaint), 1));
    p.setBrush(theme::color(Role::Ash));
    for (std::size_t k = 0; k < solved.build.chassis.parts.size(); ++k)
        if (here(k)) (void)outline(k, true);
    p.setBrush(Qt::NoBrush);
    boards();
}

/// What stands on the boards that are laid out: each between its lugs, with its name where there is room.
void UndersidePaint::boards() const {
    const Chassis& c = solved.build.chassis;
    for (const Board& board : solved.build.wiring.boards) {
        const auto on =
            std::find_if(c.parts.begin(), c.parts.end(), [&](const PlacedPart& x) { return x.id == board.on; });
        if (board.on.empty() || on == c.parts.end() || isLower(on->face) != lower) continue;
        const auto lug = [&](int number) {
            const wires::Vector at = wires::lugAt(c, *on, board, number);
            return scale.at(at.x(), at.y());
        };
        for (const BoardPart& part : board.parts) {
            if (part.from < 1 || part.to < 1 || part.from > board.lugs() || part.to > board.lugs()) continue;
            const QLineF lead(lug(part.from), lug(part.to));
            p.setPen(QPen(theme::color(Role::BoneDim), 1));
            p.drawLine(lead);
            if (part.part.empty() || lead.length() < 4) continue;
            const double body = std::max(4.0, scale.length(4e-3));
            p.save();
            p.translate(lead.center());
            p.rotate(-lead.angle());
            const QRectF box(-0.32 * lead.length(), -body / 2, 0.64 * lead.length(), body);
            p.setBrush(theme::color(Role::AshRaised));
            p.drawRect(box);
            p.setBrush(Qt::NoBrush);
            p.restore();
            if (scale.scale < boardNamesFrom) continue;
            p.setFont(theme::figures(Size::Small));
            p.setPen(theme::color(Role::Bone));
            p.drawText(QRectF(lead.center() - QPointF(30, 8), QSizeF(60, 16)), Qt::AlignCenter, tag(part.part));
        }
    }
}

void UndersidePaint::socket(const PlacedPart& part) const {
    const chassis::Base base = chassis::baseOf(part);
    const wires::Vector middle = chassis::toChassis(chassis::frameOf(solved.build.chassis, part), 0, 0, 0);
    const QPointF centre = scale.at(middle.x(), middle.y());
    const bool numbers = scale.scale >= numbersFrom;
    p.setFont(theme::figures(Size::Small));
    for (int number = 1; number <= base.pins; ++number) {
        const wires::Vector v = wires::socketPinAt(solved.build.chassis, part, number);
        const QPointF at = scale.at(v.x(), v.y()), way = at - centre;
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(numbers ? Role::Bone : Role::BoneDim));
        const double dot = std::max(1.2, scale.length(pinDot));
        p.drawEllipse(at, dot, dot);
        p.setBrush(Qt::NoBrush);
        if (!numbers) continue;
        const double length = std::hypot(way.x(), way.y());
        const QPointF in = centre + way * std::max(0.0, 1 - (dot + 8) / std::max(1.0, length)); // inside the circle
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(in - QPointF(8, 7), QSizeF(16, 14)), Qt::AlignCenter, QString::number(number));
    }
}

void UndersidePaint::ends() const {
    const Chassis& c = solved.build.chassis;
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        if (here(k) && c.parts[k].kind == "socket") socket(c.parts[k]);
    p.setPen(Qt::NoPen);
    p.setBrush(theme::color(Role::BoneDim));
    const double dot = std::max(1.2, scale.length(pinDot));
    for (const wires::Terminal& t : solved.figures.wires->harness.terminals.list)
        if (here(t.spot) && c.parts[t.spot].kind != "socket") p.drawEllipse(scale.at(t.at.x(), t.at.y()), dot, dot);
    p.setBrush(Qt::NoBrush);
}

/// On a plate of their own, so that they are read over wires and bodies.
void UndersidePaint::names() const {
    const Chassis& c = solved.build.chassis;
    p.setFont(theme::text(Size::Small));
    const QFontMetricsF metrics(p.font());
    std::vector<QRectF> taken;
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        if (!here(k)) continue;
        const QRectF whole = outline(k, false);
        if (whole.isNull()) continue;
        const QString name = text(chassis::tagOf(c.parts[k]));
        const double wide = metrics.horizontalAdvance(name) + 4;
        const bool beside = c.parts[k].kind == "socket" || wide > whole.width();
        const QRectF box(whole.center().x() - wide / 2, beside ? whole.bottom() + 1 : whole.center().y() - 7, wide, 14);
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken.push_back(box);
        QColor plate = theme::color(Role::Soot);
        plate.setAlphaF(0.75F);
        p.fillRect(box, plate);
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(box, Qt::AlignCenter, name);
    }
}

} // namespace ember::app
