// How a response is drawn and exported.
#include "response_view.h"

#include "app/theme/theme.h"
#include "app/widgets/plot_export.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/signal/phase.h"

#include <fmt/format.h>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

void ResponseView::showRanges() {
    const bool response = kind == Kind::Response;
    if (response && side != Side::Magnitude) {
        plot->rescaleAxes();
        if (side != Side::Step) plot->xAxis->setRange(10, 30e3);
        const QCPRange y = plot->yAxis->range();
        plot->yAxis->setRange(y.lower - 0.08 * y.size(), y.upper + 0.08 * y.size());
        return plot->replot(QCustomPlot::rpQueuedReplot);
    }
    plot->xAxis->setRange(5, 100e3);
    const std::vector<double>& ohms = plan.nominal.outputOhms;
    if (response) {
        plot->yAxis->setRange(-12, 3);
    } else if (!ohms.empty()) {
        const auto [least, most] = std::minmax_element(ohms.begin(), ohms.end());
        plot->yAxis->setRange(*least / 2, *most * 2);
    }
    plot->replot(QCustomPlot::rpQueuedReplot);
}

/// Phase, group delay or step, as planned and as a sweep showed it.
void ResponseView::drawSide() {
    const Measured& m = measured();
    const bool stepped = side == Side::Step;
    theme::dress(*plot, stepped ? "milliseconds" : "hertz",
                 stepped               ? "volts over volts"
                 : side == Side::Phase ? "degrees from 1 kHz"
                                       : "microseconds from 1 kHz");
    plot->xAxis->setScaleType(stepped ? QCPAxis::stLinear : QCPAxis::stLogarithmic);
    plot->xAxis->setTicker(stepped ? QSharedPointer<QCPAxisTicker>(new QCPAxisTicker)
                                   : QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog));
    plot->yAxis->setScaleType(QCPAxis::stLinear);
    plot->yAxis->setTicker(QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    const auto add = [&](Role role, const char* name) {
        QCPGraph* g = plot->addGraph();
        g->setPen(QPen(theme::color(role), 1.8));
        g->setName(name);
        return g;
    };
    if (stepped) {
        const auto draw = [&](const std::vector<double>& y, double rate, Role role, const char* name) {
            if (y.empty()) return;
            QCPGraph* g = add(role, name);
            for (std::size_t k = 0; k < y.size(); ++k) g->addData(1000 * static_cast<double>(k) / rate - 1, y[k]);
        };
        draw(plan.step, plan.stepRate, Role::Brass, "planned");
        draw(m.step, m.stepRate, Role::Verdigris, "measured");
    } else {
        std::vector<signal::ResponsePoint> points;
        for (std::size_t k = 0; k < plan.nominal.hertz.size(); ++k)
            points.push_back({plan.nominal.hertz[k], plan.nominal.db[k], plan.nominal.degrees[k]});
        const bool phase = side == Side::Phase;
        const auto draw = [&](const std::vector<double>& x, const std::vector<double>& y, Role role, const char* name) {
            if (y.empty()) return;
            QCPGraph* g = add(role, name);
            for (std::size_t k = 0; k < std::min(x.size(), y.size()); ++k)
                if (std::isfinite(y[k]) && x[k] > 10 && x[k] < 30e3) g->addData(x[k], phase ? y[k] : 1e6 * y[k]);
        };
        draw(plan.nominal.hertz, phase ? signal::phaseFrom1kHz(points) : signal::groupDelay(points), Role::Brass,
             "planned");
        draw(m.hertz, phase ? m.degrees : m.delay, Role::Verdigris, "measured");
    }
    const bool swept = stepped ? !m.step.empty() : !m.degrees.empty();
    words->setText(QString("Planned: brass. ") +
                   (swept ? "Measured by a sweep: verdigris."
                          : "A sweep measures it: choose \"response by a sweep\", and take it.") +
                   (stepped ? QString(" What is slower than the sweep's lowest frequency is not in it.")
                            : QString(" The delay of 1 kHz is taken off: records need not share a clock.")));
    showRanges();
}

void ResponseView::draw() {
    plot->clearGraphs();
    tools->take();
    const bool response = kind == Kind::Response;
    if (response && side != Side::Magnitude) return drawSide();
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
    const auto add = [&](const std::vector<double>& x, const std::vector<double>& y, Role role, bool dots,
                         const char* name) {
        auto* g = plot->addGraph();
        g->setName(name);
        g->setPen(QPen(theme::color(role), dots ? 1.2 : 2));
        if (dots) g->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme::color(role), 5));
        g->setData(QVector<double>(x.begin(), x.end()), QVector<double>(y.begin(), y.end()), true);
    };
    const plan::ChannelResponse& nominal = plan.nominal;
    if (response && !plan.low.empty()) {
        QColor veil = theme::color(Role::Brass);
        veil.setAlphaF(0.16f);
        QCPGraph *low = plot->addGraph(), *high = plot->addGraph();
        for (const auto& [g, y] : {std::pair{low, &plan.low}, {high, &plan.high}}) {
            g->setPen(Qt::NoPen);
            g->setData(QVector<double>(nominal.hertz.begin(), nominal.hertz.end()),
                       QVector<double>(y->begin(), y->end()), true);
        }
        high->setBrush(veil);
        high->setChannelFillGraph(low);
    }
    if (!nominal.hertz.empty())
        add(nominal.hertz, response ? nominal.db : nominal.outputOhms, Role::Brass, false, "planned");
    if (response && !device.empty()) {
        add(deviceHertz, device, Role::Slate, false, "sound device alone");
        plot->graph(plot->graphCount() - 1)->setPen(QPen(theme::color(Role::Slate), 1.3, Qt::DashDotLine));
    }
    Measured shown = measured();
    if (next < steps.size() && takenOf == channel) { // relative to its own middle until 1 kHz was there
        shown = partial;
        double reference = shown.db.empty() ? 0 : *std::max_element(shown.db.begin(), shown.db.end());
        for (double& db : shown.db) db -= reference;
    }
    if (response && !shown.hertz.empty())
        add(shown.hertz, shown.db, Role::Verdigris, shown.hertz.size() < 60, "measured");
    const std::vector<double> apart = response && !taking() ? difference() : std::vector<double>{};
    if (!apart.empty()) {
        const Measured& then = all[static_cast<std::size_t>(compared)].curve;
        add(then.hertz, then.db, Role::Slate, false, "compared");
        plot->graph(plot->graphCount() - 1)->setPen(QPen(theme::color(Role::Slate), 1.3, Qt::DashLine));
        add(shown.hertz, apart, Role::Bone, false, "difference");
        plot->graph(plot->graphCount() - 1)->setPen(QPen(theme::color(Role::Bone), 1, Qt::DotLine));
    }
    showRanges();
    if (!taking()) {
        const auto& power = document.figures().power;
        QString line;
        if (nominal.hertz.empty())
            line = "The plan's response could not be computed: the channel has no operating point.";
        else if (response)
            line = "Planned (brass): " + ends(nominal.ends.low, nominal.ends.high, nominal.hertz) +
                   (shown.hertz.empty() ? QString(".")
                                        : ". Measured (verdigris): " + ends(shown.low, shown.high, shown.hertz) + ".") +
                   farthestApart(shown.hertz, apart) +
                   (device.empty() ? QString() : QString(" The sound device's own (dash and dot) is taken off."));
        else {
            const auto at = std::min_element(nominal.hertz.begin(), nominal.hertz.end(), [](double a, double b) {
                return std::abs(std::log(a / 1000)) < std::abs(std::log(b / 1000));
            });
            const double ohms = nominal.outputOhms[static_cast<std::size_t>(at - nominal.hertz.begin())];
            line = QString("Planned (brass): %1 at 1 kHz").arg(text(ohms, Unit::Ohm));
            if (channel < power.size() && !power[channel].line())
                line +=
                    QString(", damping %1 into %2")
                        .arg(text(power[channel].load / ohms, Unit::None, 2), text(power[channel].load, Unit::Ohm, 2));
            line += ". Measured by \"output impedance by two loads\", never without a load: an open output stage arcs.";
        }
        words->setText(line);
    }
    plot->replot(QCustomPlot::rpQueuedReplot);
}

Expected<Done> ResponseView::exportTo(const QString& file) const {
    std::string out = "hz,planned_db,planned_degrees,planned_output_ohms,measured_hz,measured_db\n";
    const Measured& m = measured();
    const plan::ChannelResponse& nominal = plan.nominal;
    for (std::size_t k = 0; k < std::max(nominal.hertz.size(), m.hertz.size()); ++k) {
        out += k < nominal.hertz.size() ? fmt::format("{:.6g},{:.4f},{:.3f},{:.5g}", nominal.hertz[k], nominal.db[k],
                                                      nominal.degrees[k], nominal.outputOhms[k])
                                        : ",,,";
        out += k < m.hertz.size() ? fmt::format(",{:.6g},{:.4f}\n", m.hertz[k], m.db[k]) : ",,\n";
    }
    return exportPlot(*plot, file, out);
}

} // namespace ember::app
