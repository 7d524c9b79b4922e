#include "ember_line.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/procedure/bias.h"
#include "core/schematic/channel_parts.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

EmberLine::EmberLine(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("emberLine");
    setAttribute(Qt::WA_OpaquePaintEvent);
    setFixedHeight(88);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName("The amplifier from the wall to the speaker");
    for (auto signal :
         {&Document::figuresChanged, &Document::logChanged, &Document::buildChanged, &Document::momentChanged})
        connect(&document, signal, &renewal, QOverload<>::of(&Timer::start));
    // After the station has drawn, in a turn of its own: the interface answers in between.
    renewal.setSingleShot(true);
    renewal.setInterval(8);
    connect(&renewal, &Timer::timeout, this, &EmberLine::refresh);
    refresh();
}

QString EmberLine::lastRead(const std::string& point, const plan::Conditions& shown) const {
    const auto& log = document.build().log;
    for (auto e = log.rbegin(); e != log.rend(); ++e) {
        if (e->kind != "reading" || e->point != point || e->struck || e->stage < 1 ||
            procedure::strandOf(*e) != document.strand())
            continue;
        // Only what was read with the amplifier as it is predicted here: the same valves in, with or without the lamp.
        const plan::Conditions c = procedure::stageConditions(document.build(), e->stage, shown.mainsVolts);
        if (c == shown) return text(e->value, procedure::unitOf(*e));
    }
    return "not read";
}

void EmberLine::refresh() {
    const Build& b = document.build(); // its log; what is predicted is of the build that was solved
    // The stage that is looked at, or the plan; what glows is alive there, or at the present stage of the work.
    const auto& moment = document.moment();
    const auto& n = moment ? moment : document.figures().nominal;
    const plan::Conditions shown = n ? n->conditions : plan::Conditions{};
    const int stage = procedure::currentStage(b, document.strand());
    const plan::Conditions c = moment ? moment->conditions : procedure::stageConditions(b, stage, b.mains.volts);
    const bool power = moment || stage >= 1;
    elements.clear();
    const auto add = [&](const QString& name, const QString& predicted, const QString& measured, bool alive,
                         const char* station) {
        elements.push_back({name, predicted, measured, station, alive});
    };
    add("wall", text(c.mainsVolts, Unit::Volt), "", power, "supply");
    add("fuse " + QString::fromStdString(formatExact(b.fuse.amps, Unit::Ampere)),
        n ? text(n->primaryRms, Unit::Ampere) : "-", "", power, "supply");
    add("limiter",
        power && c.limiter ? (moment ? text(moment->lamp.volts, Unit::Volt) : text(b.limiter.watts, Unit::Watt))
                           : "out",
        "", power && c.limiter, "first-power");
    add("transformer", n ? "2 x " + text(n->legVolts, Unit::Volt) : "-", lastRead("leg", shown), power, "supply");
    add("rectifier", n ? text(n->rectifierPeak, Unit::Ampere) + " pk" : "-", "", power && c.rectifierIn, "supply");
    for (std::size_t k = 0; n && k < n->nodes.size(); ++k)
        add(QString("B+%1").arg(k + 1), text(n->nodes[k].mean, Unit::Volt),
            lastRead("B+" + std::to_string(k + 1), shown), power && c.rectifierIn, "supply");
    addPath(n ? &*n : nullptr, shown, power && c.outputsIn, power && c.smallIn, moment.has_value());
    QString spoken;
    for (const Element& e : elements)
        spoken += e.name + " " + e.predicted + (e.measured.isEmpty() ? "" : ", " + e.measured) + "; ";
    setAccessibleDescription(spoken);
    update();
}

/// The first channel's end: its output valves, or the last of its small ones, and what they work into.
void EmberLine::addPath(const plan::Steady* n, const plan::Conditions& shown, bool outputsAlive, bool smallAlive,
                        bool atMoment) {
    const Build& b = document.build();
    const auto& solved = document.solved();
    if (b.channels.empty()) return;
    const auto places = procedure::biasPlaces(b, catalogueOf(b));
    const bool output = schematic::outputStage(b.channels[0]) != nullptr;
    double amps = 0;
    int valves = 0;
    if (n && !n->channels.empty())
        for (const plan::ValvePoint& v : n->channels[0].valves)
            if (!output || v.duty == schematic::Duty::Output) amps += v.plateAmps, ++valves;
    const QString drawn =
        valves == 0 ? QString("-") : QString("%1 x %2").arg(valves).arg(text(amps / valves, Unit::Ampere));
    if (output)
        elements.push_back({valves > 2    ? "output valves"
                            : valves == 1 ? "output valve"
                                          : "output pair",
                            drawn, places.empty() ? "not read" : lastRead(places[0].point, shown), "bias",
                            outputsAlive});
    else if (valves > 0)
        elements.push_back({"valves", drawn, "", "first-power", smallAlive});
    QString measured = "not read";
    for (const LogEntry& e : b.log)
        if (e.kind == "measure" && !e.struck && e.text.find(" into ") != std::string::npos) // a power, not a response
            measured = QString::fromStdString(e.text).section(": ", 1).section(" into", 0, 0);
    const auto& power = solved.figures.power;
    if (power.empty() || !(power[0].load > 0)) {
        elements.push_back({"output", "-", measured, "measure", outputsAlive || (!output && smallAlive)});
        return;
    }
    const plan::PowerFigures& p = power[0];
    elements.push_back({(p.line() ? "into " : "load ") + QString::fromStdString(formatExact(p.load, Unit::Ohm)),
                        atMoment   ? "-"
                        : p.line() ? text(p.clipOutput, Unit::Volt)
                                   : text(p.clipWatts, Unit::Watt),
                        measured, "measure", output ? outputsAlive : smallAlive});
}

double EmberLine::x(std::size_t k) const {
    return 46 + (width() - 100.0) * static_cast<double>(k) /
                    static_cast<double>(std::max<std::size_t>(1, elements.size() - 1));
}

void EmberLine::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Ash));
    const double y = 32;
    for (std::size_t k = 0; k + 1 < elements.size(); ++k) {
        p.setPen(QPen(theme::color(elements[k].alive && elements[k + 1].alive ? Role::Ember : Role::Line), 2.4));
        p.drawLine(QPointF(x(k), y), QPointF(x(k + 1), y));
    }
    const double w = (width() - 100.0) / static_cast<double>(std::max<std::size_t>(1, elements.size() - 1));
    const bool old = document.solving();
    for (std::size_t k = 0; k < elements.size(); ++k) {
        const Element& e = elements[k];
        const QPointF at(x(k), y);
        if (e.alive) theme::halo(p, at, 17, theme::color(Role::Ember), 0.5);
        p.setPen(QPen(theme::color(e.alive ? Role::Ember : Role::BoneFaint), 1.8));
        p.setBrush(theme::color(e.alive ? Role::Ember : Role::Ash));
        p.drawEllipse(at, 4.5, 4.5);
        if (hasFocus() && k == focus) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(theme::color(Role::Brass), 1.4));
            p.drawEllipse(at, 9, 9);
        }
        const QRectF box(at.x() - w / 2 - 4, 0, w + 8, 20);
        p.setFont(theme::text(Size::Small));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(box.translated(0, 5), Qt::AlignCenter, e.name);
        p.setFont(theme::figures(static_cast<Size>(14)));
        p.setPen(theme::color(old ? Role::BoneFaint : e.alive ? Role::Bone : Role::BoneDim));
        p.drawText(box.translated(0, 43), Qt::AlignCenter, e.predicted);
        p.setFont(theme::figures(Size::Small));
        p.setPen(theme::color(e.measured == "not read" ? Role::BoneFaint : Role::Slate));
        p.drawText(box.translated(0, 62), Qt::AlignCenter, e.measured);
    }
    p.setPen(theme::color(Role::Line));
    p.drawLine(0, height() - 1, width(), height() - 1);
}

void EmberLine::mousePressEvent(QMouseEvent* e) {
    for (std::size_t k = 0; k < elements.size(); ++k)
        if (std::abs(e->position().x() - x(k)) < 30) return Q_EMIT chosen(elements[k].station);
}

void EmberLine::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Right)
        focus = std::min(focus + 1, elements.size() - 1);
    else if (e->key() == Qt::Key_Left && focus > 0)
        --focus;
    else if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Space) && focus < elements.size())
        Q_EMIT chosen(elements[focus].station);
    else
        return QWidget::keyPressEvent(e);
    update();
}

} // namespace ember::app
