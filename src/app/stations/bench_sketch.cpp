#include "bench_sketch.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include "core/bench/connecting.h"
#include "core/plan/switch_on_volts.h"
#include "core/schematic/stages/stage_kind.h"

#include <QPainter>
#include <QVBoxLayout>

#include <algorithm>

namespace ember::app {

using theme::Role;
using theme::Size;

BenchWiring wiringOf(const Document& d, Document::Bench bench, std::size_t channel, std::optional<bench::TakeKind> take,
                     const bench::Setup& setup, const std::optional<bench::SeriesRequest>& series) {
    using enum bench::SeriesKind;
    BenchWiring w;
    const Build& b = d.build();
    if (channel >= b.channels.size()) return w;
    w.channel = text(b.channels[channel].name);
    const bool device = bench == Document::Bench::SoundDevice;
    w.generator = device ? "sound device, output" : "generator";
    w.recorder = device ? "sound device, input" : "recorder";
    w.divider = true;
    double ohms = 0;
    if (const ResistorPart* load = schematic::loadResistor(b.channels[channel].stages)) {
        ohms = load->resistance;
        w.load = text(formatExact(load->resistance, Unit::Ohm)) +
                 (plan::isLine(load->resistance) ? QString() : ", " + text(load->watts, Unit::Watt, 2));
    }
    if (take == bench::TakeKind::Noise) w.generator.clear(); // the divider stays: what wakes up may be loud
    w.switchOnVolts = plan::switchOnVolts(d.solved().build, d.figures(), channel);
    w.atInput = setup.second == bench::SecondInput::Input;
    w.everyChannel = setup.everyChannel;
    if (setup.second == bench::SecondInput::NextChannel)
        w.beside = text(b.channels[bench::nextChannel(channel, b.channels.size())].name);
    if (!series) return w;
    w.everyChannel = series->everyChannel;
    w.control = bench::formOf(series->kind).needsControl;
    if (series->kind == OutputImpedance)
        w.second = text(formatExact(series->secondLoad > 0 ? series->secondLoad : 2 * ohms, Unit::Ohm));
    if (series->kind == ResponseWithLoudspeaker) w.second = "loudspeaker";
    if (series->kind == Sag) {
        w.supply = true, w.divider = false;
        w.recorder = "scope, its probe";
        if (const auto& s = d.figures().high)
            for (const plan::NodeFigures& n : s->nodes) w.supplyVolts = std::max(w.supplyVolts, n.mean);
    }
    return w;
}

BenchSketch::BenchSketch(QWidget* parent) : QWidget(parent) {
    setObjectName("benchSketch");
    setMinimumHeight(266);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void BenchSketch::show(const BenchWiring& w) {
    wiring = w;
    setAccessibleName(inWords());
    setToolTip(inWords());
    update();
}

QString BenchSketch::inWords() const {
    QString out = wiring.generator.isEmpty() ? "The input is shorted by a plug. "
                                             : wiring.generator + " to the input of " +
                                                   (wiring.everyChannel ? "every channel" : wiring.channel) + ". ";
    out += "Load at the output: " + wiring.load +
           (wiring.second.isEmpty() ? "" : ", changed over to " + wiring.second + " with the amplifier off") + ". ";
    out += wiring.recorder + (wiring.supply    ? " at the supply's nodes. "
                              : wiring.divider ? " across the load through the divider. "
                                               : " across the load. ");
    if (wiring.atInput) out += "Its second input at the amplifier's input. ";
    if (!wiring.beside.isEmpty()) out += "Its second input across the load of " + wiring.beside + ". ";
    return out + "Amplifier and instruments stand on the safety earth.";
}

void BenchSketch::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double w = width(), middle = w / 2, boxWidth = std::min(w - 30, 210.0);
    const QPen wire(theme::color(Role::BoneDim), 1.6), earth(theme::color(Role::BoneFaint), 1.2);
    const auto box = [&](QRectF r, const QString& title, const QString& under, Role edge) {
        p.setPen(QPen(theme::color(edge), 1.4));
        p.setBrush(theme::color(Role::AshRaised));
        p.drawRoundedRect(r, 3, 3);
        p.setPen(theme::color(Role::Bone));
        p.setFont(theme::text(Size::Text));
        p.drawText(r.adjusted(4, under.isEmpty() ? 0 : 3, -4, under.isEmpty() ? 0 : -r.height() / 2 + 3),
                   Qt::AlignCenter, title);
        if (under.isEmpty()) return;
        p.setPen(theme::color(Role::BoneDim));
        p.setFont(theme::text(Size::Small));
        p.drawText(r.adjusted(4, r.height() / 2 - 3, -4, -2), Qt::AlignCenter, under);
    };
    const auto ground = [&](QPointF at) {
        p.setPen(earth);
        p.drawLine(at, at + QPointF(0, 8));
        for (int k = 0; k < 3; ++k)
            p.drawLine(at + QPointF(-7 + 2.5 * k, 8 + 3 * k), at + QPointF(7 - 2.5 * k, 8 + 3 * k));
    };
    const auto pair = [&](QPointF from, QPointF to) { // signal and its return
        p.setPen(wire);
        p.drawLine(from + QPointF(-4, 0), to + QPointF(-4, 0));
        p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
        p.drawLine(from + QPointF(4, 0), to + QPointF(4, 0));
    };
    const double left = middle - boxWidth / 2;
    const bool shorted = wiring.generator.isEmpty();
    box({left, 4, boxWidth, 30}, shorted ? "shorting plug" : wiring.generator, {}, Role::Line);
    if (!shorted) ground({left + boxWidth - 14, 34});
    pair({middle, 34}, {middle, 62});
    box({left, 62, boxWidth, 44}, wiring.everyChannel ? "amplifier, every channel" : "amplifier, " + wiring.channel,
        wiring.control  ? "its level control is turned"
        : wiring.supply ? "covers on but for the probe"
                        : "input to output",
        Role::Ember);
    ground({left + boxWidth - 14, 106});
    // From the output: the load first, then what looks at it.
    const double half = boxWidth / 2 - 6;
    pair({left + half / 2, 106}, {left + half / 2, 138});
    const QRectF load(left, 138, half, 44);
    box(load, wiring.load, "load, stays on", Role::Line);
    if (!wiring.second.isEmpty()) {
        box({left, 212, half, 44}, wiring.second, "changed over, off", Role::Line);
        p.setPen(QPen(theme::color(Role::BoneFaint), 1.2, Qt::DashLine));
        p.drawLine(QPointF(left + half / 2, 182), QPointF(left + half / 2, 212));
    }
    const double right = left + boxWidth - half;
    if (wiring.supply) {
        pair({right + half / 2, 106}, {right + half / 2, 212});
        p.setPen(theme::color(Role::Ember));
        p.setFont(theme::text(Size::Small));
        p.drawText(QRectF(right - 12, 142, half + 12, 34), Qt::AlignCenter | Qt::TextWordWrap,
                   "up to " + text(wiring.supplyVolts, Unit::Volt) + " here");
    } else {
        p.setPen(wire);
        p.drawLine(QPointF(load.right(), 156), QPointF(right + half / 2 - 4, 156));
        p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
        p.drawLine(QPointF(load.right(), 164), QPointF(right + half / 2 + 4, 164));
        if (wiring.divider) box({right, 138, half, 44}, "divider", "see below", Role::Line);
        pair({right + half / 2, wiring.divider ? 182.0 : 156.0}, {right + half / 2, 212});
    }
    if (wiring.atInput) { // from the input down the right side
        const double side = left + boxWidth + 9;
        p.setPen(wire);
        p.drawPolyline(QPolygonF{{middle + 4, 50}, {side, 50}, {side, 220}, {right + half, 220}});
    }
    if (!wiring.beside.isEmpty()) {
        box({left, 212, half, 44}, wiring.beside, "its load", Role::Line);
        p.setPen(wire);
        p.drawLine(QPointF(left + half, 222), QPointF(right, 222));
        p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
        p.drawLine(QPointF(left + half, 230), QPointF(right, 230));
    }
    box({right, 212, half, 30}, wiring.recorder.section(',', 0, 0), {}, Role::Line);
    ground({right + half - 12, 242});
}

ConnectionsPanel::ConnectionsPanel(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 8);
    layout->addWidget(label("Connected for this", Size::Text, true));
    layout->addWidget(sketch = new BenchSketch);
    layout->addWidget(words = label("", Size::Small, false, "dim"));
    words->setObjectName("connecting");
    words->setWordWrap(true);
}

void ConnectionsPanel::show(const BenchWiring& wiring, const plan::PowerFigures* power) {
    sketch->show(wiring);
    QString said = text(bench::connectingWords(power, wiring.switchOnVolts));
    if (wiring.supply)
        said =
            QString("The supply's nodes carry up to %1: a probe made for it, one hand, clipped on with the power off "
                    "and the capacitors measured empty. ")
                .arg(text(wiring.supplyVolts, Unit::Volt)) +
            said;
    if (!wiring.second.isEmpty())
        said = "Change loads with the amplifier switched off, and never let the output stand without one. " + said;
    if (wiring.atInput)
        said = "Both inputs of the recorder share one ground: the amplifier's input ground and its grounded output "
               "terminal meet there, which may add hum. " +
               said;
    if (!wiring.beside.isEmpty())
        said = QString(wiring.divider ? "The second input needs a divider of its own across the load of %1; the "
                                      : "The second input is across the load of %1; the ")
                   .arg(wiring.beside) +
               "grounded terminals of both outputs meet in the recorder: where one output is not grounded, do "
               "not connect it. " +
               said;
    words->setText("Volume down before a lead is moved. " + said);
}

} // namespace ember::app
