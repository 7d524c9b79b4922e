#include "measure_station.h"

#include "connecting_words.h"
#include "sound_device_dialog.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/bench/played_capture.h"
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

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

void MeasureStation::buildHead(QVBoxLayout& layout) {
    const auto word = [](QHBoxLayout* to, const char* s) {
        auto* l = new QLabel(s);
        l->setProperty("dim", true);
        to->addWidget(l);
    };
    const auto combo = [&](QHBoxLayout* to, const char* caption, const char* object, const char* accessible) {
        word(to, caption);
        auto* c = new QComboBox;
        c->setObjectName(object);
        c->setAccessibleName(accessible);
        to->addWidget(c);
        return c;
    };
    auto* head = new QHBoxLayout;
    auto* name = new QLabel("Measure");
    name->setFont(theme::text(Size::Title, true));
    head->addWidget(name);
    head->addStretch();
    source = combo(head, "with", "takeWith", "What takes are made with");
    source->addItem("practice bench", static_cast<int>(Document::Bench::Practice));
    source->addItem("sound device", static_cast<int>(Document::Bench::SoundDevice));
    device = new QPushButton("Sound device...");
    device->setObjectName("soundDevice");
    head->addWidget(device);
    word(head, "file's full scale");
    fullScale = new QLineEdit("20 V");
    fullScale->setAccessibleName("Volts of a full-scale sample in the file");
    fullScale->setFixedWidth(70);
    fullScale->setFont(theme::figures(Size::Text));
    head->addWidget(fullScale);
    file = new QPushButton("Open a capture...");
    head->addWidget(file);
    layout.addLayout(head);
    auto* controls = new QHBoxLayout;
    channel = combo(controls, "channel", "takeChannel", "Channel");
    what = combo(controls, "measure", "takeKind", "What is measured");
    for (const bench::TakeForm& form : bench::takeForms()) what->addItem(form.caption, static_cast<int>(form.kind));
    what->insertItem(2, "response by 31 tones", -1);
    frequency = combo(controls, "at", "toneHertz", "Frequency of tone or square wave");
    for (const double hz : {20.0, 100.0, 1e3, 10e3, 20e3}) frequency->addItem(text(formatExact(hz, Unit::Hertz)), hz);
    frequency->setCurrentIndex(2);
    word(controls, "input");
    input = new QLineEdit("50 mV");
    input->setObjectName("input");
    input->setAccessibleName("Input level, volts RMS");
    input->setToolTip("RMS of a tone; other signals get the same crest");
    input->setFixedWidth(80);
    input->setFont(theme::figures(Size::Text));
    controls->addWidget(input);
    takeNow = new QPushButton("Take");
    takeNow->setObjectName("take");
    takeNow->setProperty("main", true);
    controls->addWidget(takeNow);
    cancel = new QPushButton("Cancel");
    cancel->setObjectName("cancelTake");
    cancel->hide();
    controls->addWidget(cancel);
    controls->addStretch();
    layout.addLayout(controls);
}

MeasureStation::MeasureStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    buildHead(*layout);
    auto* figures = new QHBoxLayout;
    static constexpr std::array names{"power", "gain", "thd", "thdNoise"};
    for (std::size_t k = 0; k < values.size(); ++k) {
        auto* box = new QVBoxLayout;
        captions[k] = new QLabel;
        captions[k]->setProperty("dim", true);
        values[k] = new QLabel("-");
        values[k]->setObjectName(names[k]);
        values[k]->setFont(theme::figures(static_cast<Size>(28), true));
        box->addWidget(captions[k]);
        box->addWidget(values[k]);
        figures->addLayout(box);
        figures->addStretch();
    }
    layout->addLayout(figures);
    words = new QLabel;
    words->setObjectName("takeWords");
    words->setWordWrap(true);
    layout->addWidget(words);
    layout->addWidget(connecting = label("", Size::Small, false, "dim"));
    connecting->setObjectName("connecting");
    layout->addWidget(charts = new TakeCharts, 3);
    auto* row = new QHBoxLayout;
    auto* group = new QButtonGroup(this);
    for (const char* caption : {"distortion", "distortion by frequency", "response", "output impedance"}) {
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
    lower->addWidget(bySweep = new SweepDistortion(document));
    lower->addWidget(response = new ResponseView(document));
    layout->addWidget(lower, 4);
    connect(group, &QButtonGroup::idClicked, this, [this](int k) { look(static_cast<View>(k)); });
    connect(response, &ResponseView::said, this, &Station::said);
    connect(response, &ResponseView::swept, this, [this](const QString& low, const QString& high) {
        for (std::size_t k = 0; k < values.size(); ++k) {
            captions[k]->setText(sweepCaptions[k]);
            values[k]->setText(k == 0 ? low : k == 1 ? high : QString());
        }
    });
    connect(response, &ResponseView::distorted, bySweep, &SweepDistortion::showSweep);
    connect(takeNow, &QPushButton::clicked, this, &MeasureStation::take);
    connect(cancel, &QPushButton::clicked, this, [this] { document.cancelTake(); });
    connect(input, &QLineEdit::returnPressed, this, &MeasureStation::take);
    connect(device, &QPushButton::clicked, this, [this] {
        SoundDeviceDialog dialog(this);
        dialog.exec();
        refresh();
    });
    connect(file, &QPushButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getOpenFileName(
            this, "A capture of the load's voltage", {}, "Captures (*.wav *.flac *.aiff *.csv *.tsv);;All files (*)");
        if (!chosen.isEmpty()) analyseFile(chosen);
    });
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    connect(&document, &Document::practiceChanged, this, &MeasureStation::refresh);
    connect(&document, &Document::takeMoved, this, [this](double share) {
        if (document.taking()) words->setText(QString("taking: %1 %").arg(100 * share, 0, 'f', 0));
    });
    connect(&document, &Document::takeApproaches, this, [this](double volts) {
        if (document.taking()) words->setText("raising the level: " + text(volts, Unit::Volt, 2));
    });
    for (QComboBox* c : {source, channel, what})
        connect(c, &QComboBox::currentIndexChanged, this, &MeasureStation::refresh);
    connect(&planning, &QFutureWatcherBase::finished, this, &MeasureStation::addPlanned);
    static constexpr std::array firstCaptions{"power in the load", "gain", "THD", "THD + noise"};
    for (std::size_t k = 0; k < captions.size(); ++k) captions[k]->setText(firstCaptions[k]);
    refresh();
}

MeasureStation::~MeasureStation() {
    stopPlanning.request_stop();
    planning.waitForFinished();
}

void MeasureStation::look(View wanted) {
    view = wanted;
    tabs[static_cast<std::size_t>(view)]->setChecked(true);
    lower->setCurrentIndex(std::min(static_cast<int>(view), 2)); // the last two share one
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    if (view == View::Distortion)
        distortion->look(at);
    else if (view == View::SweepDistortion)
        bySweep->look(at);
    else
        response->look(view == View::Response ? ResponseView::Kind::Response : ResponseView::Kind::OutputImpedance, at);
}

void MeasureStation::choose(std::optional<bench::TakeKind> kind) {
    what->setCurrentIndex(what->findData(kind ? static_cast<int>(*kind) : -1));
}

std::optional<bench::TakeKind> MeasureStation::chosen() const {
    const int kind = what->currentData().toInt();
    return kind < 0 ? std::nullopt : std::optional(static_cast<bench::TakeKind>(kind));
}

Document::Bench MeasureStation::bench() const {
    return static_cast<Document::Bench>(source->currentData().toInt());
}

bool MeasureStation::ready() const {
    return bench() == Document::Bench::SoundDevice || document.practising();
}

bench::TakeRequest MeasureStation::asked(double volts) const {
    return {chosen().value_or(bench::TakeKind::Tone), static_cast<std::size_t>(std::max(0, channel->currentIndex())),
            volts, frequency->currentData().toDouble(), 0};
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
    const auto kind = chosen();
    frequency->setEnabled(kind && bench::formOf(*kind).atFrequency);
    input->setEnabled(kind != bench::TakeKind::Noise);
    takeNow->setEnabled(ready() && !document.taking());
    takeNow->setToolTip(
        ready() ? QString()
                : "Turn the practice bench on (Practice menu), choose the sound device, or open a capture.");
    const auto& power = document.figures().power;
    const auto at = static_cast<std::size_t>(std::max(0, channel->currentIndex()));
    connecting->setText(connectingWords(at < power.size() ? &power[at] : nullptr));
    proposeLevel();
    look(view);
}

void MeasureStation::take() {
    const auto v = parseWithin(input->text().toStdString(), Unit::Volt, {1e-5, 50});
    if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
    if (!ready()) return Q_EMIT said("Turn the practice bench on, choose the sound device, or open a capture.", false);
    if (document.taking()) return;
    if (!chosen()) {
        look(View::Response);
        return response->takeSteps(bench(), *v);
    }
    const bench::TakeRequest request = asked(*v);
    takeNow->setEnabled(false);
    cancel->show();
    words->setText("taking: " + what->currentText() + " ...");
    document.take(
        bench(), request,
        [this, request, before = document.revisionNow(), at = channel->currentIndex()](Expected<signal::Capture> c) {
            cancel->hide();
            takeNow->setEnabled(ready());
            if (before != document.revisionNow() || at != channel->currentIndex()) {
                words->setText("The build or the channel changed meanwhile: take it again.");
                return;
            }
            if (!c) {
                words->setText(QString::fromStdString(c.problem().sentence));
                return Q_EMIT said(QString::fromStdString(c.problem().sentence), false);
            }
            showTake(request, *c, request.inputRms);
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
        bench::TakeRequest request = asked(v ? *v : plan::unknown);
        // A sweep needs what was played beside it, and has its own button; a square's frequency is found.
        if (request.kind == bench::TakeKind::Sweep) request.kind = bench::TakeKind::Tone;
        request.hertz = 0;
        showTake(request, **c, v ? *v : plan::unknown);
    });
    watcher->setFuture(QtConcurrent::run([path = name.toStdString(), s = *scale] {
        return std::make_shared<Expected<signal::Capture>>(signal::readCapture(path, 1, s));
    }));
}

/// Analysed in the background, then shown and kept.
void MeasureStation::showTake(const bench::TakeRequest& request, const signal::Capture& c, double inputRms) {
    if (request.channel >= document.build().channels.size())
        return words->setText("This build has no channel to measure.");
    using Result = std::shared_ptr<Expected<TakeReading>>;
    auto* watcher = new QFutureWatcher<Result>(this);
    const auto capture = std::make_shared<const signal::Capture>(c);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, request, capture] {
        const Result reading = watcher->result();
        watcher->deleteLater();
        if (!*reading) return words->setText(QString::fromStdString(reading->problem().sentence));
        draw(**reading, request);
        if (request.kind == bench::TakeKind::Tone) distortion->setFloor((*reading)->floorThd);
        if (request.kind == bench::TakeKind::Sweep) bySweep->setFloor((*reading)->floorThd);
        if (request.kind != bench::TakeKind::Sweep) return keep(request, capture->source, **reading);
        look(View::Response);
        response->showSweep(request, *capture);
    });
    watcher->setFuture(QtConcurrent::run(
        [request, capture, context = contextOf(document.solved(), request.channel, inputRms)]() mutable {
            const auto known = bench::lastCalibration(bench::calibrationFile());
            if (known && known->recorder == capture->source) context.device = bench::limitsOf(*known);
            return std::make_shared<Expected<TakeReading>>(readTake(request, *capture, context));
        }));
}

void MeasureStation::keep(const bench::TakeRequest& request, const std::string& from, const TakeReading& reading) {
    if (request.channel >= document.build().channels.size()) return; // another build was opened meanwhile
    LogEntry e;
    e.kind = "measure";
    e.source = from;
    e.stage = -1;
    e.text = document.build().channels[request.channel].name + ": " + reading.log;
    document.log(e);
    if (request.kind == bench::TakeKind::Tone)
        distortion->add(request.channel, std::isfinite(reading.watts) ? reading.watts : reading.level,
                        reading.thdPercent);
    else
        foretell(request);
    Q_EMIT said(QString::fromStdString(e.text), reading.good);
}

void MeasureStation::draw(const TakeReading& r, const bench::TakeRequest& request) {
    for (std::size_t k = 0; k < values.size(); ++k) {
        captions[k]->setText(r.figures[k].caption);
        values[k]->setText(r.figures[k].value);
        values[k]->setAccessibleName(r.figures[k].caption);
    }
    words->setText(r.words);
    words->setStyleSheet(QString("color:%1").arg(theme::color(r.good ? Role::Bone : Role::Stop).name()));
    const auto& planned = document.figures().wires;
    const wires::ChannelHum* hum =
        planned && request.channel < planned->hum.channels.size() ? &planned->hum.channels[request.channel] : nullptr;
    if (hum && request.kind == bench::TakeKind::Tone)
        words->setText(r.words + QString(";  hum predicted %1").arg(text(hum->rms, Unit::Volt)));
    charts->showTake(r, request.kind, hum);
}

/// What the plan answers to the same signal, in the background.
void MeasureStation::foretell(const bench::TakeRequest& request) {
    const Document::Solved& solved = document.solved();
    if (request.kind == bench::TakeKind::Noise || !(request.hertz > 0) || !(request.inputRms > 0) ||
        !solved.figures.nominal)
        return;
    stopPlanning.request_stop();
    stopPlanning = std::stop_source();
    planning.setFuture(QtConcurrent::run([b = solved.build, s = *solved.figures.nominal, request,
                                          stop = stopPlanning.get_token()] {
        const auto capture = bench::plannedTake(b, Catalogue::shipped(), s, request, {{}, stop});
        return std::make_shared<Planned>(Planned{request, capture ? readPlanned(request, *capture) : PlannedReading{}});
    }));
}

void MeasureStation::addPlanned() {
    const auto planned = planning.result();
    if (planned->reading.words.isEmpty() || charts->holdsPlanned() || planned->request.kind != chosen()) return;
    words->setText(words->text() + " " + planned->reading.words);
    charts->addPlanned(planned->reading.period, planned->reading.periodSeconds);
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
