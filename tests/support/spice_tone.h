#pragma once
// A channel's answer to a tone by a general circuit simulator.
#include "spice.h"

#include "core/plan/channel_circuit.h"

#include <algorithm>
#include <complex>
#include <numbers>
#include <vector>

/// The output's volts over the last period, `count` of them, evenly spaced; empty where the simulator found none.
inline std::vector<double> spicePeriod(const ember::plan::HeldChannel& h, double hertz, int periods, int count) {
    const auto c = ember::schematic::circuitOf(h.schematic, hertz < ember::schematic::capacitancesFrom
                                                                ? ember::schematic::Electrodes::WithoutCapacitance
                                                                : ember::schematic::Electrodes::WithCapacitance);
    const std::string node = ember::circuit::nodeText(c.netlist, c.nodes[static_cast<std::size_t>(h.output.index)]);
    const double period = 1 / hertz, step = period / count;
    const auto printed = spicePrint("* a channel\n" + ember::circuit::elementsText(c.netlist) +
                                    QString("\n.options reltol=1e-5 method=gear gmin=1e-14 rshunt=1e12\n.tran %1 "
                                            "%2 %3 %4\n.print tran v(%5)\n.end\n")
                                        .arg(step, 0, 'g', 9)
                                        .arg(periods * period, 0, 'g', 9)
                                        .arg((periods - 1) * period - step, 0, 'g', 9)
                                        .arg(period / 200, 0, 'g', 9)
                                        .arg(QString::fromStdString(node))
                                        .toStdString());
    std::vector<double> t, v, out;
    static const QRegularExpression row("^\\d+\\s+(\\S+)\\s+(\\S+)\\s*$", QRegularExpression::MultilineOption);
    auto found = row.globalMatch(printed.value_or(QString()));
    while (found.hasNext()) {
        const auto m = found.next();
        t.push_back(m.captured(1).toDouble()), v.push_back(m.captured(2).toDouble());
    }
    if (t.size() < static_cast<std::size_t>(count)) return out;
    for (int k = 0; k < count; ++k) {
        const double at = (periods - 1) * period + k * step;
        const auto after = std::upper_bound(t.begin() + 1, t.end() - 1, at) - t.begin();
        const auto a = static_cast<std::size_t>(after);
        out.push_back(v[a - 1] + (at - t[a - 1]) / (t[a] - t[a - 1]) * (v[a] - v[a - 1]));
    }
    return out;
}
/// RMS of one harmonic of a period that is evenly sampled.
inline double rmsOfHarmonic(const std::vector<double>& period, int order) {
    std::complex<double> sum = 0;
    const auto n = static_cast<double>(period.size());
    for (std::size_t k = 0; k < period.size(); ++k)
        sum += period[k] * std::polar(2 / n, -2 * std::numbers::pi * order * static_cast<double>(k) / n);
    return std::abs(sum) / std::numbers::sqrt2;
}
