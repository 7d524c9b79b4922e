#include "series_view.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/plan/clipping.h"
#include "core/plan/solve.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <QtConcurrent>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// Which valve or iron limits where clipping is planned at 1 kHz, and at the lowest frequency of the list.
QString limitsOf(const Build& b, double mains, const bench::SeriesRequest& r, const bench::SeriesContext& context,
                 const std::stop_token& stop) {
    const auto steady = plan::solveSteady(b, catalogueOf(b), {mains}, {.stop = stop});
    const bench::SeriesChannel& c = context.channels[r.channel];
    if (!steady || !(c.clipWatts > 0) || !(c.gain > 0)) return {};
    const double lowest = *std::min_element(r.frequencies.begin(), r.frequencies.end()),
                 level = 1.1 * std::sqrt(c.clipWatts * c.loadOhms) / c.gain;
    QString out;
    std::vector<double> at{r.kind == bench::SeriesKind::Power ? 1000.0 : r.hertz};
    if (r.kind == bench::SeriesKind::Power && lowest < 200) at.push_back(lowest);
    for (const double hz : at)
        if (const auto limit =
                plan::clippingAt(b, catalogueOf(b), *steady, r.channel, r.everyChannel, {level, hz, stop}))
            out += QString(" By the model, with %1 in at %2: %3.")
                       .arg(text(level, Unit::Volt, 2), text(hz, Unit::Hertz, 2), text(limit->words));
    return out;
}

bool sameQuestion(const bench::SeriesRequest& a, const bench::SeriesRequest& b) {
    return a.kind == b.kind && a.channel == b.channel && a.hertz == b.hertz && a.watts == b.watts &&
           a.frequencies == b.frequencies && a.everyChannel == b.everyChannel && a.secondLoad == b.secondLoad &&
           a.loudspeaker == b.loudspeaker;
}

Qt::PenStyle styleOf(std::size_t line) {
    static constexpr std::array styles{Qt::SolidLine, Qt::DashLine, Qt::DashDotLine, Qt::DotLine, Qt::DashDotDotLine};
    return styles[line % styles.size()];
}

QString withUnit(double value, Unit unit) {
    if (unit == Unit::Decibel) return std::isfinite(value) ? QString("%1 dB").arg(value, 0, 'f', 2) : QString("-");
    return text(value, unit);
}

} // namespace

SeriesView::SeriesView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    words = label("", Size::Text, false, "dim");
    words->setObjectName("seriesWords");
    words->setWordWrap(true);
    row->addWidget(words, 1);
    row->addWidget(label("compared with", Size::Text, false, "dim"));
    other = new QComboBox;
    other->setObjectName("compareSeries");
    other->setAccessibleName("Measurement that the newest is compared with");
    other->setMinimumWidth(130);
    other->setMaximumWidth(220);
    row->addWidget(other);
    layout->addLayout(row);
    plot = new QCustomPlot;
    plot->setObjectName("seriesPlot");
    layout->addWidget(plot, 3);
    figures = new FigureList("Figures of the measurement");
    layout->addWidget(figures, 2);
    cursor = new PlotTools(
        plot, [this] { return text(document.build().name).toLower() + "-" + bench::formOf(request.kind).id; },
        [this] { showRanges(); });
    connect(cursor, &PlotTools::said, this, &SeriesView::said);
    connect(plot, &QCustomPlot::afterLayout, this, &SeriesView::placeNames);
    connect(other, &QComboBox::currentIndexChanged, this, [this] { compareWith(other->currentData().toInt()); });
    connect(&computing, &QFutureWatcherBase::finished, this, [this] {
        const Answer answer = computing.result();
        if (predictedFor != document.revisionNow() || !sameQuestion(predictedRequest, request)) return compute();
        if (answer->prediction) prediction = *answer->prediction;
        limits = answer->limits;
        draw();
        if (!prediction && !answer->prediction) words->setText(text(answer->prediction.problem().sentence) + ".");
    });
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) compute();
    });
    connect(&document, &Document::opened, this, [this] {
        all.clear();
        against = -1;
        prediction.reset();
    });
}

SeriesView::~SeriesView() {
    stopping.request_stop();
    computing.waitForFinished();
}

void SeriesView::look(const bench::SeriesRequest& wanted) {
    const bool another = !sameQuestion(wanted, request);
    request = wanted;
    if (another) {
        prediction.reset();
        limits.clear();
        against = -1;
    }
    list();
    compute();
    draw();
}

void SeriesView::compute() {
    const Document::Solved& solved = document.solved();
    if (!isVisible() || document.solving() || !solved.figures.complete) return;
    const bool same = predictedFor == document.revisionNow() && sameQuestion(predictedRequest, request);
    if (same && (computing.isRunning() || (prediction && !prediction->bands.empty()))) return;
    if (computing.isRunning()) { // it begins anew when that one has ended
        stopping.request_stop();
        return;
    }
    if (!same) prediction.reset();
    predictedFor = document.revisionNow();
    predictedRequest = request;
    stopping = std::stop_source();
    const auto early = [this, of = predictedFor, asked = request](const bench::SeriesPrediction& p) {
        QMetaObject::invokeMethod(
            this,
            [this, of, asked, p] {
                if (of != document.revisionNow() || !sameQuestion(asked, request)) return;
                prediction = p;
                draw();
            },
            Qt::QueuedConnection);
    };
    computing.setFuture(QtConcurrent::run([b = solved.build, mains = document.mainsRead(), r = request,
                                           context = bench::seriesContextOf(solved.build, solved.figures),
                                           count = samples, stop = stopping.get_token(), early] {
        QString which;
        if (r.kind == bench::SeriesKind::Power || r.kind == bench::SeriesKind::DistortionByPower)
            which = limitsOf(b, mains, r, context, stop);
        return std::make_shared<Answered>(
            Answered{bench::predict(r, b, catalogueOf(b), mains, context, count, stop, early), which});
    }));
}

const SeriesView::Kept* SeriesView::newest() const {
    const auto at = std::find_if(all.rbegin(), all.rend(), [&](const Kept& k) {
        return k.taken.measurement.series->kind == request.kind &&
               k.taken.measurement.series->channel == request.channel;
    });
    return at == all.rend() ? nullptr : &*at;
}

const SeriesView::Kept* SeriesView::compared() const {
    return against >= 0 && against < static_cast<int>(all.size()) ? &all[static_cast<std::size_t>(against)] : nullptr;
}

const bench::SeriesResult* SeriesView::measured() const {
    const Kept* k = newest();
    return k ? &k->taken.result : nullptr;
}

void SeriesView::add(Document::SeriesTaken taken, const QString& title) {
    all.push_back({std::move(taken), title});
    list();
    draw();
}

/// Every earlier one of this kind, of any channel.
void SeriesView::list() {
    const QSignalBlocker quiet(other);
    other->clear();
    other->addItem("nothing", -1);
    const Kept* now = newest();
    for (std::size_t k = 0; k < all.size(); ++k)
        if (&all[k] != now && all[k].taken.measurement.series->kind == request.kind)
            other->addItem(all[k].title, static_cast<int>(k));
    const int at = other->findData(against);
    if (at < 0) against = -1;
    other->setCurrentIndex(std::max(0, at));
    other->setEnabled(other->count() > 1);
}

void SeriesView::compareWith(int index) {
    against = index >= 0 && index < static_cast<int>(all.size()) ? index : -1;
    draw();
}

QString SeriesView::changes() const {
    const Kept *now = newest(), *then = compared();
    if (!now || !then) return {};
    const auto lines = bench::differencesOf(then->taken.measurement.build, now->taken.measurement.build);
    if (lines.empty()) return "Between them nothing in the build changed.";
    QString out = "Changed between them: ";
    constexpr std::size_t most = 6;
    for (std::size_t k = 0; k < std::min(most, lines.size()); ++k) out += (k > 0 ? "; " : "") + text(lines[k]);
    if (lines.size() > most) out += QString("; and %1 more").arg(lines.size() - most);
    return out + ".";
}

void SeriesView::showRanges() {
    const auto [xAxis, yAxis] = axes();
    bool any = false;
    plot->rescaleAxes();
    for (int k = 0; k < plot->graphCount(); ++k) any = any || plot->graph(k)->dataCount() > 0;
    if (!any) {
        plot->xAxis->setRange(xAxis.logarithmic ? 20 : 0, xAxis.logarithmic ? 20e3 : 1);
        plot->yAxis->setRange(yAxis.logarithmic ? 0.01 : 0, yAxis.logarithmic ? 10 : 1);
    }
    const QCPRange y = plot->yAxis->range();
    if (yAxis.logarithmic)
        plot->yAxis->setRange(std::max(yAxis.unit == Unit::Percent ? 1e-3 : 1e-4, y.lower / 1.3), y.upper * 1.3);
    else
        plot->yAxis->setRange(y.lower - 0.06 * y.size(), y.upper + 0.06 * y.size());
    // Room for the curves' names at their ends.
    const QCPRange x = plot->xAxis->range();
    if (xAxis.logarithmic)
        plot->xAxis->setRange(x.lower, x.upper * std::pow(x.upper / std::max(1e-9, x.lower), 0.14));
    else
        plot->xAxis->setRange(x.lower, x.upper + 0.16 * x.size());
    plot->replot(QCustomPlot::rpQueuedReplot);
}

void SeriesView::placeNames() {
    std::vector<QPointF> placed;
    for (const auto& [g, t] : names) {
        if (!g || !t || g->dataCount() == 0) continue;
        const auto last = g->data()->constEnd() - 1;
        QPointF at(plot->xAxis->coordToPixel(last->key), plot->yAxis->coordToPixel(last->value));
        for (const QPointF& above : placed)
            if (std::abs(at.x() - above.x()) < 90) at.setY(std::max(at.y(), above.y() + 13));
        t->position->setCoords(at);
        placed.push_back(at);
    }
}

std::pair<bench::SeriesAxis, bench::SeriesAxis> SeriesView::axes() const {
    const auto& power = document.figures().power;
    const bool line = request.channel < power.size() && power[request.channel].line();
    return bench::axesOf(bench::formOf(request.kind), line);
}

void SeriesView::draw() {
    cursor->take();
    plot->clearGraphs();
    for (int k = plot->itemCount(); k-- > 0;)
        if (plot->item(k)->property("name").toBool()) plot->removeItem(k);
    const auto [xAxis, yAxis] = axes();
    plot->setAccessibleName(QString(bench::formOf(request.kind).caption) + ", planned and measured");
    theme::dress(*plot, xAxis.caption, yAxis.caption);
    const auto scale = [](QCPAxis* axis, bool logarithmic) {
        axis->setScaleType(logarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
        axis->setTicker(logarithmic ? QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog)
                                    : QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
        axis->setNumberFormat("g");
        axis->setNumberPrecision(6);
    };
    scale(plot->xAxis, xAxis.logarithmic);
    scale(plot->yAxis, yAxis.logarithmic);
    const auto curve = [&](const bench::SeriesLine& l, Role role, double width, Qt::PenStyle style,
                           const QString& name) {
        QCPGraph* g = plot->addGraph();
        g->setPen(QPen(theme::color(role), width, style));
        g->setName(name);
        for (std::size_t k = 0; k < l.x.size(); ++k)
            if (std::isfinite(l.y[k]) && (!yAxis.logarithmic || l.y[k] > 0)) g->addData(l.x[k], l.y[k]);
        return g;
    };
    const Kept *now = newest(), *then = compared();
    std::vector<std::pair<QCPGraph*, QString>> toName;
    if (prediction)
        for (std::size_t n = 0; n < prediction->nominal.lines.size(); ++n) {
            const bench::SeriesLine& l = prediction->nominal.lines[n];
            // Bands of many curves would hide each other: the first alone, then.
            if (n < prediction->bands.size() && (n == 0 || prediction->nominal.lines.size() <= 4)) {
                QColor veil = theme::color(Role::Brass);
                veil.setAlphaF(0.16f);
                QCPGraph *low = plot->addGraph(), *high = plot->addGraph();
                for (std::size_t k = 0; k < l.x.size(); ++k) {
                    const double a = prediction->bands[n].low[k], z = prediction->bands[n].high[k];
                    if (!std::isfinite(a) || !std::isfinite(z) || (yAxis.logarithmic && !(a > 0))) continue;
                    low->addData(l.x[k], a), high->addData(l.x[k], z);
                }
                for (QCPGraph* g : {low, high}) g->setPen(Qt::NoPen);
                high->setBrush(veil);
                high->setChannelFillGraph(low);
            }
            QCPGraph* g = curve(l, Role::Brass, n == 0 ? 1.7 : 1.1, styleOf(n), text(l.name) + ", planned");
            if (!now) toName.emplace_back(g, text(l.name));
        }
    if (then)
        for (std::size_t n = 0; n < then->taken.result.lines.size(); ++n)
            curve(then->taken.result.lines[n], Role::Slate, 1.6, styleOf(n),
                  text(then->taken.result.lines[n].name) + ", " + then->title);
    if (now)
        for (std::size_t n = 0; n < now->taken.result.lines.size(); ++n) {
            const bench::SeriesLine& l = now->taken.result.lines[n];
            QCPGraph* g = curve(l, Role::Verdigris, n == 0 ? 2.2 : 1.3, styleOf(n), text(l.name));
            if (l.x.size() < 60) g->setScatterStyle({QCPScatterStyle::ssDisc, theme::color(Role::Verdigris), 5});
            toName.emplace_back(g, text(l.name));
        }
    showRanges();
    // The highest first, so that names that would lie over each other are pushed down.
    std::stable_sort(toName.begin(), toName.end(), [](const auto& a, const auto& b) {
        const auto end = [](const QCPGraph* g) { return g->dataCount() ? (g->data()->constEnd() - 1)->value : 0.0; };
        return end(a.first) > end(b.first);
    });
    names.clear();
    for (const auto& [g, what] : toName) {
        if (g->dataCount() == 0) continue;
        auto* t = new QCPItemText(plot);
        t->setProperty("name", true);
        t->setText(" " + what);
        t->setFont(theme::text(Size::Small));
        t->setColor(theme::color(now ? Role::Verdigris : Role::Brass));
        t->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        t->position->setType(QCPItemPosition::ptAbsolute);
        t->setClipToAxisRect(false);
        names.emplace_back(g, t);
    }
    QString said = now ? QString() : QString(bench::formOf(request.kind).about);
    if (now) {
        said += "Measured: verdigris.";
        if (prediction && !prediction->bands.empty())
            if (const double share = bench::shareWithin(now->taken.result, *prediction); std::isfinite(share))
                said += QString(" %1 % of the points of %2 lie within the plan's band.")
                            .arg(100 * share, 0, 'f', 0)
                            .arg(text(now->taken.result.lines.front().name));
    }
    if (!prediction)
        said += document.solving() || computing.isRunning() ? " Computing what the plan says ..." : "";
    else
        said += prediction->bands.empty() ? " Brass: the plan; its band is being drawn."
                                          : QString(" Brass: the plan, and the band of healthy amplifiers.");
    const bench::SeriesResult* shown = now ? &now->taken.result : prediction ? &prediction->nominal : nullptr;
    if (then) said += " Slate: " + then->title + ". " + changes();
    if (now)
        for (const std::string& doubt : now->taken.result.trust) {
            QString sentence = text(doubt);
            sentence[0] = sentence[0].toUpper();
            said += " " + sentence + ".";
        }
    said += limits;
    words->setText(said);
    std::vector<FigureList::Row> rows;
    if (shown)
        for (std::size_t k = 0; k < shown->figures.size(); ++k) {
            const bench::SeriesFigure& f = shown->figures[k];
            if (!std::isfinite(f.value) && !(prediction && std::isfinite(prediction->nominal.figure(f.name)))) continue;
            QString beside;
            if (now && prediction) {
                const double plan = prediction->nominal.figure(f.name);
                beside = "planned " + withUnit(plan, f.unit);
                for (std::size_t n = 0; n < prediction->figureBands.size(); ++n)
                    if (prediction->nominal.figures[n].name == f.name &&
                        std::isfinite(prediction->figureBands[n].low[0]))
                        beside += QString(", %1 to %2")
                                      .arg(withUnit(prediction->figureBands[n].low[0], f.unit),
                                           withUnit(prediction->figureBands[n].high[0], f.unit));
            }
            if (then)
                beside +=
                    (beside.isEmpty() ? "then " : "; then ") + withUnit(then->taken.result.figure(f.name), f.unit);
            rows.push_back({text(f.name), withUnit(f.value, f.unit), beside});
        }
    figures->show(std::move(rows));
}

} // namespace ember::app
