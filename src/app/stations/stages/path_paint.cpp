// How the path is painted: parts, valves with their volts, feedback, and what each stage does.
#include "path_picture.h"
#include "symbols.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/schematic/stages/stage_builder.h"

#include <QPainter>

#include <cmath>

namespace ember::app {

using namespace schematic;
using theme::Role;
using theme::Size;

namespace {

bool electrolytic(const PartValue& part) {
    const auto* c = std::get_if<CapacitorPart>(&part);
    return c && c->capacitance > 4e-6;
}

} // namespace

void PathPicture::paintTwoEnded(QPainter& p, const PartValue& value, const QPointF& a, const QPointF& b) const {
    if (std::holds_alternative<ResistorPart>(value) || std::holds_alternative<PotentiometerPart>(value))
        symbols::resistor(p, a, b, unit);
    else if (std::holds_alternative<CapacitorPart>(value))
        symbols::capacitor(p, a, b, unit, electrolytic(value));
    else if (std::holds_alternative<ChokePart>(value))
        symbols::inductor(p, a, b, unit);
    else if (std::holds_alternative<OutputTransformer>(value))
        symbols::transformer(p, a, b, unit);
    else if (std::holds_alternative<CurrentSourcePart>(value))
        symbols::currentSource(p, a, b, unit);
    else
        symbols::diode(p, a, b, unit, std::holds_alternative<ZenerPart>(value));
}

void PathPicture::paintPart(QPainter& p, const Placed& s, const Stage& of, const DrawnPart& part) const {
    const QPointF a = at(s, part.from), b = at(s, part.to), middle = (a + b) / 2;
    const PartValue& value = of.parts[part.part].part;
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    if (part.hasWiper && std::holds_alternative<PotentiometerPart>(value))
        symbols::potentiometer(p, a, b, at(s, part.wiper), unit);
    else
        paintTwoEnded(p, value, a, b);
    p.setFont(theme::text(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    const QString id = of.parts[part.part].slot == "load" ? QString("load") : tag(idOf(value));
    const QRectF field = fieldRect(s, part);
    const bool upright = std::abs(a.x() - b.x()) < 1;
    if (std::holds_alternative<OutputTransformer>(value))
        p.drawText(QRectF(middle.x() - 40, middle.y() - 1.2 * unit - 17, 80, 14), Qt::AlignCenter, id);
    else if (upright)
        p.drawText(field.translated(0, -14), (part.left ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter, id);
    else
        p.drawText(QRectF(middle.x() - 40, field.y() - 13, 80, 14), Qt::AlignCenter, id);
}

void PathPicture::paintValve(QPainter& p, const Placed& s, const Stage& of, const DrawnValve& v,
                             std::size_t index) const {
    const StageValve& use = of.valves[v.valve];
    const Valve* bottle = nullptr;
    for (const Valve& x : document.build().bottles)
        if (x.id == use.bottle) bottle = &x;
    const ValveType* type = bottle ? catalogueOf(document.build()).valve(bottle->type) : nullptr;
    const TypeSection* section = type ? &type->section(use.section) : nullptr;
    const plan::ValvePoint* point = pointOf(index, use.at);
    const QPointF c = at(s, {v.x, v.y});
    const double share =
        point && section && section->limits.plateWatts > 0 ? point->plateWatts() / section->limits.plateWatts : 0;
    const bool strapped = point && section && section->pentode && point->screen == point->plate;
    if (point)
        theme::halo(p, c, 1.5 * unit, theme::color(share > 1 ? Role::Stop : Role::Ember),
                    std::clamp(0.5 * share, 0.0, 0.6));
    p.setBrush(theme::color(Role::Soot));
    p.setPen(QPen(theme::color(Role::Bone), 1.6));
    symbols::valve(p, c, unit, section && section->pentode && !strapped);
    p.setBrush(Qt::NoBrush);
    // Name and type at the left above the envelope; volts at the pins; current and watts at the right below.
    p.setFont(theme::text(Size::Small, true));
    p.setPen(theme::color(Role::Bone));
    const QString number = type && type->sections() > 1 ? QString(" %1").arg(use.section) : QString();
    p.drawText(QRectF(c.x() - 0.3 * unit - 100, c.y() - 2.15 * unit, 100, 14), Qt::AlignRight,
               tag(use.bottle) + number);
    p.setFont(theme::text(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(QRectF(c.x() - 0.9 * unit - 100, c.y() - 2.15 * unit + 13, 100, 14), Qt::AlignRight,
               bottle ? text(bottle->type) : "no valve");
    if (!point) return;
    p.setFont(theme::figures(Size::Small));
    p.setPen(theme::color(document.solving() ? Role::BoneFaint : Role::Verdigris));
    const auto volts = [](double x) { return text(x, Unit::Volt); };
    p.drawText(QRectF(c.x() + 5, c.y() - 1.95 * unit - 14, 60, 13), Qt::AlignLeft, volts(point->plate));
    p.drawText(QRectF(c.x() - 1.35 * unit - 62, c.y() + 1, 62, 13), Qt::AlignRight, volts(point->grid));
    p.drawText(QRectF(c.x() + 0.75 * unit, c.y() + 0.85 * unit, 60, 13), Qt::AlignLeft, volts(point->cathode));
    if (std::isfinite(point->screen) && !strapped)
        p.drawText(QRectF(c.x() + 1.25 * unit, c.y() + 3, 60, 13), Qt::AlignLeft, volts(point->screen));
    p.setPen(theme::color(share > 1 ? Role::Stop : share > 0.95 ? Role::Ember : Role::BoneDim));
    p.drawText(QRectF(c.x() - 1.1 * unit - 110, c.y() + 12, 110, 13), Qt::AlignRight,
               text(point->plateAmps, Unit::Ampere));
    p.drawText(QRectF(c.x() - 1.0 * unit - 110, c.y() + 23, 110, 13), Qt::AlignRight,
               share > 0 ? QString("%1, %2 %").arg(text(point->plateWatts(), Unit::Watt, 2)).arg(100 * share, 0, 'f', 0)
                         : text(point->plateWatts(), Unit::Watt, 2)); // no watts are published for the type
}

void PathPicture::paintSymbol(QPainter& p, const Placed& s, const Stage& of, const DrawnSymbol& symbol) const {
    const QPointF c = at(s, {symbol.x, symbol.y});
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    p.setFont(theme::text(Size::Small));
    switch (symbol.symbol) {
    case Symbol::Ground: symbols::ground(p, c, unit); break;
    case Symbol::Joint:
        p.setBrush(theme::color(Role::Bone));
        p.drawEllipse(c, 2.4, 2.4);
        p.setBrush(Qt::NoBrush);
        break;
    case Symbol::Supply:
    case Symbol::ScreenSupply: {
        const int node = symbol.symbol == Symbol::Supply ? of.node : of.screensNode();
        p.setPen(QPen(theme::color(Role::Ember), 2));
        p.drawLine(c + QPointF(-0.6 * unit, 0), c + QPointF(0.6 * unit, 0));
        p.setPen(theme::color(Role::Ember));
        const auto& n = document.figures().nominal;
        const QString volts = n && node <= static_cast<int>(n->nodes.size())
                                  ? text(n->nodes[static_cast<std::size_t>(node - 1)].mean, Unit::Volt)
                                  : "";
        p.drawText(QRectF(c.x() - 60, c.y() - 30, 120, 13), Qt::AlignCenter, QString("B+%1").arg(node));
        p.setFont(theme::figures(Size::Small));
        p.drawText(QRectF(c.x() - 60, c.y() - 18, 120, 13), Qt::AlignCenter, volts);
        break;
    }
    case Symbol::Jack:
        p.drawEllipse(c, 0.3 * unit, 0.3 * unit);
        p.drawEllipse(c, 0.1 * unit, 0.1 * unit);
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(c.x() - 40, c.y() - 0.4 * unit - 16, 80, 14), Qt::AlignCenter,
                   text(symbol.words.empty() ? "in" : symbol.words));
        break;
    case Symbol::Output:
        p.drawEllipse(c, 0.22 * unit, 0.22 * unit);
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(c.x() + 0.4 * unit, c.y() - 8, 40, 16), Qt::AlignLeft | Qt::AlignVCenter, "out");
        break;
    case Symbol::Wiper:
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(c.x() - 40, c.y() + 1, 80, 13), Qt::AlignHCenter | Qt::AlignTop, text(symbol.words));
        break;
    }
}

/// From the stage that it leaves, over the picture, to the one that it comes back to.
void PathPicture::paintFeedback(QPainter& p) const {
    const Channel& ch = document.build().channels[shown];
    double lane = 0;
    for (std::size_t k = 0; k < ch.stages.size(); ++k) {
        if (dutyOf(ch.stages[k]) != Duty::Feedback) continue;
        const auto stageOf = [&](const std::string& point) -> int {
            for (std::size_t n = 0; n < ch.stages.size(); ++n)
                if (point.rfind(ch.stages[n].id + " ", 0) == 0) return static_cast<int>(n);
            return -1;
        };
        const int from = stageOf(ch.stages[k].from), to = stageOf(ch.stages[k].to);
        const double y = (1.3 + 1.1 * lane) * unit;
        lane += 1;
        p.setPen(QPen(theme::color(static_cast<int>(k) == chosen ? Role::Brass : Role::Slate), 1.6, Qt::DashLine));
        const auto x = [&](int stage, double share) {
            const Placed& s = stages[static_cast<std::size_t>(std::max(0, stage))];
            return (s.left + share * s.drawing.width) * unit;
        };
        const double right = from < 0 ? (stages.back().left + 2) * unit : x(from, 0.93),
                     left = to < 0 ? margin * unit : x(to, 0.62);
        p.drawLine(QPointF(right, y), QPointF(left, y));
        p.drawLine(QPointF(right, y), QPointF(right, y + 0.9 * unit));
        p.drawLine(QPointF(left, y), QPointF(left, y + 0.9 * unit));
        for (const double side : {-4.0, 4.0})
            p.drawLine(QPointF(left, y + 0.9 * unit), QPointF(left + side, y + 0.9 * unit - 7));
        p.setFont(theme::text(Size::Small));
        p.setPen(theme::color(Role::Slate));
        p.drawText(QRectF(right - 260, y + 3, 254, 14), Qt::AlignRight,
                   QString("feedback from %1 to %2").arg(text(ch.stages[k].from), text(ch.stages[k].to)));
        double fx = (margin + 2) * unit;
        for (const StagePart& part : ch.stages[k].parts) {
            p.drawText(QRectF(fx, 0.15 * unit + 1, 32, 14), Qt::AlignRight | Qt::AlignVCenter, tag(idOf(part.part)));
            fx += fieldWidth + 40;
        }
    }
}

/// What the stage does: its name, gain, and the volts that leave it when the channel clips.
void PathPicture::paintFoot(QPainter& p, const Placed& s, std::size_t index) const {
    if (s.drawing.width < 1) return;
    const Stage& of = document.build().channels[shown].stages[index];
    const StageKind* kind = stageKind(of.kind);
    const QRectF box(s.left * unit + 4, height() - looseHeight() - foot + 2, s.drawing.width * unit - 8, foot);
    const auto& f = document.figures();
    const plan::StageFigures x =
        shown < f.stages.size() && index < f.stages[shown].size() ? f.stages[shown][index] : plan::StageFigures{};
    QString name = QString("%1  %2").arg(text(of.id), kind ? text(std::string(kind->title)) : text(of.kind));
    if (std::isfinite(x.gain) && x.gain > 0) name += QString("  × %1").arg(text(x.gain, Unit::None));
    p.setFont(theme::text(Size::Small, static_cast<int>(index) == chosen));
    p.setPen(theme::color(static_cast<int>(index) == chosen ? Role::Brass : Role::BoneDim));
    p.drawText(QRectF(box.x(), box.y(), box.width(), 15), Qt::AlignHCenter,
               p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(box.width())));
    p.setFont(theme::figures(Size::Small));
    p.setPen(theme::color(document.solving() ? Role::BoneFaint : Role::BoneDim));
    if (std::isfinite(x.voltsAtClip))
        p.drawText(QRectF(box.x(), box.y() + 15, box.width(), 15), Qt::AlignHCenter,
                   QString("%1%2").arg(text(x.voltsAtClip, Unit::Volt), s.drawing.width > 6 ? " at clipping" : ""));
    const auto ohms = [](double value, const char* way) {
        return std::isfinite(value) ? QString("%1 %2").arg(text(value, Unit::Ohm, 2), way) : QString();
    };
    QStringList impedances{ohms(x.inputOhms, "in"), ohms(x.outputOhms, "out")};
    impedances.removeAll(QString());
    if (s.drawing.width < 5 && impedances.size() > 1) impedances.removeLast();
    p.drawText(QRectF(box.x(), box.y() + 30, box.width(), 15), Qt::AlignHCenter, impedances.join("; "));
}

QRectF PathPicture::looseRect(std::size_t which) const {
    const auto row = static_cast<double>(which / static_cast<std::size_t>(loosePerRow)),
               column = static_cast<double>(which % static_cast<std::size_t>(loosePerRow));
    return {margin * unit + column * looseWidth, height() - looseHeight() + row * looseLine, looseWidth, looseLine};
}

/// Where a net that is called by a valve's electrode is drawn.
std::optional<QPointF> PathPicture::electrodeAt(const std::string& net) const {
    const Build& b = document.build();
    const Channel& ch = b.channels[shown];
    for (std::size_t k = 0; k < stages.size() && k < ch.stages.size(); ++k)
        for (const DrawnValve& v : stages[k].drawing.valves) {
            const StageValve& use = ch.stages[k].valves[v.valve];
            const Valve* bottle = bottleOf(b, use.bottle);
            const ValveType* type = bottle ? catalogueOf(b).valve(bottle->type) : nullptr;
            const QPointF c = at(stages[k], {v.x, v.y});
            for (const auto& [electrode, off] : {std::pair{"plate", QPointF(0, -2.75)}, // above the volts
                                                 {"grid", QPointF(-1.45, 0)},
                                                 {"screen", QPointF(1.45, 0)},
                                                 {"cathode", QPointF(0, 1.45)}})
                if (net == electrodeNet(use.bottle, electrode, use.section, type ? type->sections() : 1))
                    return c + unit * off;
        }
    return std::nullopt;
}

/// Parts that no stage brings: below the path, each between the names of its nets, and marked where those are drawn.
void PathPicture::paintLoose(QPainter& p) const {
    for (std::size_t n = 0; n < loose.size(); ++n) {
        const LoosePart& part = document.build().loose[loose[n]];
        const QRectF box = looseRect(n);
        const QPointF middle = box.center(), a = middle - QPointF(1.6 * unit, 0), b = middle + QPointF(1.6 * unit, 0);
        p.setPen(QPen(theme::color(Role::Bone), 1.5));
        paintTwoEnded(p, part.part, a, b);
        p.setBrush(theme::color(Role::Soot));
        p.drawEllipse(a, 3, 3);
        p.drawEllipse(b, 3, 3);
        p.setBrush(Qt::NoBrush);
        p.setFont(theme::text(Size::Small));
        p.setPen(theme::color(Role::BoneDim));
        const double room = a.x() - box.x() - 8;
        const auto words = [&](const std::string& net) {
            return p.fontMetrics().elidedText(text(net), Qt::ElideRight, static_cast<int>(room));
        };
        p.drawText(QRectF(box.x(), a.y() - 8, room, 16), Qt::AlignRight | Qt::AlignVCenter, words(part.from));
        p.drawText(QRectF(b.x() + 8, b.y() - 8, room, 16), Qt::AlignLeft | Qt::AlignVCenter, words(part.to));
        const QString id = tag(idOf(part.part));
        p.drawText(QRectF(middle.x() - 40, middle.y() + 9, 80, 13), Qt::AlignCenter, id);
        p.setPen(QPen(theme::color(Role::Brass), 1.2));
        for (const std::string* net : {&part.from, &part.to})
            if (const auto at = electrodeAt(*net)) {
                p.drawEllipse(*at, 3.5, 3.5);
                p.drawText(QRectF(at->x() - 66, at->y() - 7, 60, 13), Qt::AlignRight, id);
            }
    }
}

void PathPicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Soot));
    const Build& b = document.build();
    if (shown >= b.channels.size()) return;
    const Channel& ch = b.channels[shown];
    if (chosen >= 0 && chosen < static_cast<int>(stages.size())) {
        QColor glow = theme::color(Role::AshRaised);
        p.fillRect(stageRect(chosen), glow);
    }
    for (std::size_t k = 0; k < stages.size() && k < ch.stages.size(); ++k) {
        const Placed& s = stages[k];
        p.setPen(QPen(theme::color(Role::Line), 1, Qt::DotLine));
        if (k > 0 && s.drawing.width > 1)
            p.drawLine(QPointF(s.left * unit, unit), QPointF(s.left * unit, height() - 4));
        p.setPen(QPen(theme::color(Role::Bone), 1.5));
        for (const auto& wire : s.drawing.wires)
            for (std::size_t n = 1; n < wire.size(); ++n) p.drawLine(at(s, wire[n - 1]), at(s, wire[n]));
        for (const DrawnPart& part : s.drawing.parts) paintPart(p, s, ch.stages[k], part);
        for (const DrawnSymbol& symbol : s.drawing.symbols) paintSymbol(p, s, ch.stages[k], symbol);
        for (const DrawnValve& v : s.drawing.valves) paintValve(p, s, ch.stages[k], v, k);
        paintFoot(p, s, k);
    }
    if (!stages.empty()) paintFeedback(p);
    paintLoose(p);
}

} // namespace ember::app
