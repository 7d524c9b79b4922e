#include "take_charts.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"

#include <QHBoxLayout>
#include <qcustomplot.h>

#include <cmath>

namespace ember::app {

using theme::Role;

TakeCharts::TakeCharts(QWidget* parent) : QWidget(parent), wave(new QCustomPlot), spectrum(new QCustomPlot) {
    auto* plots = new QHBoxLayout(this);
    plots->setContentsMargins(0, 0, 0, 0);
    wave->setAccessibleName("Waveform at the load");
    spectrum->setAccessibleName("Spectrum at the load");
    for (QCustomPlot* p : {wave, spectrum}) {
        auto* tools = new PlotTools(
            p, [p, this] { return p == wave ? QString("waveform") : QString("spectrum"); }, [this] { showRanges(); });
        connect(tools, &PlotTools::said, this, &TakeCharts::said);
    }
    plots->addWidget(wave, 2);
    plots->addWidget(spectrum, 3);
    theme::dress(*wave, "milliseconds", "volts");
    theme::dress(*spectrum, "hertz", "dB of the fundamental");
}

void TakeCharts::showRanges() {
    wave->rescaleAxes();
    const bool noise = kind == bench::TakeKind::Noise;
    spectrum->xAxis->setRange(0, noise ? 1000 : kind == bench::TakeKind::Difference ? 22000 : 12000);
    spectrum->yAxis->setRange(-140, noise ? -20 : 5);
    for (QCustomPlot* p : {wave, spectrum}) p->replot(QCustomPlot::rpQueuedReplot);
}

void TakeCharts::showTake(const TakeReading& r, bench::TakeKind of, const wires::ChannelHum* hum) {
    kind = of, reference = r.reference;
    QVector<double> ms;
    for (std::size_t k = 0; k < r.wave.size(); ++k) ms.push_back(1000 * static_cast<double>(k) * r.waveStep);
    wave->clearGraphs();
    wave->addGraph();
    wave->graph(0)->setPen(QPen(theme::color(Role::Verdigris), 1.6));
    wave->graph(0)->setData(ms, QVector<double>(r.wave.begin(), r.wave.end()), true);
    theme::dress(*wave, "milliseconds", "volts");
    wave->graph(0)->setName("measured");
    const auto db = [&](double rms) { return 20 * std::log10(std::max(1e-12, rms / r.reference)); };
    QVector<double> hertz, levels;
    for (std::size_t k = 8; k < r.spectrum.size(); ++k) {
        hertz.push_back(static_cast<double>(k) * r.binHertz);
        levels.push_back(db(r.spectrum[k]));
    }
    spectrum->setVisible(!r.spectrum.empty());
    spectrum->clearGraphs();
    spectrum->addGraph();
    spectrum->graph(0)->setPen(QPen(theme::color(Role::Verdigris), 1));
    spectrum->graph(0)->setData(hertz, levels, true);
    spectrum->graph(0)->setName("measured");
    if (hum && !r.spectrum.empty()) {
        QVector<double> lines, marks;
        for (const wires::HumLine& l : hum->lines) {
            lines.push_back(l.hertz);
            marks.push_back(db(l.rms));
        }
        spectrum->addGraph();
        spectrum->graph(1)->setLineStyle(QCPGraph::lsNone);
        spectrum->graph(1)->setScatterStyle({QCPScatterStyle::ssDiamond, theme::color(Role::Brass), 6});
        spectrum->graph(1)->setData(lines, marks, true);
    }
    if (std::isfinite(r.floor)) {
        QCPGraph* g = spectrum->addGraph();
        g->setPen(QPen(theme::color(Role::Slate), 1.3, Qt::DashLine));
        g->setData({20, 20000}, {db(r.floor), db(r.floor)}, true);
    }
    theme::dress(*spectrum, std::isfinite(r.floor) ? "hertz (dashed: the sound device alone)" : "hertz",
                 "dB of " + r.referenceWord);
    showRanges();
}

void TakeCharts::addExpected(const std::vector<double>& period, double seconds) {
    if (period.empty() || wave->graphCount() == 0) return;
    const auto rms = [](const auto& begin, const auto& end, const auto& of) {
        double squares = 0, n = 0;
        for (auto at = begin; at != end; ++at) squares += of(at) * of(at), n += 1;
        return n > 0 ? std::sqrt(squares / n) : 0.0;
    };
    const auto shown = wave->graph(0)->data();
    const double level = rms(shown->constBegin(), shown->constEnd(), [](const auto& p) { return p->value; }) /
                         std::max(1e-12, rms(period.begin(), period.end(), [](const auto& v) { return *v; }));
    QCPGraph* g = wave->addGraph();
    g->setName("from the sweep");
    g->setPen(QPen(theme::color(Role::Slate), 1.3, Qt::DotLine));
    for (std::size_t k = 0; k < period.size(); ++k)
        g->addData(1000 * seconds * static_cast<double>(k) / static_cast<double>(period.size()), level * period[k]);
    showRanges();
}

void TakeCharts::addEarlier(const TakeReading& r) {
    const QPen pen(theme::color(Role::Slate), 1.2);
    QCPGraph* w = wave->addGraph();
    w->setName("earlier");
    w->setPen(pen);
    for (std::size_t k = 0; k < r.wave.size(); ++k) w->addData(1000 * static_cast<double>(k) * r.waveStep, r.wave[k]);
    QCPGraph* s = spectrum->addGraph();
    s->setName("earlier");
    s->setPen(pen);
    for (std::size_t k = 8; k < r.spectrum.size(); ++k)
        s->addData(static_cast<double>(k) * r.binHertz, 20 * std::log10(std::max(1e-12, r.spectrum[k] / r.reference)));
    showRanges();
}

void TakeCharts::addPlanned(const std::vector<double>& period, double seconds) {
    if (holdsPlanned() || wave->graphCount() == 0 || period.empty()) return;
    QVector<double> ms;
    for (std::size_t k = 0; k < period.size(); ++k)
        ms.push_back(1000 * seconds * static_cast<double>(k) / static_cast<double>(period.size()));
    QCPGraph* g = wave->addGraph();
    g->setName("planned");
    g->setPen(QPen(theme::color(Role::Brass), 1.6, Qt::DashLine));
    g->setData(ms, QVector<double>(period.begin(), period.end()), true);
    wave->rescaleAxes();
    wave->replot(QCustomPlot::rpQueuedReplot);
}

bool TakeCharts::holdsPlanned() const {
    for (int k = 0; k < wave->graphCount(); ++k)
        if (wave->graph(k)->name() == "planned") return true;
    return false;
}

} // namespace ember::app
