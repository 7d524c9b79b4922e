// How the path is painted: wires, bodies, the volts of the moment, and what each stage does.
#include "path_picture.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/report/circuit_part.h"
#include "core/schematic/stages/stage_kind.h"

#include <QPainter>
#include <QPainterPath>

#include <cmath>

namespace ember::app {

using namespace schematic;
using drawing::Ink;
using theme::Role;
using theme::Size;

namespace {

Role roleOf(Ink ink) {
    switch (ink) {
    case Ink::Part:
    case Ink::Wire: return Role::Bone;
    case Ink::Supply: return Role::Ember;
    case Ink::Name:
    case Ink::Value: return Role::BoneDim;
    case Ink::Volts: return Role::Verdigris;
    }
    return Role::Bone;
}

QFont scaled(QFont font, double by) {
    font.setPixelSize(std::max(1, static_cast<int>(std::lround(font.pixelSize() * by))));
    return font;
}

} // namespace

double PathPicture::plateShare(const drawing::Body& body) const {
    const ValveUse* use = subject->valveOf(body);
    const plan::ValvePoint* point = use ? pointOf(*use) : nullptr;
    const ValveType* type =
        use ? catalogueOf(document.build()).valve(document.build().bottles[use->bottle].type) : nullptr;
    const TypeSection* section = type ? &type->section(use->section) : nullptr;
    return point && section && section->limits.plateWatts > 0 ? point->plateWatts() / section->limits.plateWatts : 0;
}

void PathPicture::paintBodies(QPainter& p) const {
    for (const drawing::Body& b : paper.bodies)
        if (subject->valveOf(b)) {
            const double share = plateShare(b);
            const QPointF centre = at(b.box).center();
            if (share > 0)
                theme::halo(p, centre, 1.1 * unit * b.box.width / 2, theme::color(share > 1 ? Role::Stop : Role::Ember),
                            std::clamp(0.5 * share, 0.0, 0.6));
            p.setBrush(theme::color(Role::Soot));
            p.setPen(Qt::NoPen);
            p.drawEllipse(centre, unit * b.box.width / 2, unit * b.box.width / 2);
            p.setBrush(Qt::NoBrush);
        }
    for (const drawing::Line& l : paper.lines) {
        QPainterPath path(at(l.points.front()));
        for (std::size_t k = 1; k < l.points.size(); ++k) path.lineTo(at(l.points[k]));
        if (l.closed) path.closeSubpath();
        if (l.filled) p.fillPath(path, theme::color(Role::Soot));
        p.strokePath(path, QPen(theme::color(roleOf(l.ink)), std::max(1.2, l.width * unit)));
    }
    p.setBrush(Qt::NoBrush);
    for (const drawing::Ring& r : paper.rings) {
        p.setPen(QPen(theme::color(roleOf(r.ink)), std::max(1.2, 0.35 * unit)));
        p.drawEllipse(at(r.centre), r.radius * unit, r.radius * unit);
    }
}

void PathPicture::paintWires(QPainter& p) const {
    p.setPen(QPen(theme::color(Role::Bone), std::max(1.0, 0.3 * unit), Qt::SolidLine, Qt::SquareCap, Qt::MiterJoin));
    for (const drawing::Wire& w : paper.wires)
        for (std::size_t k = 1; k < w.points.size(); ++k) p.drawLine(at(w.points[k - 1]), at(w.points[k]));
    p.setPen(Qt::NoPen);
    p.setBrush(theme::color(Role::Bone));
    for (const drawing::Point& dot : paper.dots) p.drawEllipse(at(dot), 0.6 * unit, 0.6 * unit);
    p.setBrush(Qt::NoBrush);
}

void PathPicture::paintNote(QPainter& p, const drawing::Word& w) const {
    const drawing::Body& body = paper.bodies[static_cast<std::size_t>(w.body)];
    const ValveUse* use = subject->valveOf(body);
    const plan::ValvePoint* point = use ? pointOf(*use) : nullptr;
    if (!point) return;
    const double share = plateShare(body);
    p.setPen(theme::color(share > 1 ? Role::Stop : share > 0.95 ? Role::Ember : Role::BoneDim));
    const QString watts = text(point->plateWatts(), Unit::Watt, 2);
    const QString says = w.note == 0 ? text(point->plateAmps, Unit::Ampere)
                         : share > 0 ? QString("%1, %2 %").arg(watts).arg(100 * share, 0, 'f', 0)
                                     : watts; // no watts are published for the type
    p.drawText(at(w.box), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextDontClip, says);
}

void PathPicture::paintWords(QPainter& p) const {
    const double size = unit / writing;
    const QFont plain = scaled(theme::text(Size::Small), size), bold = scaled(theme::text(Size::Small, true), size),
                figures = scaled(theme::figures(Size::Small), size);
    const auto& nominal = document.figures().nominal;
    std::map<int, double> volts;
    if (nominal) volts = report::voltsByNet(*subject, *nominal, [this](const ValveUse& use) { return pointOf(use); });
    for (const drawing::Word& w : paper.words) {
        const auto align = (w.align == drawing::Align::Left    ? Qt::AlignLeft
                            : w.align == drawing::Align::Right ? Qt::AlignRight
                                                               : Qt::AlignHCenter) |
                           Qt::AlignVCenter | Qt::TextDontClip;
        const drawing::Body* body = w.body >= 0 ? &paper.bodies[static_cast<std::size_t>(w.body)] : nullptr;
        p.setFont(figures);
        if (w.note >= 0) {
            paintNote(p, w);
        } else if (w.net >= 0) {
            const auto v = volts.find(w.net);
            if (v == volts.end()) continue;
            p.setPen(theme::color(document.solving() ? Role::BoneFaint : Role::Verdigris));
            p.drawText(at(w.box), align, text(report::voltsText(v->second)));
        } else if (w.ink == Ink::Value && body && body->value.width > 0) {
            if (writable()) continue; // its entry field stands there
            p.setPen(theme::color(Role::Bone));
            p.drawText(at(body->value), align,
                       text(drawing::valueOf(document.build(), subject->schematic[body->part])));
        } else {
            const bool valve = body && subject->valveOf(*body);
            p.setFont(valve && w.ink == Ink::Name ? bold : plain);
            p.setPen(theme::color(valve && w.ink == Ink::Name ? Role::Bone : roleOf(w.ink)));
            p.drawText(at(w.box), align, text(w.text));
        }
    }
}

QString PathPicture::footName(std::size_t index) const {
    const Stage& of = document.build().channels[shown].stages[index];
    const StageKind* kind = stageKind(of.kind);
    return QString("%1  %2  × 0.0000").arg(text(of.id), kind ? text(std::string(kind->title)) : text(of.kind));
}

QString PathPicture::footOhms(std::size_t index) const {
    const auto& f = document.figures();
    const plan::StageFigures x =
        shown < f.stages.size() && index < f.stages[shown].size() ? f.stages[shown][index] : plan::StageFigures{};
    const auto ohms = [](double value, const char* way) {
        return std::isfinite(value) ? QString("%1 %2").arg(value < 1e-3 ? "0 Ω" : text(value, Unit::Ohm, 2), way)
                                    : QString();
    };
    QStringList impedances{ohms(x.inputOhms, "in"), ohms(x.outputOhms, "out")};
    impedances.removeAll(QString());
    return impedances.join("; ");
}

void PathPicture::paintStrip(QPainter& p) const {
    for (std::size_t k = 0; k < stages.size(); ++k) paintFoot(p, k);
}

void PathPicture::paintFoot(QPainter& p, std::size_t index) const {
    const QRectF& strip = stages[index];
    if (strip.isEmpty() || strip.top() > 0) return;
    const Stage& of = document.build().channels[shown].stages[index];
    const StageKind* kind = stageKind(of.kind);
    const QRectF box(strip.left() * unit + 3, 0, strip.width() * unit - 6, foot);
    const auto& f = document.figures();
    const plan::StageFigures x =
        shown < f.stages.size() && index < f.stages[shown].size() ? f.stages[shown][index] : plan::StageFigures{};
    QString name = QString("%1  %2").arg(text(of.id), kind ? text(std::string(kind->title)) : text(of.kind));
    if (std::isfinite(x.gain) && x.gain > 0) name += QString("  × %1").arg(text(x.gain, Unit::None));
    const bool own = static_cast<int>(index) == chosen;
    const auto line = [&](int k, const QString& words) {
        p.drawText(QRectF(box.x(), box.y() + 15 * k, box.width(), 15), Qt::AlignLeft,
                   p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(box.width())));
    };
    p.setFont(theme::text(Size::Small, own));
    p.setPen(theme::color(own ? Role::Brass : Role::BoneDim));
    line(0, name);
    p.setFont(theme::figures(Size::Small));
    p.setPen(theme::color(document.solving() ? Role::BoneFaint : Role::BoneDim));
    if (std::isfinite(x.voltsAtClip)) line(1, text(x.voltsAtClip, Unit::Volt) + " at clipping");
    line(2, footOhms(index));
}

void PathPicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Soot));
    if (!subject) return;
    if (chosen >= 0 && chosen < static_cast<int>(stages.size()))
        p.fillRect(stageRect(chosen), theme::color(Role::AshRaised));
    p.setPen(QPen(theme::color(Role::Line), 1, Qt::DotLine));
    for (std::size_t k = 1; k < stages.size(); ++k)
        if (!stages[k].isEmpty() && stages[k].top() <= 0)
            p.drawLine(QPointF(stages[k].left() * unit, 4), QPointF(stages[k].left() * unit, height() - 4));
    paintWires(p);
    paintBodies(p);
    paintWords(p);
}

} // namespace ember::app
