#include "soak_view.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/quantity/combine.h"
#include "core/schematic/stages/stage_kind.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"

#include <QDateTime>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <fmt/format.h>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

SoakView::SoakView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    const auto field = [&](QHBoxLayout* to, const char* caption, const QString& value, const char* object,
                           const char* accessible, int width) {
        to->addWidget(label(caption, Size::Text, false, "dim"));
        auto* f = new QLineEdit(value);
        f->setObjectName(object);
        f->setAccessibleName(accessible);
        f->setFixedWidth(width);
        f->setFont(theme::figures(Size::Text));
        to->addWidget(f);
        return f;
    };
    interval = field(row, "a reading every", "60 s", "soakInterval", "Interval of the readings", 60);
    hours = field(row, "for", "4", "soakHours", "Hours in all", 40);
    row->addWidget(label("hours;", Size::Text, false, "dim"));
    drift = field(row, "ends at a drift of", "1", "soakDrift", "Drift in dB at which it ends", 40);
    row->addWidget(label("dB", Size::Text, false, "dim"));
    celsius = field(row, "load's sink now", "", "soakCelsius",
                    "Temperature of the load's sink, degrees Celsius; Enter keeps it", 50);
    celsius->setPlaceholderText("°C");
    goOn = new QPushButton("Go on with it");
    goOn->setObjectName("soakGoOn");
    goOn->hide();
    row->addWidget(goOn);
    row->addStretch();
    layout->addLayout(row);
    words = label("", Size::Text);
    words->setObjectName("soakWords");
    words->setWordWrap(true);
    layout->addWidget(words);
    plot = new QCustomPlot;
    plot->setObjectName("soakPlot");
    plot->setAccessibleName("Level and temperature against hours");
    tools = new PlotTools(
        plot, [this] { return text(document.build().name).toLower() + "-soak"; }, [this] { draw(); });
    connect(tools, &PlotTools::said, this, &SoakView::said);
    layout->addWidget(plot, 1);
    auto* foot = new QHBoxLayout;
    foot->addWidget(label("The load", Size::Text, true));
    theta = field(foot, "sink", "2.5", "soakTheta", "The sink's thermal resistance, kelvin per watt", 45);
    foot->addWidget(label("K/W", Size::Text, false, "dim"));
    ambient = field(foot, "room", "22", "soakAmbient", "Room's temperature, degrees Celsius", 40);
    foot->addWidget(label("°C", Size::Text, false, "dim"));
    hand =
        field(foot, "from resistors in hand", "", "soakHand", "Resistors in hand, such as 4x 33 20W, 2x 15 50W", 200);
    hand->setPlaceholderText("4x 33 20W, 2x 15 50W");
    foot->addStretch();
    layout->addLayout(foot);
    load = label("", Size::Text, false, "dim");
    load->setObjectName("soakLoad");
    load->setWordWrap(true);
    layout->addWidget(load);
    connect(&timer, &Timer::timeout, this, &SoakView::read);
    connect(celsius, &QLineEdit::returnPressed, this, &SoakView::typedTemperature);
    connect(goOn, &QPushButton::clicked, this, &SoakView::resume);
    for (QLineEdit* f : {theta, ambient, hand}) connect(f, &QLineEdit::textChanged, this, &SoakView::tellLoad);
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) tellLoad();
    });
    connect(&document, &Document::opened, this, [this] {
        if (running()) stop("another build was opened");
        record = {};
        draw();
    });
    draw();
}

void SoakView::arrive(std::size_t chosen) {
    channel = chosen;
    tellLoad();
    if (running()) return;
    interrupted = bench::interruptedSoak(document.capturesFolder());
    goOn->setVisible(!interrupted.empty());
    if (interrupted.empty()) return;
    if (const auto s = bench::readSoak(interrupted))
        words->setText(QString("A soak of %1, begun %2, was interrupted after %3 readings: its readings are kept.")
                           .arg(text(s->plan.channel), text(s->begun).replace('T', ' '))
                           .arg(s->readings.size()));
}

void SoakView::setIntervals(double every, double seconds) {
    interval->setText(text(formatExact(every, Unit::Second)));
    hours->setText(QString::number(seconds / 3600, 'g', 6));
}

double SoakView::secondsNow() const {
    return static_cast<double>(Clock::now() - begunAt) / 1000;
}

void SoakView::start(Document::Bench with, const bench::TakeRequest& tone) {
    const auto every = parseWithin(interval->text().toStdString(), Unit::Second, {0.1, 3600});
    const auto length = parseWithin(hours->text().toStdString(), Unit::None, {1e-5, 200});
    const auto most = parseWithin(drift->text().toStdString(), Unit::None, {0.05, 20});
    for (const auto* e : {&every, &length, &most})
        if (!*e) return Q_EMIT said(text(e->problem().sentence), false);
    if (tone.channel >= document.build().channels.size()) return;
    bench = with;
    record = {};
    record.plan.tone = tone;
    record.plan.interval = *every, record.plan.seconds = 3600 * *length, record.plan.mostDrift = *most;
    record.plan.channel = document.build().channels[tone.channel].name;
    record.plan.practice = with == Document::Bench::Practice;
    levelTried = false;
    const QDateTime now = Clock::local();
    begunAt = now.toMSecsSinceEpoch();
    record.begun = now.toString(Qt::ISODate).toStdString();
    file = document.capturesFolder() / ("soak-" + now.toString("yyyy-MM-ddTHH-mm-ss-zzz").toStdString() + ".jsonl");
    if (auto done = bench::beginSoak(file, record.plan, record.begun); !done)
        return Q_EMIT said(text(done.problem().text()), false);
    goOn->hide();
    timer.start(static_cast<int>(1000 * record.plan.interval));
    words->setText("Begun. Type the load's temperature from time to time.");
    Q_EMIT changed();
    read();
}

/// The interrupted one: the time that it did not run is a gap in its readings.
void SoakView::resume() {
    auto s = bench::readSoak(interrupted);
    if (!s) return Q_EMIT said(text(s.problem().text()), false);
    if (s->plan.practice != document.practising())
        return Q_EMIT said(s->plan.practice
                               ? "This soak is of the practice amplifier: turn practice on, then resume it."
                               : "This soak is of the amplifier itself: turn practice off, then resume it.",
                           false);
    bench = s->plan.practice ? Document::Bench::Practice : Document::Bench::SoundDevice;
    levelTried = false; // what was connected meanwhile is not known
    record = std::move(*s);
    file = interrupted;
    begunAt = QDateTime::fromString(text(record.begun), Qt::ISODate).toMSecsSinceEpoch();
    goOn->hide();
    timer.start(static_cast<int>(1000 * record.plan.interval));
    Q_EMIT changed();
    read();
}

void SoakView::read() {
    if (document.taking()) return; // the next interval comes
    bench::TakeRequest r = record.plan.tone;
    r.levelTried = levelTried;
    // A sound device plays for nearly the whole interval, so that the load stays warm; the bench's model needs a
    // second.
    r.seconds = bench == Document::Bench::SoundDevice ? std::clamp(record.plan.interval - 3, 1.0, 60.0) : 1;
    document.take(bench, r, [this, at = secondsNow(), of = file](Expected<signal::Capture> c) {
        if (!running() || of != file) return;
        if (!c) return stop(text(c.problem().sentence));
        levelTried = true;
        const auto steady = signal::steadyPart(c->volts, c->sampleRate);
        const auto last =
            steady.subspan(steady.size() - std::min(steady.size(), static_cast<std::size_t>(2 * c->sampleRate)));
        const auto a = signal::analyseTone(last, c->sampleRate, c->fullScale);
        if (!a) return stop(text(a.problem().sentence));
        const ResistorPart* resistor =
            schematic::loadResistor(document.build().channels[record.plan.tone.channel].stages);
        bench::SoakReading now{at,
                               a->level,
                               resistor ? a->level * a->level / resistor->resistance : 0,
                               a->thdPercent,
                               a->dc,
                               plan::unknown,
                               true};
        add(now);
    });
}

void SoakView::add(const bench::SoakReading& r) {
    record.readings.push_back(r);
    if (auto done = bench::addReading(file, r); !done) Q_EMIT said(text(done.problem().text()), false);
    draw();
    const bench::SoakFigures f = figures();
    if (!running()) return;
    if (!f.stop.empty()) return stop(text(f.stop));
    if (r.at >= record.plan.seconds) stop("its time is over");
}

void SoakView::typedTemperature() {
    QString typed = celsius->text().trimmed();
    typed.remove("°C").remove('C');
    const auto v = parseWithin(typed.trimmed().toStdString(), Unit::None, {-20, 400});
    if (!v) return Q_EMIT said(text(v.problem().sentence), false);
    if (record.readings.empty()) return Q_EMIT said("A soak is begun first: its readings have a time.", false);
    celsius->clear();
    bench::SoakReading r{secondsNow(), plan::unknown, plan::unknown, plan::unknown, plan::unknown, *v, running()};
    add(r);
}

void SoakView::stop(const QString& why) {
    if (!running()) return;
    timer.stop();
    (void)bench::endSoak(file, why.toStdString());
    const bench::SoakFigures f = figures();
    LogEntry e;
    e.kind = "measure";
    e.source = bench == Document::Bench::Practice ? "practice" : "sound device";
    e.stage = -1;
    const double ran = record.readings.empty() ? 0 : record.readings.back().at;
    e.text = fmt::format("{}: soak of {:.2f} hours, {} readings, drift {:+.3f} dB an hour; ended: {}",
                         record.plan.channel, ran / 3600, record.readings.size(),
                         std::isfinite(f.dbPerHour) ? f.dbPerHour : 0.0, why.toStdString());
    if (record.plan.tone.channel < document.build().channels.size()) document.log(e);
    draw();
    Q_EMIT said(text(e.text), f.stop.empty());
    Q_EMIT changed();
}

void SoakView::tellLoad() {
    const auto& power = document.figures().power;
    const std::size_t of = running() ? record.plan.tone.channel : channel;
    if (of >= power.size() || !(power[of].load > 0)) return load->setText({});
    const double ohms = power[of].load, watts = power[of].clipWatts;
    const auto& worst = document.figures().high;
    QString said = text(bench::soakCaution(worst ? worst->mainsWatts : plan::unknown, watts));
    const auto k = parseWithin(theta->text().toStdString(), Unit::None, {0.01, 100}),
               room = parseWithin(ambient->text().toStdString(), Unit::None, {-20, 60});
    if (k && room && std::isfinite(watts))
        said +=
            QString(" With %1 in it, the most that is planned without clipping, its sink settles at %2 °C (room and "
                    "watts times K/W).")
                .arg(text(watts, Unit::Watt, 2))
                .arg(bench::settledCelsius(*room, watts, *k), 0, 'f', 0);
    if (const bench::SoakFigures f = figures(); std::isfinite(f.kelvinPerWatt))
        said += QString(" Measured: %1 K/W, warming with %2 min.")
                    .arg(f.kelvinPerWatt, 0, 'f', 2)
                    .arg(f.warming.constant / 60, 0, 'f', 0);
    if (!hand->text().trimmed().isEmpty()) {
        const auto parts = readHand(hand->text().toStdString(), HandKind::Resistor);
        if (!parts) {
            said += " " + text(parts.problem().sentence);
        } else {
            const auto best = combine(*parts, HandKind::Resistor, ohms, std::isfinite(watts) ? watts : 1, 6, 2);
            for (const Combination& c : best)
                said += QString(" %1 is %2 (%3 %4 %), its hardest part at %5 % of its watts.")
                            .arg(text(c.words), text(c.value, Unit::Ohm), c.error < 0 ? "-" : "+")
                            .arg(100 * std::abs(c.error), 0, 'f', 1)
                            .arg(100 * c.stress, 0, 'f', 0);
        }
    }
    load->setText(said);
}

void SoakView::draw() {
    tools->take();
    plot->clearGraphs();
    theme::dress(*plot, "hours", "dB of the first reading");
    plot->yAxis2->setVisible(true);
    plot->yAxis2->setLabel("°C of the load's sink");
    for (QCPAxis* a : {plot->yAxis2}) {
        a->setBasePen(QPen(theme::color(Role::Line)));
        a->setTickPen(QPen(theme::color(Role::Line)));
        a->setSubTickPen(Qt::NoPen);
        a->setTickLabelColor(theme::color(Role::BoneDim));
        a->setTickLabelFont(theme::figures(Size::Small));
        a->setLabelColor(theme::color(Role::BoneDim));
        a->setLabelFont(theme::text(Size::Small));
    }
    QCPGraph *level = plot->addGraph(), *sink = plot->addGraph(plot->xAxis, plot->yAxis2),
             *fit = plot->addGraph(plot->xAxis, plot->yAxis2);
    level->setName("level, dB");
    sink->setName("sink, °C");
    level->setPen(QPen(theme::color(Role::Verdigris), 1.8));
    level->setScatterStyle(
        {QCPScatterStyle::ssDisc, theme::color(Role::Verdigris), record.readings.size() < 60 ? 5.0 : 2.0});
    sink->setPen(Qt::NoPen);
    sink->setScatterStyle({QCPScatterStyle::ssDisc, theme::color(Role::Ember), 7});
    fit->setPen(QPen(theme::color(Role::Ember), 1.2, Qt::DashLine));
    double first = 0, most = 0;
    for (const bench::SoakReading& r : record.readings) {
        if (first == 0 && r.volts > 0) first = r.volts;
        if (r.volts > 0) {
            level->addData(r.at / 3600, 20 * std::log10(r.volts / first));
            most = std::max(most, std::abs(20 * std::log10(r.volts / first)));
        }
        if (std::isfinite(r.celsius)) sink->addData(r.at / 3600, r.celsius);
    }
    const bench::SoakFigures f = figures();
    const double end = record.readings.empty() ? 1.0 / 60 : std::max(1.0 / 60, record.readings.back().at / 3600);
    if (std::isfinite(f.warming.constant)) {
        double from = 0;
        for (const bench::SoakReading& r : record.readings)
            if (std::isfinite(r.celsius) && r.playing) {
                from = r.at;
                break;
            }
        for (int k = 0; k <= 60; ++k) {
            const double t = from + (1.3 * 3600 * end - from) * k / 60;
            fit->addData(t / 3600, f.warming.end +
                                       (f.warming.begin - f.warming.end) * std::exp(-(t - from) / f.warming.constant));
        }
    }
    plot->xAxis->setRange(0, 1.1 * end);
    plot->yAxis->setRange(-std::max(0.1, 1.3 * most), std::max(0.1, 1.3 * most));
    plot->yAxis2->setRange(15, 100);
    if (sink->dataCount() > 0) {
        bool found = false;
        const QCPRange y = sink->getValueRange(found);
        plot->yAxis2->setRange(std::min(15.0, y.lower - 5),
                               std::max({40.0, y.upper + 10, std::isfinite(f.warming.end) ? f.warming.end + 8 : 0}));
    }
    plot->replot(QCustomPlot::rpQueuedReplot);
    if (record.readings.empty()) {
        if (!running() && interrupted.empty())
            words->setText(
                "The tone chosen above is held for hours: output, distortion and DC are read at intervals, the "
                "load's temperature when you type it. Stay in the house; a soak ends by itself where the "
                "output drifts, DC stands across the load, or the sink gets too hot.");
        return;
    }
    const bench::SoakReading& r = record.readings.back();
    const double minutes = r.at / 60;
    QString said = QString(record.readings.size() == 1 ? "%1 reading in %2" : "%1 readings in %2")
                       .arg(record.readings.size())
                       .arg(minutes < 120 ? QString("%1 min").arg(minutes, 0, 'f', 0)
                                          : QString("%1 h").arg(minutes / 60, 0, 'f', 2));
    for (auto at = record.readings.rbegin(); at != record.readings.rend(); ++at)
        if (at->volts > 0) {
            said +=
                QString("; now %1, %2, THD %3")
                    .arg(text(at->volts, Unit::Volt), text(at->watts, Unit::Watt), text(at->thdPercent, Unit::Percent));
            break;
        }
    if (std::isfinite(f.dbPerHour))
        said += QString("; drift %1 dB an hour, give or take %2")
                    .arg(f.dbPerHour, 0, 'f', 3)
                    .arg(2 * f.dbPerHourError, 0, 'f', 3);
    if (std::isfinite(f.warming.constant)) said += QString("; the sink settles at %1 °C").arg(f.warming.end, 0, 'f', 0);
    if (std::isfinite(f.cooling.constant))
        said += QString("; it cools with %1 min").arg(f.cooling.constant / 60, 0, 'f', 0);
    for (const auto& [from, to] : f.gaps)
        said += QString("; nothing was read from %1 h to %2 h").arg(from / 3600, 0, 'f', 2).arg(to / 3600, 0, 'f', 2);
    words->setText(said + ".");
}

} // namespace ember::app
