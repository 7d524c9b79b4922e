#include "measure_station.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/plan/input_divider.h"
#include "core/schematic/path_schematic.h"
#include "core/signal/table_file.h"
#include "core/wires/hum.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QtConcurrent>
#include <fmt/format.h>
#include <qcustomplot.h>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

MeasureStation::MeasureStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel("Measure");
    name->setFont(theme::text(Size::Title, true));
    head->addWidget(name);
    head->addStretch();
    const auto word = [](QHBoxLayout* to, const char* s) {
        auto* l = new QLabel(s);
        l->setProperty("dim", true);
        to->addWidget(l);
    };
    word(head, "file's full scale");
    fullScale = new QLineEdit("20 V");
    fullScale->setAccessibleName("Volts of a full-scale sample in the file");
    fullScale->setFixedWidth(70);
    fullScale->setFont(theme::figures(Size::Text));
    head->addWidget(fullScale);
    file = new QPushButton("Open a capture...");
    head->addWidget(file);
    layout->addLayout(head);
    auto* controls = new QHBoxLayout;
    word(controls, "channel");
    channel = new QComboBox;
    channel->setAccessibleName("Channel");
    controls->addWidget(channel);
    word(controls, "tone");
    frequency = new QComboBox;
    frequency->setObjectName("toneHertz");
    frequency->setAccessibleName("Frequency of the tone");
    for (const double hz : {20.0, 100.0, 1e3, 10e3, 20e3}) frequency->addItem(text(formatExact(hz, Unit::Hertz)), hz);
    frequency->setCurrentIndex(2);
    controls->addWidget(frequency);
    word(controls, "input");
    input = new QLineEdit("50 mV");
    input->setObjectName("input");
    input->setAccessibleName("Input level, volts RMS");
    input->setFixedWidth(90);
    input->setFont(theme::figures(Size::Text));
    controls->addWidget(input);
    tone = new QPushButton("Take the tone");
    tone->setObjectName("takeTone");
    tone->setProperty("main", true);
    controls->addWidget(tone);
    steps = new QPushButton("Take the response");
    steps->setObjectName("takeResponse");
    steps->setToolTip("31 tones from 20 Hz to 20 kHz at this input level");
    controls->addWidget(steps);
    controls->addStretch();
    layout->addLayout(controls);
    auto* figures = new QHBoxLayout;
    const auto figure = [&](const char* caption, QLabel*& value) {
        auto* box = new QVBoxLayout;
        auto* c = new QLabel(caption);
        c->setProperty("dim", true);
        value = new QLabel("-");
        value->setFont(theme::figures(static_cast<Size>(28), true));
        value->setAccessibleName(caption);
        box->addWidget(c);
        box->addWidget(value);
        figures->addLayout(box);
        figures->addStretch();
    };
    figure("power in the load", power);
    figure("gain", gain);
    figure("THD", thd);
    figure("THD + noise", noise);
    power->setObjectName("power");
    thd->setObjectName("thd");
    layout->addLayout(figures);
    words = new QLabel;
    words->setWordWrap(true);
    layout->addWidget(words);
    layout->addWidget(connecting = label("", Size::Small, false, "dim"));
    connecting->setObjectName("connecting");
    auto* plots = new QHBoxLayout;
    wave = new QCustomPlot;
    spectrum = new QCustomPlot;
    wave->setAccessibleName("Waveform at the load");
    spectrum->setAccessibleName("Spectrum at the load");
    for (QCustomPlot* p : {wave, spectrum}) p->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plots->addWidget(wave, 2);
    plots->addWidget(spectrum, 3);
    layout->addLayout(plots, 3);
    auto* row = new QHBoxLayout;
    auto* group = new QButtonGroup(this);
    for (const char* caption : {"distortion", "response", "output impedance"}) {
        auto* b = new QPushButton(caption);
        b->setProperty("tab", true);
        b->setCheckable(true);
        group->addButton(b, static_cast<int>(tabs.size()));
        row->addWidget(b);
        tabs.push_back(b);
    }
    row->addStretch();
    layout->addLayout(row);
    lower = new QStackedWidget;
    lower->addWidget(distortion = new DistortionView(document));
    lower->addWidget(response = new ResponseView(document));
    layout->addWidget(lower, 4);
    connect(group, &QButtonGroup::idClicked, this, [this](int k) { look(static_cast<View>(k)); });
    connect(response, &ResponseView::said, this, &Station::said);
    connect(steps, &QPushButton::clicked, this, &MeasureStation::takeResponse);
    connect(tone, &QPushButton::clicked, this, &MeasureStation::takeTone);
    connect(input, &QLineEdit::returnPressed, this, &MeasureStation::takeTone);
    connect(file, &QPushButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getOpenFileName(
            this, "A capture of the load's voltage", {}, "Captures (*.wav *.flac *.aiff *.csv *.tsv);;All files (*)");
        if (!chosen.isEmpty()) analyseFile(chosen);
    });
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    connect(&document, &Document::practiceChanged, this, &MeasureStation::refresh);
    connect(channel, &QComboBox::currentIndexChanged, this, &MeasureStation::refresh);
    theme::dress(*wave, "milliseconds", "volts");
    theme::dress(*spectrum, "hertz", "dB of the fundamental");
    refresh();
}

void MeasureStation::look(View wanted) {
    view = wanted;
    tabs[static_cast<std::size_t>(view)]->setChecked(true);
    lower->setCurrentIndex(view == View::Distortion ? 0 : 1);
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    if (view == View::Distortion)
        distortion->look(at);
    else
        response->look(view == View::Response ? ResponseView::Kind::Response : ResponseView::Kind::OutputImpedance, at);
}

double MeasureStation::toneHertz() const {
    return frequency->currentData().toDouble();
}

void MeasureStation::takeResponse() {
    const auto v = parseWithin(input->text().toStdString(), Unit::Volt, {1e-5, 50});
    if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
    look(View::Response);
    response->takeSteps(*v);
}

void MeasureStation::arrive() {
    look(view);
}

double MeasureStation::shareDone() const {
    double channels = 0;
    for (const Channel& c : document.build().channels)
        for (const LogEntry& e : document.build().log)
            if (e.kind == "measure" && !e.struck && e.text.rfind(c.name, 0) == 0) {
                channels += 1;
                break;
            }
    return document.build().channels.empty() ? 0 : channels / static_cast<double>(document.build().channels.size());
}

void MeasureStation::refresh() {
    const Build& b = document.build();
    if (channel->count() != static_cast<int>(b.channels.size())) {
        const QSignalBlocker quiet(channel);
        channel->clear();
        for (const Channel& c : b.channels) channel->addItem(QString::fromStdString(c.name));
    }
    tone->setEnabled(document.practising());
    steps->setEnabled(document.practising());
    tone->setToolTip(document.practising()
                         ? QString()
                         : "Turn the practice bench on (Practice menu), or open a capture from your sound device.");
    sayHowToConnect();
    proposeLevel();
    look(view);
}

void MeasureStation::takeTone() {
    const auto v = parseWithin(input->text().toStdString(), Unit::Volt, {1e-5, 50});
    if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
    if (!document.practising()) return Q_EMIT said("Turn the practice bench on, or open a capture.", false);
    tone->setEnabled(false);
    words->setText("taking the tone ...");
    document.capturePractice(
        static_cast<std::size_t>(std::max(0, channel->currentIndex())), *v, toneHertz(), 1.0,
        [this, level = *v, asked = document.revisionNow(), at = channel->currentIndex()](Expected<signal::Capture> c) {
            tone->setEnabled(document.practising());
            if (asked != document.revisionNow() || at != channel->currentIndex()) {
                words->setText("The build or the channel changed meanwhile: take the tone again.");
                return;
            }
            if (!c) {
                words->setText(QString::fromStdString(c.problem().sentence));
                return Q_EMIT said(QString::fromStdString(c.problem().sentence), false);
            }
            show(*c, level);
        });
}

void MeasureStation::analyseFile(const QString& name) {
    const auto scale = parseWithin(fullScale->text().toStdString(), Unit::Volt, {1e-3, 1e5});
    if (!scale) return Q_EMIT said(QString::fromStdString(scale.problem().sentence), false);
    words->setText("reading " + name + " ...");
    auto* watcher = new QFutureWatcher<std::shared_ptr<Expected<signal::Capture>>>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher] {
        const auto c = watcher->result();
        watcher->deleteLater();
        if (!*c) {
            words->setText(QString::fromStdString(c->problem().text()));
            return Q_EMIT said(QString::fromStdString(c->problem().text()), false);
        }
        const auto v = parseQuantity(input->text().toStdString(), Unit::Volt);
        show(**c, v ? *v : plan::unknown);
    });
    watcher->setFuture(QtConcurrent::run([path = name.toStdString(), s = *scale] {
        return std::make_shared<Expected<signal::Capture>>(signal::readCapture(path, 1, s));
    }));
}

void MeasureStation::show(const signal::Capture& c, double inputRms) {
    const auto a = signal::analyseTone(c.volts, c.sampleRate, c.fullScale);
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    if (!a || at >= document.build().channels.size()) {
        words->setText(a ? QString("This build has no channel to measure.")
                         : QString::fromStdString(a.problem().sentence));
        return;
    }
    const Channel& ch = document.build().channels[at];
    const double load = schematic::channelSchematic(document.build(), Catalogue::shipped(), at).load;
    const double watts = load > 0 ? a->level * a->level / load : plan::unknown, ratio = a->harmonics[0].rms / inputRms;
    power->setText(text(watts, Unit::Watt));
    gain->setText(std::isfinite(ratio) ? QString("%1 dB").arg(20 * std::log10(ratio), 0, 'f', 1) : "-");
    thd->setText(text(a->thdPercent, Unit::Percent));
    noise->setText(text(a->thdNoisePercent, Unit::Percent));
    QString line = QString("%1 across %2 at %3")
                       .arg(text(a->level, Unit::Volt), QString::fromStdString(formatExact(load, Unit::Ohm)),
                            text(a->fundamental, Unit::Hertz, 4));
    for (const auto& h : a->harmonics)
        if (h.order > 1 && h.order <= 5) line += QString(";  H%1 %2 dB").arg(h.order).arg(h.db, 0, 'f', 1);
    if (a->clipped) line += ".  The capture itself is clipped: turn its level down and take it again.";
    words->setText(line);
    words->setStyleSheet(QString("color:%1").arg(theme::color(a->clipped ? Role::Stop : Role::Bone).name()));
    // Three periods of the wave.
    QVector<double> ms, v;
    const auto count = std::min(c.volts.size(), static_cast<std::size_t>(3 * c.sampleRate / a->fundamental) + 1);
    for (std::size_t k = 0; k < count; ++k) {
        ms.push_back(1000 * static_cast<double>(k) / c.sampleRate);
        v.push_back(c.volts[k]);
    }
    wave->clearGraphs();
    wave->addGraph();
    wave->graph(0)->setPen(QPen(theme::color(Role::Verdigris), 1.6));
    wave->graph(0)->setData(ms, v, true);
    theme::dress(*wave, "milliseconds", "volts");
    wave->rescaleAxes();
    wave->replot(QCustomPlot::rpQueuedReplot);
    QVector<double> hertz, db;
    for (std::size_t k = 8; k < a->spectrum.size(); ++k) {
        const double f = static_cast<double>(k) * a->binHertz;
        if (f > 20000) break;
        hertz.push_back(f);
        db.push_back(20 * std::log10(std::max(1e-12, a->spectrum[k] / a->harmonics[0].rms)));
    }
    spectrum->clearGraphs();
    spectrum->addGraph();
    spectrum->graph(0)->setPen(QPen(theme::color(Role::Verdigris), 1));
    spectrum->graph(0)->setData(hertz, db, true);
    // The plan's hum lines, as marks in brass.
    if (const auto& planned = document.figures().wires; planned && at < planned->hum.channels.size()) {
        QVector<double> lines, levels;
        for (const wires::HumLine& l : planned->hum.channels[at].lines) {
            lines.push_back(l.hertz);
            levels.push_back(20 * std::log10(std::max(1e-12, l.rms / a->harmonics[0].rms)));
        }
        spectrum->addGraph();
        spectrum->graph(1)->setLineStyle(QCPGraph::lsNone);
        spectrum->graph(1)->setScatterStyle({QCPScatterStyle::ssDiamond, theme::color(Role::Brass), 6});
        spectrum->graph(1)->setData(lines, levels, true);
        words->setText(line + QString(";  hum predicted %1").arg(text(planned->hum.channels[at].rms, Unit::Volt)));
    }
    theme::dress(*spectrum, "hertz", "dB of the fundamental");
    spectrum->xAxis->setRange(0, 12000);
    spectrum->yAxis->setRange(-140, 5);
    spectrum->replot(QCustomPlot::rpQueuedReplot);
    LogEntry e;
    e.kind = "measure";
    e.source = c.source;
    e.stage = -1;
    e.text = fmt::format("{}: {} into {} at {}, THD {}, THD+N {}{}", ch.name, format(watts, Unit::Watt),
                         formatExact(load, Unit::Ohm), format(a->fundamental, Unit::Hertz, 4),
                         format(a->thdPercent, Unit::Percent), format(a->thdNoisePercent, Unit::Percent),
                         std::isfinite(inputRms) ? ", input " + format(inputRms, Unit::Volt) : "");
    document.log(e);
    distortion->add(at, load > 0 && load < 100 ? watts : a->level, a->thdPercent);
    Q_EMIT said(QString::fromStdString(e.text), !a->clipped);
}

/// What is earth, what divides the output down to the sound device, and what happens when that opens.
void MeasureStation::sayHowToConnect() {
    const auto& [b, f, findings] = document.solved();
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    QString out =
        "A sound device's input and a scope's ground clip are earth: clip them on the output's grounded terminal "
        "alone; where neither is grounded, a differential probe or an isolating transformer. Never lift an "
        "earth. The load stays on.";
    if (at < f.power.size() && at < b.channels.size() && std::isfinite(f.power[at].clipWatts) && f.power[at].load > 0) {
        const auto d = plan::inputDivider(f.power[at].clipWatts, f.power[at].load);
        out = QString(
                  "Into a sound device that takes 1 V: %1 and %2 across its input make %3 of the %4 crest at clipping. "
                  "If the %2 opens, all %4 stand there: two diodes of opposite sense across the input hold it. ")
                  .arg(text(formatExact(d.upper, Unit::Ohm)), text(formatExact(d.lower, Unit::Ohm)),
                       text(d.crestOut, Unit::Volt, 2), text(d.crestIn, Unit::Volt, 2)) +
              out;
        if (!f.power[at].line()) {
            // Twice the watts is a builder's rule: a wire-wound resistor at its full rating is 200 to 300 °C hot.
            const double watts = f.power[at].clipWatts;
            out += QString(" At clipping the load takes %1: a resistor made for %2, on its sink or in free air, hot "
                           "enough to burn.")
                       .arg(text(watts, Unit::Watt, 2), text(2 * watts, Unit::Watt, 2));
        }
    }
    connecting->setText(out);
}

/// Proposed, until the builder says another: the level for 1 W, or for 1 V of a line.
void MeasureStation::proposeLevel() {
    const auto& f = document.figures();
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    if (at >= f.power.size() || !(f.power[at].gain > 0) || input->text() != proposed || input->hasFocus()) return;
    proposed = text(f.power[at].referenceVolts() / f.power[at].gain, Unit::Volt, 2);
    input->setText(proposed);
}

} // namespace ember::app
