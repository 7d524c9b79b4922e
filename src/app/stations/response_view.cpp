#include "response_view.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_export.h"
#include "app/widgets/words.h"
#include "core/signal/table_file.h"
#include "core/signal/tone_analysis.h"

#include <QComboBox>
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
    plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
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
        if (asked != document.revisionNow()) return compute();
        draw();
    });
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) compute();
    });
    connect(&document, &Document::opened, this, [this] {
        all.clear();
        compared = -1;
    });
}

void ResponseView::look(Kind what, std::size_t which) {
    kind = what;
    channel = which;
    sweep->setVisible(kind == Kind::Response);
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
    if (solving.isRunning() || !solved.figures.nominal || channel >= solved.build.channels.size()) return;
    asked = document.revisionNow();
    solving.setFuture(QtConcurrent::run([b = solved.build, s = *solved.figures.nominal, k = channel] {
        return plan::channelResponse(b, Catalogue::shipped(), s, k);
    }));
}

void ResponseView::takeSteps(Document::Bench with, double volts) {
    if (taking()) return;
    bench = with;
    steps.clear();
    for (int k = -17; k <= 13; ++k) steps.push_back(1000 * std::exp2(k / 3.0)); // 20 Hz to 20 kHz about 1 kHz
    next = 0, takenOf = channel, level = volts;
    partial = {};
    cancel->show();
    takeNext();
}

void ResponseView::takeNext() {
    if (!taking()) return finish();
    const double hz = steps[next];
    words->setText(QString("%1 of %2: %3").arg(next + 1).arg(steps.size()).arg(text(hz, Unit::Hertz)));
    document.take(bench, {bench::TakeKind::Tone, takenOf, level, hz, hz < 100 ? 1.0 : 0.3, next > 0},
                  [this, hz, revision = document.revisionNow()](Expected<signal::Capture> c) {
                      if (!taking() || steps[next] != hz) return; // cancelled
                      const auto tone = c ? signal::analyseTone(c->volts, c->sampleRate, c->fullScale)
                                          : Expected<signal::ToneAnalysis>(c.problem());
                      if (!tone || revision != document.revisionNow()) {
                          steps.clear();
                          finish();
                          return Q_EMIT said(tone ? QString("The build changed meanwhile: take it again.")
                                                  : text(tone.problem().sentence),
                                             false);
                      }
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
    if (whole) {
        const auto at = std::find(result.hertz.begin(), result.hertz.end(), 1000.0) - result.hertz.begin();
        const double reference = result.db[static_cast<std::size_t>(at)];
        for (double& db : result.db) db -= reference;
        result.low = edgeOf(result, false), result.high = edgeOf(result, true);
        keep(std::move(result), QString("31 tones at %1").arg(text(level, Unit::Volt, 2)),
             bench == Document::Bench::Practice ? "practice" : "sound device");
    }
    draw();
}

void ResponseView::keep(Measured result, const QString& how, const std::string& source) {
    const Build& b = document.build();
    if (takenOf >= b.channels.size()) return;
    LogEntry e;
    e.kind = "measure";
    e.source = source;
    e.stage = -1;
    e.text = fmt::format("{}: response {}, by {}", b.channels[takenOf].name,
                         ends(result.low, result.high, result.hertz).toStdString(), how.toStdString());
    document.log(e);
    const QString title =
        QString("%1, %2, %3").arg(text(b.channels[takenOf].name), how, QTime::currentTime().toString("HH:mm:ss"));
    all.push_back({takenOf, title, std::move(result)});
    listTakes();
    Q_EMIT said(text(e.text), true);
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
        captured.toStdString(), plan::unknown);
}

void ResponseView::showSweep(const bench::TakeRequest& request, const signal::Capture& capture) {
    analyse(
        [request, capture]() -> Expected<signal::Response> {
            auto volts = bench::voltsOf(request);
            if (!volts) return volts.problem();
            return signal::sweepResponse(capture, {std::move(*volts), bench::takeRate, 0, ""});
        },
        capture.source, request.inputRms);
}

/// In the background, then kept for the channel shown now.
void ResponseView::analyse(std::function<Expected<signal::Response>()> analysis, const std::string& source,
                           double inputRms) {
    takenOf = channel;
    using Result = std::shared_ptr<Expected<signal::Response>>;
    auto* watcher = new QFutureWatcher<Result>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, source, inputRms] {
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
        const auto end = [](double found, const char* beyond, double looked) {
            return std::isfinite(found) ? text(found, Unit::Hertz) : QString(beyond) + text(looked, Unit::Hertz);
        };
        if (!m.hertz.empty())
            Q_EMIT swept(end(m.low, "below ", m.hertz.front()), end(m.high, "above ", m.hertz.back()));
        Q_EMIT distorted(takenOf, inputRms, (*r)->harmonics);
        keep(std::move(m), "sweep", source);
        draw();
        for (const std::string& doubt : (*r)->trust) words->setText(words->text() + " " + text(doubt) + ".");
    });
    watcher->setFuture(QtConcurrent::run(
        [analysis = std::move(analysis)] { return std::make_shared<Expected<signal::Response>>(analysis()); }));
}

void ResponseView::draw() {
    plot->clearGraphs();
    const bool response = kind == Kind::Response;
    theme::dress(*plot, "hertz", response ? "dB of 1 kHz" : "ohms");
    plot->xAxis->setScaleType(QCPAxis::stLogarithmic);
    plot->xAxis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
    const auto scale = response ? QCPAxis::stLinear : QCPAxis::stLogarithmic;
    plot->yAxis->setScaleType(scale);
    plot->yAxis->setTicker(response ? QSharedPointer<QCPAxisTicker>(new QCPAxisTicker)
                                    : QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog));
    for (QCPAxis* axis : {plot->xAxis, plot->yAxis}) {
        axis->setNumberFormat("g");
        axis->setNumberPrecision(6);
    }
    plot->xAxis->setRange(5, 100e3);
    const auto add = [&](const std::vector<double>& x, const std::vector<double>& y, Role role, bool dots) {
        auto* g = plot->addGraph();
        g->setPen(QPen(theme::color(role), dots ? 1.2 : 2));
        if (dots) g->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme::color(role), 5));
        g->setData(QVector<double>(x.begin(), x.end()), QVector<double>(y.begin(), y.end()), true);
    };
    if (!plan.hertz.empty()) add(plan.hertz, response ? plan.db : plan.outputOhms, Role::Brass, false);
    Measured shown = measured();
    if (taking() && takenOf == channel) { // relative to its own middle until 1 kHz was there
        shown = partial;
        double reference = shown.db.empty() ? 0 : *std::max_element(shown.db.begin(), shown.db.end());
        for (double& db : shown.db) db -= reference;
    }
    if (response && !shown.hertz.empty()) add(shown.hertz, shown.db, Role::Verdigris, shown.hertz.size() < 60);
    const std::vector<double> apart = response && !taking() ? difference() : std::vector<double>{};
    if (!apart.empty()) {
        const Measured& then = all[static_cast<std::size_t>(compared)].curve;
        add(then.hertz, then.db, Role::Verdigris, false);
        plot->graph(plot->graphCount() - 1)->setPen(QPen(theme::color(Role::Verdigris), 1, Qt::DashLine));
        add(shown.hertz, apart, Role::Bone, false);
        plot->graph(plot->graphCount() - 1)->setPen(QPen(theme::color(Role::Bone), 1, Qt::DotLine));
    }
    if (response)
        plot->yAxis->setRange(-12, 3);
    else if (!plan.outputOhms.empty()) {
        const auto [least, most] = std::minmax_element(plan.outputOhms.begin(), plan.outputOhms.end());
        plot->yAxis->setRange(*least / 2, *most * 2);
    }
    if (!taking()) {
        const auto& power = document.figures().power;
        QString line;
        if (plan.hertz.empty())
            line = "The plan's response could not be computed: the channel has no operating point.";
        else if (response)
            line = "Planned (brass): " + ends(plan.ends.low, plan.ends.high, plan.hertz) +
                   (shown.hertz.empty() ? QString(".")
                                        : ". Measured (verdigris): " + ends(shown.low, shown.high, shown.hertz) + ".") +
                   farthestApart(shown.hertz, apart);
        else {
            const auto at = std::min_element(plan.hertz.begin(), plan.hertz.end(), [](double a, double b) {
                return std::abs(std::log(a / 1000)) < std::abs(std::log(b / 1000));
            });
            const double ohms = plan.outputOhms[static_cast<std::size_t>(at - plan.hertz.begin())];
            line = QString("Planned (brass): %1 at 1 kHz").arg(text(ohms, Unit::Ohm));
            if (channel < power.size() && !power[channel].line())
                line +=
                    QString(", damping %1 into %2")
                        .arg(text(power[channel].load / ohms, Unit::None, 2), text(power[channel].load, Unit::Ohm, 2));
            line += ". To measure it: the volts with two loads, Z = (V2 - V1) / (V1/R1 - V2/R2). Never without a load: "
                    "an open output stage arcs.";
        }
        words->setText(line);
    }
    plot->replot(QCustomPlot::rpQueuedReplot);
}

Expected<Done> ResponseView::exportTo(const QString& file) const {
    std::string out = "hz,planned_db,planned_degrees,planned_output_ohms,measured_hz,measured_db\n";
    const Measured& m = measured();
    for (std::size_t k = 0; k < std::max(plan.hertz.size(), m.hertz.size()); ++k) {
        out += k < plan.hertz.size() ? fmt::format("{:.6g},{:.4f},{:.3f},{:.5g}", plan.hertz[k], plan.db[k],
                                                   plan.degrees[k], plan.outputOhms[k])
                                     : ",,,";
        out += k < m.hertz.size() ? fmt::format(",{:.6g},{:.4f}\n", m.hertz[k], m.db[k]) : ",,\n";
    }
    return exportPlot(*plot, file, out);
}

} // namespace ember::app
