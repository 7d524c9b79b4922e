#include "measure_station.h"

#include "sound_device_dialog.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/bench/model_bench.h"
#include "core/build/own_types.h"
#include "core/plan/as_built.h"
#include "core/signal/square_wave.h"
#include "core/signal/table_file.h"
#include "core/wires/hum.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>
#include <QPromise>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <QtConcurrent>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

void MeasureStation::buildTakePage(QWidget& page) {
    auto* layout = new QVBoxLayout(&page);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* figures = new QHBoxLayout;
    static constexpr std::array names{"power", "gain", "thd", "thdNoise"};
    for (std::size_t k = 0; k < values.size(); ++k) {
        auto* box = new QVBoxLayout;
        captions[k] = label("", Size::Text, false, "dim");
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
    sourceFile = new QPushButton("Source's square...");
    sourceFile->setObjectName("sourceSquare");
    sourceFile->setToolTip("A capture of the generator's own square, without the amplifier: its shape is taken out");
    row->addWidget(sourceFile);
    connect(sourceFile, &QPushButton::clicked, this, [this] {
        takeOutSource(sourceSquare ? QString()
                                   : QFileDialog::getOpenFileName(this, "The source's own square", {},
                                                                  "Captures (*.wav *.flac *.aiff *.csv *.tsv)"));
    });
    row->addWidget(label("against", Size::Text, false, "dim"));
    other = new QComboBox;
    other->setObjectName("compareEarlier");
    other->setAccessibleName("Earlier take that the newest is compared with");
    other->setMaximumWidth(190);
    other->addItem("nothing", -1);
    other->setEnabled(false);
    row->addWidget(other);
    layout->addLayout(row);
    lower = new QStackedWidget;
    lower->addWidget(distortion = new DistortionView(document));
    lower->addWidget(bySweep = new SweepDistortion(document));
    lower->addWidget(response = new ResponseView(document));
    layout->addWidget(lower, 4);
    connect(group, &QButtonGroup::idClicked, this, [this](int k) { look(static_cast<View>(k)); });
    connect(other, &QComboBox::currentIndexChanged, this, [this] { compareWith(other->currentData().toInt()); });
    static constexpr std::array firstCaptions{"power in the load", "gain", "THD", "THD + noise"};
    for (std::size_t k = 0; k < captions.size(); ++k) captions[k]->setText(firstCaptions[k]);
}

MeasureStation::MeasureStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    connections = new ConnectionsPanel(this);
    connections->hide();
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    layout->addWidget(controls = new MeasureControls(document));
    body = new QStackedWidget;
    auto* page = new QWidget;
    buildTakePage(*page);
    body->addWidget(page);
    auto* seriesPage = new QWidget;
    auto* seriesLayout = new QVBoxLayout(seriesPage);
    seriesLayout->setContentsMargins(0, 0, 0, 0);
    seriesLayout->addWidget(seriesWords = label(""));
    seriesWords->setObjectName("seriesTaking");
    seriesWords->setWordWrap(true);
    seriesLayout->addWidget(series = new SeriesView(document), 1);
    body->addWidget(seriesPage);
    body->addWidget(soak = new SoakView(document));
    body->addWidget(select = new SelectView(document));
    connect(soak, &SoakView::said, this, &Station::said);
    connect(select, &SelectView::said, this, &Station::said);
    connect(soak, &SoakView::changed, this, [this] { controls->showTaking(soak->running()); });
    layout->addWidget(body, 1);
    connect(response, &ResponseView::said, this, &Station::said);
    connect(distortion, &DistortionView::said, this, &Station::said);
    connect(bySweep, &SweepDistortion::said, this, &Station::said);
    connect(charts, &TakeCharts::said, this, &Station::said);
    connect(series, &SeriesView::said, this, &Station::said);
    connect(response, &ResponseView::swept, this, [this](const QString& low, const QString& high) {
        for (std::size_t k = 0; k < values.size(); ++k) {
            captions[k]->setText(sweepCaptions[k]);
            values[k]->setText(k == 0 ? low : k == 1 ? high : QString());
        }
    });
    connect(response, &ResponseView::distorted, bySweep, &SweepDistortion::showSweep);
    connect(controls, &MeasureControls::takeAsked, this, &MeasureStation::take);
    connect(controls, &MeasureControls::cancelAsked, this, [this] {
        soak->stop("stopped by hand");
        document.cancelTake();
    });
    connect(controls, &MeasureControls::changed, this, &MeasureStation::refresh);
    connect(controls, &MeasureControls::said, this, &Station::said);
    connect(controls, &MeasureControls::deviceAsked, this, [this] {
        SoundDeviceDialog dialog(this);
        dialog.exec();
        refresh();
    });
    connect(controls, &MeasureControls::fileAsked, this, [this] {
        const QString chosen = QFileDialog::getOpenFileName(
            this, "A capture of the load's voltage", QString::fromStdString(document.capturesFolder().string()),
            "Captures (*.wav *.flac *.aiff *.csv *.tsv);;Measurements kept by this program (*.json);;All files (*)");
        if (chosen.endsWith(".json", Qt::CaseInsensitive))
            lookAgain(std::filesystem::path(chosen.toStdString()).parent_path(),
                      {std::filesystem::path(chosen.toStdString()).filename().string(), ""});
        else if (!chosen.isEmpty())
            analyseFile(chosen);
    });
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    connect(&document, &Document::practiceChanged, this, &MeasureStation::refresh);
    connect(&document, &Document::setupWanted, this, &MeasureStation::askForSetup);
    connect(&document, &Document::opened, this, [this] { earlier.clear(); });
    connect(&document, &Document::takeMoved, this, [this](double share) {
        if (!document.taking()) return;
        for (QLabel* l : {words, seriesWords}) l->setText(QString("taking: %1 %").arg(100 * share, 0, 'f', 0));
    });
    connect(&document, &Document::takeApproaches, this, [this](double volts) {
        if (document.taking()) words->setText("raising the level: " + text(volts, Unit::Volt, 2));
    });
    connect(&planning, &QFutureWatcherBase::resultReadyAt, this, &MeasureStation::addPlanned);
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
    const auto at = controls->channel();
    if (view == View::Distortion)
        distortion->look(at);
    else if (view == View::SweepDistortion)
        bySweep->look(at);
    else
        response->look(view == View::Response ? ResponseView::Kind::Response : ResponseView::Kind::OutputImpedance, at);
}

bool MeasureStation::ready() const {
    return controls->bench() == Document::Bench::SoundDevice || document.practising();
}

void MeasureStation::arrive() {
    refresh();
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
    controls->refresh(ready());
    const auto& power = document.figures().power;
    const std::size_t at = controls->channel();
    std::optional<bench::SeriesRequest> asked;
    if (controls->series())
        if (const auto r = controls->askedSeries()) asked = *r;
    connections->show(wiringOf(document, controls->bench(), at, controls->take(), controls->asked(0).setup, asked),
                      at < power.size() ? &power[at] : nullptr);
    using enum MeasureControls::Page;
    if (isVisible()) connections->setVisible(controls->page() != Select); // nothing is played for it
    sourceFile->setVisible(controls->take() == bench::TakeKind::Square);
    body->setCurrentIndex(controls->page() == Soak ? 2 : controls->page() == Select ? 3 : controls->series() ? 1 : 0);
    if (controls->page() == Soak)
        soak->arrive(at);
    else if (controls->page() == Select)
        select->arrive();
    else if (asked)
        series->look(*asked);
    else
        look(view);
}

void MeasureStation::take() {
    if (!ready()) return Q_EMIT said("Turn the practice bench on, choose the sound device, or open a capture.", false);
    if (document.taking()) return;
    if (controls->series()) return takeSeries();
    const auto v = controls->inputVolts();
    if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
    if (controls->page() == MeasureControls::Page::Soak) return soak->start(controls->bench(), controls->asked(*v));
    if (!controls->take()) {
        look(View::Response);
        return response->takeSteps(controls->bench(), *v);
    }
    const bench::TakeRequest request = controls->asked(*v);
    controls->showTaking(true);
    words->setText("taking: " + controls->caption() + " ...");
    document.take(
        controls->bench(), request,
        [this, request, before = document.revisionNow(), at = controls->channel()](Expected<signal::Capture> c) {
            controls->showTaking(false);
            controls->refresh(ready());
            if (before != document.revisionNow() || at != controls->channel()) {
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

void MeasureStation::askForSetup(const QString& sentence) {
    auto* box = new QMessageBox(QMessageBox::Information, "Before the next tones", sentence,
                                QMessageBox::Ok | QMessageBox::Cancel, this);
    box->setObjectName("setupWanted");
    box->setInformativeText("Volume down before a lead is moved.");
    box->button(QMessageBox::Ok)->setText("Done, go on");
    box->setAttribute(Qt::WA_DeleteOnClose);
    connect(box, &QMessageBox::finished, this, [this](int code) {
        if (code == QMessageBox::Ok)
            document.answerSetup(true);
        else
            document.cancelTake();
    });
    box->open();
}

void MeasureStation::takeOutSource(const QString& file) {
    sourceSquare.reset();
    if (!file.isEmpty()) {
        const auto c = signal::readCapture(file.toStdString(), 1, 1.0);
        const auto square = c ? signal::analyseSquare(*c) : Expected<signal::SquareAnalysis>(c.problem());
        if (!square) return Q_EMIT said(text(square.problem().text()), false);
        sourceSquare = *c;
        Q_EMIT said(QString("The source's square of %1 is taken out of the squares from now on.")
                        .arg(text(square->hertz, Unit::Hertz)),
                    true);
    }
    sourceFile->setText(sourceSquare ? "Source's square: taken out" : "Source's square...");
}

void MeasureStation::analyseFile(const QString& name) {
    const auto scale = controls->fileFullScale();
    if (!scale) return Q_EMIT said(QString::fromStdString(scale.problem().sentence), false);
    words->setText("reading " + name + " ...");
    auto* watcher = new QFutureWatcher<std::shared_ptr<Expected<signal::Capture>>>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, name] {
        const auto c = watcher->result();
        watcher->deleteLater();
        if (!*c) {
            words->setText(QString::fromStdString(c->problem().text()));
            return Q_EMIT said(QString::fromStdString(c->problem().text()), false);
        }
        if (controls->series() == bench::SeriesKind::Sag) return addNode(**c, name);
        const auto v = controls->inputVolts();
        bench::TakeRequest request = controls->asked(v ? *v : plan::unknown);
        // A sweep needs what was played beside it, and has its own button; a square's frequency is found.
        if (request.kind == bench::TakeKind::Sweep) request.kind = bench::TakeKind::Tone;
        request.hertz = 0;
        showTake(request, **c, v ? *v : plan::unknown);
    });
    watcher->setFuture(QtConcurrent::run([path = name.toStdString(), s = *scale] {
        return std::make_shared<Expected<signal::Capture>>(signal::readCapture(path, 1, s));
    }));
}

/// What the plan answers to the same signal, in the background: by itself first, then with the ranges of healthy
/// amplifiers.
void MeasureStation::foretell(const bench::TakeRequest& request) {
    const Document::Solved& solved = document.solved();
    if (request.kind == bench::TakeKind::Noise || !(request.hertz > 0) || !(request.inputRms > 0) ||
        !solved.figures.nominal)
        return;
    stopPlanning.request_stop();
    stopPlanning = std::stop_source();
    plannedWords.clear();
    bench::TakeRequest alone = request; // what the second input has is no prediction
    alone.setup.second = bench::SecondInput::Nothing;
    planning.setFuture(QtConcurrent::run([b = solved.build, mains = document.mainsRead(), request = alone,
                                          stop = stopPlanning.get_token()](QPromise<std::shared_ptr<Planned>>& out) {
        constexpr std::uint64_t amplifiers = 6; // that the ranges are drawn from
        std::vector<signal::Capture> captures;
        for (std::uint64_t seed = 0; seed <= amplifiers && !stop.stop_requested(); ++seed)
            if (auto model = bench::ModelBench::at(
                    seed % 2 ? plan::asBuiltOnRealMains(b, seed) : plan::asBuilt(b, seed), catalogueOf(b), mains, stop))
                if (auto capture = model->take(bench::shortened(request), {{}, stop})) {
                    captures.push_back(*capture);
                    if (seed == 0)
                        out.addResult(std::make_shared<Planned>(Planned{request, readPlanned(request, captures)}));
                }
        out.addResult(std::make_shared<Planned>(Planned{request, readPlanned(request, captures)}));
    }));
}

void MeasureStation::addPlanned(int at) {
    const auto planned = planning.resultAt(at);
    if (planned->reading.words.isEmpty() || planned->request.kind != controls->take()) return;
    QString before = words->text();
    if (!plannedWords.isEmpty()) {
        if (!before.endsWith(plannedWords)) return; // something else has been said since
        before.chop(plannedWords.size());
    } else if (charts->holdsPlanned()) {
        return;
    }
    plannedWords = " " + planned->reading.words;
    words->setText(before + plannedWords);
    charts->addPlanned(planned->reading.period, planned->reading.periodSeconds);
}

} // namespace ember::app
