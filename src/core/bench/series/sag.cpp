// What the supply's nodes do while a burst plays.

#include "series_run.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::bench {

Expected<SeriesResult> runSag(SeriesRun& run) {
    SeriesResult out;
    Setup setup;
    const auto tone = run.toneOf(run.request.watts, run.request.hertz, setup);
    if (!tone) return tone.problem();
    for (int node = 1; node <= run.context.nodes; ++node) {
        TakeRequest r{TakeKind::Burst, run.request.channel, tone->inputRms, run.request.hertz, 1.5, true};
        r.node = node;
        const auto c = run.capture(r);
        if (!c) return c.problem();
        SeriesLine line{fmt::format("B+{}", node), {}, {}};
        for (std::size_t k = 0; k < c->volts.size(); ++k) {
            line.x.push_back(static_cast<double>(k + 1) / c->sampleRate);
            line.y.push_back(c->volts[k]);
        }
        // The burst lasts from one tenth to one half of the time: rest before it, what is left at its end, and how long
        // the node takes to come back by 1 - 1/e.
        const double seconds = static_cast<double>(c->volts.size()) / c->sampleRate;
        const auto until = [&](double share) {
            return std::min(c->volts.size() - 1,
                            static_cast<std::size_t>(share * static_cast<double>(c->volts.size())));
        };
        const double rest = c->volts[until(0.08)], lowest = *std::min_element(c->volts.begin(), c->volts.end()),
                     fell = rest - lowest;
        out.figures.push_back({line.name + " falls by", fell, Unit::Volt});
        for (std::size_t k = until(0.5); k < c->volts.size(); ++k)
            if (c->volts[k] > rest - fell / 2.7183) {
                out.figures.push_back(
                    {line.name + " is back by 63 % in", std::max(0.0, line.x[k] - 0.5 * seconds), Unit::Second});
                break;
            }
        out.lines.push_back(std::move(line));
        run.share(static_cast<double>(node) / run.context.nodes);
    }
    if (out.lines.empty()) return Problem{"", "the supply's nodes are not known"};
    out.figures.push_back({"in the load, a steady tone", tone->watts, Unit::Watt});
    return out;
}

} // namespace ember::bench
