#include "sweep_distortion.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/plan/solve.h"

#include <QLabel>
#include <QVBoxLayout>
#include <qcustomplot.h>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr int lastDrawn = 5;

double percentOf(double db) {
    return 100 * std::pow(10, db / 20);
}

QString inWords(double percent) {
    return percent < 1e-4 ? QString("below 0.0001 %") : text(percent, Unit::Percent, 2);
}

/// Each order by its line.
Qt::PenStyle lineOf(int order) {
    static constexpr std::array styles{Qt::SolidLine, Qt::DashLine, Qt::DotLine, Qt::DashDotLine};
    return styles[static_cast<std::size_t>(order - 2) % styles.size()];
}

} // namespace

SweepDistortion::SweepDistortion(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(words = label("", Size::Text, false, "dim"));
    words->setObjectName("sweepDistortionWords");
    words->setWordWrap(true);
    layout->addWidget(plot = new QCustomPlot, 1);
    plot->setAccessibleName("Harmonics against frequency, from a sweep");
    tools = new PlotTools(
        plot, [this] { return text(document.build().name).toLower() + "-harmonics"; }, [this] { draw(); });
    connect(tools, &PlotTools::said, this, &SweepDistortion::said);
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) draw();
    });
    connect(&document, &Document::opened, this, [this] { taken.clear(); });
}

void SweepDistortion::look(std::size_t which) {
    channel = which;
    draw();
}

void SweepDistortion::showSweep(std::size_t of, double inputRms, std::vector<signal::HarmonicCurve> curves) {
    taken[of] = {inputRms, std::move(curves)};
    draw();
}

void SweepDistortion::setFloor(double thdPercent) {
    floor = thdPercent;
    draw();
}

const SweepDistortion::Taken* SweepDistortion::newest() const {
    const auto at = taken.find(channel);
    return at == taken.end() ? nullptr : &at->second;
}

double SweepDistortion::measured(int order, double hertz) const {
    const Taken* t = newest();
    if (!t) return plan::unknown;
    for (const signal::HarmonicCurve& c : t->curves) {
        if (c.order != order) continue;
        const auto after =
            std::find_if(c.points.begin(), c.points.end(), [&](const auto& p) { return p.hertz >= hertz; });
        if (after == c.points.end() || (after == c.points.begin() && after->hertz > hertz)) return plan::unknown;
        return percentOf(after->db);
    }
    return plan::unknown;
}

double SweepDistortion::planned(int order) const {
    const Taken* t = newest();
    const auto& power = document.figures().power;
    if (!t || channel >= power.size() || power[channel].sweep.empty()) return plan::unknown;
    return plan::readWhere(power[channel].sweep, &plan::ToneFigures::inputRms, t->inputRms,
                           [&](const plan::ToneFigures& f) {
                               const auto k = static_cast<std::size_t>(order - 1);
                               return k < f.harmonics.size() ? 100 * f.harmonics[k] / f.harmonics[0] : plan::unknown;
                           });
}

void SweepDistortion::draw() {
    tools->take();
    plot->clearGraphs();
    theme::dress(*plot, "hertz played", "% of the fundamental");
    for (QCPAxis* axis : {plot->xAxis, plot->yAxis}) {
        axis->setScaleType(QCPAxis::stLogarithmic);
        axis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
        axis->setNumberFormat("g");
        axis->setNumberPrecision(6);
    }
    plot->xAxis->setRange(20, 20e3);
    plot->yAxis->setRange(0.001, 30);
    const Taken* t = newest();
    QString said, foretold, device;
    if (t)
        for (const signal::HarmonicCurve& c : t->curves) {
            if (c.order > lastDrawn) continue;
            QCPGraph* g = plot->addGraph();
            g->setName(QString("H%1").arg(c.order));
            g->setPen(QPen(theme::color(Role::Verdigris), c.order == 2 ? 2 : 1.4, lineOf(c.order)));
            for (const signal::ResponsePoint& p : c.points) g->addData(p.hertz, percentOf(p.db));
            const double at = measured(c.order, 1000), plan = planned(c.order);
            if (std::isfinite(at))
                said += QString("%1H%2 %3").arg(said.isEmpty() ? "" : ", ").arg(c.order).arg(inWords(at));
            if (!(plan > 0)) continue;
            foretold += QString("%1H%2 %3").arg(foretold.isEmpty() ? "" : ", ").arg(c.order).arg(inWords(plan));
            QCPGraph* mark = plot->addGraph();
            mark->setLineStyle(QCPGraph::lsNone);
            mark->setScatterStyle({QCPScatterStyle::ssDiamond, theme::color(Role::Brass), 8});
            mark->addData(1000, plan);
        }
    if (t && floor > 0) {
        QCPGraph* g = plot->addGraph();
        g->setPen(QPen(theme::color(Role::Slate), 1.3));
        g->setData({20, 20000}, {floor, floor}, true);
        device = QString(" The sound device alone (level line): THD %1.").arg(text(floor, Unit::Percent, 2));
    }
    if (!t)
        words->setText("A sweep gives every harmonic against frequency: choose \"response by a sweep\", and take it.");
    else
        words->setText(
            "H2 solid, H3 dashed, H4 dotted, H5 dash and dot. At 1 kHz: " + (said.isEmpty() ? QString("-") : said) +
            (foretold.isEmpty() ? QString(".") : "; planned (brass): " + foretold + ".") + device);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace ember::app
