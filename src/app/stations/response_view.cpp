#include "response_view.h"

#include "app/document/last_computed.h"
#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/build/flat.h"
#include "core/signal/phase.h"
#include "core/signal/table_file.h"
#include "core/signal/tone_analysis.h"

#include <QComboBox>
#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTime>
#include <QVBoxLayout>
#include <QtConcurrent>
#include <fmt/format.h>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// Of the circuits, channels and mains that were looked at last.
LastComputed<std::string, PlannedResponse, 8>& knownPlans() {
    static LastComputed<std::string, PlannedResponse, 8> known;
    return known;
}

} // namespace

ResponseView::ResponseView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    words = label("", Size::Text, false, "dim");
    words->setObjectName("responseWords");
    words->setWordWrap(true);
    row->addWidget(words, 1);
    const auto button = [&](const char* caption, const char* name) {
        auto* b = new QPushButton(caption);
        b->setObjectName(name);
        row->addWidget(b);
        return b;
    };
    cancel = button("Cancel", "cancelSteps");
    cancel->hide();
    sweep = button("Open a sweep...", "openSweep");
    sweep->setToolTip("A captured sweep, then the sweep file that was played: dim-ember-cli stimulus sweep writes one");
    sides = new QComboBox;
    sides->setObjectName("responseSide");
    sides->setAccessibleName("What of the response is drawn");
    for (const char* caption : {"magnitude", "phase", "group delay", "step"}) sides->addItem(caption);
    row->addWidget(sides);
    connect(sides, &QComboBox::currentIndexChanged, this, [this](int k) { showSide(static_cast<Side>(k)); });
    row->addWidget(label("compared with", theme::Size::Text, false, "dim"));
    other = new QComboBox;
    other->setObjectName("compareTake");
    other->setAccessibleName("Take that the newest is compared with");
    other->setMaximumWidth(190);
    row->addWidget(other);
    connect(other, &QComboBox::currentIndexChanged, this, [this] { compareWith(other->currentData().toInt()); });
    write = button("Export", "exportResponse");
    auto* menu = new QMenu(write);
    for (const auto& [caption, ending] :
         {std::pair{"Picture, PNG...", ".png"}, {"Picture, SVG...", ".svg"}, {"Figures, CSV...", ".csv"}})
        connect(menu->addAction(caption), &QAction::triggered, this, [this, ending = ending] {
            const QString name = QFileDialog::getSaveFileName(
                this, "Export", text(document.build().name).toLower() + "-response" + ending);
            if (name.isEmpty()) return;
            const auto done = exportTo(name);
            Q_EMIT said(done ? "written: " + name : text(done.problem().text()), done.ok());
        });
    write->setMenu(menu);
    layout->addLayout(row);
    plot = new QCustomPlot;
    plot->setObjectName("responsePlot");
    plot->setAccessibleName("Response or output impedance, planned and measured");
    tools = new PlotTools(
        plot, [this] { return text(document.build().name).toLower() + "-response"; }, [this] { showRanges(); });
    connect(tools, &PlotTools::said, this, &ResponseView::said);
    layout->addWidget(plot, 1);
    connect(cancel, &QPushButton::clicked, this, [this] {
        document.cancelTake();
        steps.clear();
        finish();
    });
    connect(sweep, &QPushButton::clicked, this, [this] {
        const QString files = "Sounds and tables (*.wav *.flac *.csv *.tsv);;All files (*)";
        const QString capture = QFileDialog::getOpenFileName(this, "The captured sweep", {}, files);
        if (capture.isEmpty()) return;
        const QString played = QFileDialog::getOpenFileName(this, "The sweep that was played", {}, files);
        if (!played.isEmpty()) openSweep(capture, played);
    });
    connect(&solving, &QFutureWatcherBase::finished, this, [this] {
        plan = solving.result();
        if (asked != document.revisionNow() || askedChannel != channel) {
            plan = {};
            return compute();
        }
        if (!plan.nominal.hertz.empty()) knownPlans().keep(key, plan);
        draw();
    });
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) compute();
    });
    connect(&document, &Document::opened, this, [this] {
        all.clear();
        compared = -1;
        plan = {};
        device.clear();
    });
}

ResponseView::~ResponseView() {
    stopSolving.request_stop();
    solving.waitForFinished();
}

void ResponseView::showSide(Side wanted) {
    side = wanted;
    sides->setCurrentIndex(static_cast<int>(wanted));
    draw();
}

void ResponseView::look(Kind what, std::size_t which) {
    kind = what;
    channel = which;
    sweep->setVisible(kind == Kind::Response);
    sides->setVisible(kind == Kind::Response);
    listTakes();
    compute();
    draw();
}

const ResponseView::Measured& ResponseView::measured() const {
    static const Measured none;
    const auto found = std::find_if(all.rbegin(), all.rend(), [&](const Take& t) { return t.channel == channel; });
    return found == all.rend() ? none : found->curve;
}

void ResponseView::compareWith(int take) {
    compared = take >= 0 && take < static_cast<int>(all.size()) ? take : -1;
    draw();
}

std::vector<double> ResponseView::difference() const {
    return compared < 0 ? std::vector<double>{}
                        : differenceOf(measured(), all[static_cast<std::size_t>(compared)].curve);
}

/// Every take but the newest of the channel shown, to choose from.
void ResponseView::listTakes() {
    const QSignalBlocker quiet(other);
    other->clear();
    other->addItem("nothing", -1);
    const Measured* newest = &measured();
    for (std::size_t k = 0; k < all.size(); ++k)
        if (&all[k].curve != newest) other->addItem(all[k].title, static_cast<int>(k));
    const int at = other->findData(compared);
    if (at < 0) compared = -1;
    other->setCurrentIndex(std::max(0, at));
    other->setEnabled(other->count() > 1);
}

void ResponseView::compute() {
    const Document::Solved& solved = document.solved();
    if (solving.isRunning() || !isVisible() || !solved.figures.nominal || channel >= solved.build.channels.size() ||
        (asked == document.revisionNow() && askedChannel == channel && !plan.nominal.hertz.empty()))
        return;
    asked = document.revisionNow(), askedChannel = channel;
    stopSolving = std::stop_source();
    constexpr int amplifiers = 8; // that the band is drawn from
    key = fmt::format("{} {}\n{}", channel, document.mainsRead(), flatCircuit(solved.build));
    if (const PlannedResponse* known = knownPlans().find(key)) {
        plan = *known;
        return draw();
    }
    solving.setFuture(QtConcurrent::run(
        [b = solved.build, s = *solved.figures.nominal, k = channel, mains = document.mainsRead(),
         stop = stopSolving.get_token()] { return plannedResponse(b, s, k, mains, amplifiers, stop); }));
}

void ResponseView::takeSteps(Document::Bench with, double volts) {
    if (taking()) return;
    bench = with;
    steps.clear();
    for (int k = -17; k <= 13; ++k) steps.push_back(1000 * std::exp2(k / 3.0)); // 20 Hz to 20 kHz about 1 kHz
    next = 0, takenOf = channel, level = volts;
    partial = {};
    records.clear();
    cancel->show();
    takeNext();
}

void ResponseView::takeNext() {
    if (!taking()) return finish();
    const double hz = steps[next];
    words->setText(QString("%1 of %2: %3").arg(next + 1).arg(steps.size()).arg(text(hz, Unit::Hertz)));
    document.take(bench, {bench::TakeKind::Tone, takenOf, level, hz, hz < 100 ? 1.0 : 0.3, next > 0},
                  [this, hz, revision = document.revisionNow()](Expected<signal::Capture> c) {
                      if (next >= steps.size() || steps[next] != hz) return; // cancelled
                      const auto tone = c ? signal::analyseTone(c->volts, c->sampleRate, c->fullScale)
                                          : Expected<signal::ToneAnalysis>(c.problem());
                      if (!tone || revision != document.revisionNow()) {
                          steps.clear();
                          finish();
                          return Q_EMIT said(tone ? QString("The build changed meanwhile: take it again.")
                                                  : text(tone.problem().sentence),
                                             false);
                      }
                      records.push_back({{bench::TakeKind::Tone, takenOf, level, hz}, *c});
                      partial.hertz.push_back(hz);
                      partial.db.push_back(20 * std::log10(tone->harmonics[0].rms / level));
                      ++next;
                      draw();
                      takeNext();
                  });
}

/// All tones taken, or cancelled: a whole take is kept, a part of one is not.
void ResponseView::finish() {
    cancel->hide();
    const bool whole = !steps.empty() && partial.hertz.size() == steps.size();
    steps.clear();
    next = 0;
    Measured result = std::exchange(partial, {});
    if (whole && takenOf < document.build().channels.size()) {
        const auto at = std::find(result.hertz.begin(), result.hertz.end(), 1000.0) - result.hertz.begin();
        const double reference = result.db[static_cast<std::size_t>(at)];
        for (double& db : result.db) db -= reference;
        result.low = edgeOf(result, false), result.high = edgeOf(result, true);
        const QString how = QString("31 tones at %1").arg(text(level, Unit::Volt, 2));
        const Build& b = document.build();
        bench::Measurement m{QDateTime::currentDateTime().toString(Qt::ISODate).toStdString(),
                             b.channels[takenOf].name + ": response by " + how.toStdString(),
                             std::nullopt,
                             bench::seriesContextOf(b, document.figures()),
                             b,
                             std::exchange(records, {})};
        const std::string source =
            bench == Document::Bench::Practice ? bench::VirtualAmplifier::practice : "sound device";
        keeping = true;
        auto* writing = new QFutureWatcher<bench::KeptFiles>(this);
        connect(writing, &QFutureWatcherBase::finished, this, [this, writing, result, how, source] {
            const bench::KeptFiles files = writing->result();
            writing->deleteLater();
            keeping = false;
            keep(result, how, source, files, true);
            draw();
        });
        writing->setFuture(QtConcurrent::run([folder = document.capturesFolder(), m = std::move(m)] {
            const auto kept = Document::keepCaptures(folder, m);
            return kept ? *kept : bench::KeptFiles{};
        }));
    }
    draw();
}

void ResponseView::keep(Measured result, const QString& how, const std::string& source, const bench::KeptFiles& files,
                        bool log) {
    const Build& b = document.build();
    if (takenOf >= b.channels.size()) return;
    LogEntry e;
    e.kind = "measure";
    e.source = source;
    e.stage = -1;
    e.text = fmt::format("{}: response {}, by {}", b.channels[takenOf].name,
                         ends(result.low, result.high, result.hertz).toStdString(), how.toStdString());
    e.file = files.name, e.hash = files.hash;
    if (log) document.log(e);
    const QString title =
        QString("%1, %2, %3").arg(text(b.channels[takenOf].name), how, QTime::currentTime().toString("HH:mm:ss"));
    all.push_back({takenOf, title, std::move(result)});
    listTakes();
    if (log) Q_EMIT said(text(e.text), true);
}

void ResponseView::openSweep(const QString& captured, const QString& played) {
    words->setText("reading " + captured + " ...");
    analyse(
        [a = captured.toStdString(), z = played.toStdString()]() -> Expected<signal::Response> {
            const auto capture = signal::readCapture(a, 1, 1.0), stimulus = signal::readCapture(z, 1, 1.0);
            if (!capture) return capture.problem();
            if (!stimulus) return stimulus.problem();
            return signal::sweepResponse(*capture, *stimulus);
        },
        captured.toStdString(), plan::unknown, {}, true);
}

void ResponseView::showSweep(const bench::TakeRequest& request, const signal::Capture& capture,
                             const bench::KeptFiles& files, bool log) {
    analyse(
        [request, capture]() -> Expected<signal::Response> {
            auto volts = bench::voltsOf(request);
            if (!volts) return volts.problem();
            const signal::Capture stimulus{std::move(*volts), bench::takeRate, 0, ""};
            if (request.setup.second != bench::SecondInput::Input || capture.second.empty())
                return signal::sweepResponse(capture, stimulus);
            const signal::Capture input{capture.second, capture.sampleRate, capture.fullScale, ""};
            return signal::sweepResponse(capture, stimulus, &input);
        },
        capture.source, request.inputRms, files, log,
        request.setup.second == bench::SecondInput::Input ? DeviceLoop::TakenOff : DeviceLoop::InIt);
}

/// In the background, then kept for the channel shown now.
void ResponseView::analyse(std::function<Expected<signal::Response>()> analysis, const std::string& source,
                           double inputRms, const bench::KeptFiles& files, bool log, DeviceLoop loop) {
    takenOf = channel;
    using Result = std::shared_ptr<Expected<signal::Response>>;
    auto* watcher = new QFutureWatcher<Result>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, source, inputRms, files, log, loop] {
        const Result r = watcher->result();
        watcher->deleteLater();
        if (!*r) {
            draw();
            return Q_EMIT said(text(r->problem().text()), false);
        }
        Measured m;
        double reference = plan::unknown, nearest = 1e9;
        for (const signal::ResponsePoint& p : (*r)->points)
            if (const double off = std::abs(std::log2(p.hertz / 1000)); off < nearest) nearest = off, reference = p.db;
        for (const signal::ResponsePoint& p : (*r)->points) {
            m.hertz.push_back(p.hertz);
            m.db.push_back(p.db - reference);
        }
        m.low = (*r)->lowCorner, m.high = (*r)->highCorner;
        m.degrees = signal::phaseFrom1kHz((*r)->points), m.delay = signal::groupDelay((*r)->points);
        m.step = (*r)->step, m.stepRate = (*r)->stepRate;
        // What the sound device itself does to the response is taken off.
        const auto known = bench::lastCalibration(bench::calibrationFile());
        if (loop == DeviceLoop::InIt && known && known->recorder == source && !known->loop.empty()) {
            for (std::size_t k = 0; k < m.hertz.size(); ++k) m.db[k] -= known->loopAt(m.hertz[k]);
            m.low = edgeOf(m, false), m.high = edgeOf(m, true);
            device.clear();
            for (const double hz : m.hertz) device.push_back(known->loopAt(hz));
            deviceHertz = m.hertz;
        }
        const auto end = [](double found, const char* beyond, double looked) {
            return std::isfinite(found) ? text(found, Unit::Hertz) : QString(beyond) + text(looked, Unit::Hertz);
        };
        if (!m.hertz.empty())
            Q_EMIT swept(end(m.low, "below ", m.hertz.front()), end(m.high, "above ", m.hertz.back()));
        Q_EMIT distorted(takenOf, inputRms, (*r)->harmonics);
        keep(std::move(m), "sweep", source, files, log);
        draw();
        for (const std::string& doubt : (*r)->trust) words->setText(words->text() + " " + text(doubt) + ".");
    });
    watcher->setFuture(QtConcurrent::run(
        [analysis = std::move(analysis)] { return std::make_shared<Expected<signal::Response>>(analysis()); }));
}

} // namespace ember::app
