#include "end_card.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/catalogue/bases.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::app {

using theme::Role;
using theme::Size;

EndCard::EndCard(bool isRed, QWidget* parent) : QWidget(parent), red(isRed) {
    setObjectName(red ? "redEnd" : "blackEnd");
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
}

void EndCard::clear() {
    any = false;
    said.clear();
    setAccessibleName(said);
    update();
}

namespace {

const BaseForm* baseOf(const Catalogue& catalogue, const std::string& type) {
    std::string name;
    if (const ValveType* v = catalogue.valve(type))
        name = v->base;
    else if (const RectifierType* r = catalogue.rectifier(type))
        name = r->base;
    const auto at = std::find_if(baseForms.begin(), baseForms.end(), [&](const BaseForm& b) { return b.name == name; });
    return at == baseForms.end() ? nullptr : &*at;
}

QPointF onCircle(const QPointF& centre, double radius, double clockwiseFromDown) {
    return centre + radius * QPointF(-std::sin(clockwiseFromDown), std::cos(clockwiseFromDown));
}

} // namespace

void EndCard::show(const schematic::WholeAmplifier& whole, const Catalogue& catalogue, const procedure::LeadEnd& end,
                   const Lie& lie) {
    any = true;
    fromBelow = lie.fromBelow;
    said = (red ? "Red: " : "Black: ") + text(procedure::spokenEnd(whole, end));
    setAccessibleName(said);
    pins = places = 0;
    lit = -1;
    tags.clear();
    metal = end.metal;
    if (end.pin.part.index >= 0) {
        const schematic::Part& p = whole.schematic[end.pin.part];
        const schematic::Pin& pin = p.pins[static_cast<std::size_t>(end.pin.pin)];
        part = tag(p.id);
        const int number = pin.number > 0 ? pin.number : pin.stands;
        const auto* bottle = std::get_if<schematic::Bottle>(&p.element);
        if (const BaseForm* base = bottle ? baseOf(catalogue, bottle->type) : nullptr; base && number > 0) {
            pins = base->pins;
            places = base->places;
            lit = number;
            turned = 0;
            if (lie.pinOne) turned = std::atan2(-lie.pinOne->x(), lie.pinOne->y()) - wayOf(1);
        } else {
            for (const schematic::Pin& each : p.pins) tags << text(each.name == "-" ? "−" : each.name);
            lit = end.pin.pin;
        }
    }
    update();
}

/// Pins are numbered clockwise from the gap or key, seen from below.
double EndCard::wayOf(int number) const {
    const double step = 2 * std::numbers::pi / places, way = (number - (places == pins ? 0.5 : 0)) * step;
    return turned + (fromBelow ? way : -way);
}

/// A clip's jaws round what they hold.
void EndCard::mark(QPainter& p, const QPointF& at) const {
    const QColor colour = theme::color(red ? Role::Ember : Role::Bone);
    theme::halo(p, at, 20, colour, 0.5);
    p.setPen(QPen(colour, 3));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 8, 8);
}

void EndCard::paintSocket(QPainter& p, const QRectF& room) const {
    const QPointF centre = room.center();
    const double outer = std::min(room.width(), room.height()) / 2 - 4, circle = outer - 17;
    p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
    p.setBrush(theme::color(Role::Soot));
    p.drawEllipse(centre, circle + 6, circle + 6);
    p.setBrush(Qt::NoBrush);
    if (places == pins) { // the key of the spigot
        const double spigot = 0.3 * circle;
        p.drawEllipse(centre, spigot, spigot);
        p.setPen(QPen(theme::color(Role::BoneDim), 3));
        p.drawLine(onCircle(centre, spigot, turned), onCircle(centre, spigot + 5, turned));
    }
    p.setFont(theme::figures(Size::Small));
    for (int number = 1; number <= pins; ++number) {
        const double way = wayOf(number);
        const QPointF at = onCircle(centre, circle, way), beside = onCircle(centre, circle + 15, way);
        const bool here = number == lit;
        if (here) mark(p, at);
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(here ? red ? Role::Ember : Role::Bone : Role::BoneDim));
        p.drawEllipse(at, 3.5, 3.5);
        p.setBrush(Qt::NoBrush);
        p.setFont(theme::figures(here ? Size::Text : Size::Small, here));
        p.setPen(theme::color(here ? Role::Bone : Role::BoneDim));
        p.drawText(QRectF(beside - QPointF(12, 9), QSizeF(24, 18)), Qt::AlignCenter, QString::number(number));
    }
    if (lit != topCap) return;
    mark(p, centre);
    p.setPen(theme::color(Role::Bone));
    p.drawText(QRectF(centre - QPointF(60, -10), QSizeF(120, 18)), Qt::AlignCenter, "cap on the glass");
}

void EndCard::paintTags(QPainter& p, const QRectF& room) const {
    const auto count = static_cast<int>(tags.size());
    const int rows = std::max(1, (count + 1) / 2), fit = std::max(1, static_cast<int>(room.height() / 17)),
              shown = std::min(rows, fit), row = lit % rows, first = std::clamp(row - shown / 2, 0, rows - shown);
    const double high = std::min(44.0, room.height() / shown), body = 44;
    const QRectF box(room.center().x() - body / 2, room.center().y() - high * shown / 2, body, high * shown);
    p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
    p.setBrush(theme::color(Role::AshRaised));
    p.drawRoundedRect(box, 3, 3);
    p.setBrush(Qt::NoBrush);
    for (int k = 0; k < count; ++k) {
        const bool left = k < rows, here = k == lit;
        const int at = k % rows;
        if (at < first || at >= first + shown) continue;
        const QPointF pin(left ? box.left() : box.right(), box.top() + (at - first + 0.5) * high);
        if (here) mark(p, pin);
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(here ? red ? Role::Ember : Role::Bone : Role::BoneDim));
        p.drawEllipse(pin, 3.5, 3.5);
        p.setBrush(Qt::NoBrush);
        p.setPen(theme::color(here ? Role::Bone : Role::BoneDim));
        p.setFont(theme::text(here ? Size::Text : Size::Small, here));
        const QRectF words(left ? room.left() : pin.x() + 13, pin.y() - 9,
                           left ? pin.x() - 13 - room.left() : room.right() - pin.x() - 13, 18);
        p.drawText(words, Qt::AlignVCenter | (left ? Qt::AlignRight : Qt::AlignLeft),
                   p.fontMetrics().elidedText(tags[k], Qt::ElideRight, static_cast<int>(words.width())));
    }
}

void EndCard::paintMetal(QPainter& p, const QRectF& room) const {
    const QPointF at = room.center();
    p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
    p.setBrush(theme::color(Role::AshRaised));
    p.drawRoundedRect(QRectF(at - QPointF(46, 26), QSizeF(92, 52)), 4, 4);
    p.setBrush(Qt::NoBrush);
    mark(p, at);
    p.drawLine(at, at + QPointF(0, 14));
    for (int k = 0; k < 3; ++k) p.drawLine(at + QPointF(-12 + 4 * k, 14 + 4 * k), at + QPointF(12 - 4 * k, 14 + 4 * k));
}

void EndCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Ash));
    if (!any) return;
    // Which lead, and under it where it goes.
    p.setPen(theme::color(red ? Role::Ember : Role::Bone));
    const QRectF whole = QRectF(rect()).adjusted(6, 4, -6, -4);
    const auto colon = said.indexOf(": ");
    p.setFont(theme::text(Size::Small, true));
    p.drawText(QRectF(whole.topLeft(), QSizeF(whole.width(), 14)), Qt::AlignCenter, said.left(colon));
    const QString where = said.mid(colon + 2);
    p.setFont(theme::text(Size::Text, true));
    if (p.fontMetrics().horizontalAdvance(where) > whole.width()) p.setFont(theme::text(Size::Small, true));
    p.drawText(QRectF(whole.left(), whole.top() + 14, whole.width(), 18), Qt::AlignCenter,
               p.fontMetrics().elidedText(where, Qt::ElideRight, static_cast<int>(whole.width())));
    const QRectF room = whole.adjusted(0, 34, 0, pins > 0 ? -14 : 0);
    if (metal) return paintMetal(p, room);
    if (lit < 0) return;
    if (pins == 0) return paintTags(p, room);
    paintSocket(p, room);
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::text(Size::Small));
    p.drawText(QRectF(whole.left(), whole.bottom() - 14, whole.width(), 14), Qt::AlignCenter,
               part + (fromBelow ? " from below" : " from above"));
}

} // namespace ember::app
