// What the supply's nodes do while a burst plays.

#include "series_run.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::bench {

void addSag(SeriesResult& out, const signal::Capture& c, const std::string& name) {
    if (c.volts.size() < 8) return;
    SeriesLine line{name, {}, {}};
    for (std::size_t k = 0; k < c.volts.size(); ++k) {
        line.x.push_back(static_cast<double>(k + 1) / c.sampleRate);
        line.y.push_back(c.volts[k]);
    }
    // At rest before the burst; lowest at its end; how long until it is back by 1 - 1/e.
    const std::size_t quiet = std::max<std::size_t>(1, c.volts.size() / 20);
    double rest = 0;
    for (std::size_t k = 0; k < quiet; ++k) rest += c.volts[k] / static_cast<double>(quiet);
    const auto lowest = static_cast<std::size_t>(std::min_element(c.volts.begin(), c.volts.end()) - c.volts.begin());
    const double fell = rest - c.volts[lowest];
    out.figures.push_back({name + " at rest", rest, Unit::Volt});
    out.figures.push_back({name + " falls by", fell, Unit::Volt});
    for (std::size_t k = lowest; k < c.volts.size(); ++k)
        if (c.volts[k] > rest - fell / std::numbers::e) {
            out.figures.push_back({name + " is back by 63 % in", line.x[k] - line.x[lowest], Unit::Second});
            break;
        }
    out.lines.push_back(std::move(line));
}

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
        addSag(out, *c, fmt::format("B+{}", node));
        run.share(static_cast<double>(node) / run.context.nodes);
    }
    if (out.lines.empty()) return Problem{"", "the supply's nodes are not known"};
    out.figures.push_back({"in the load, a steady tone", tone->watts, Unit::Watt});
    return out;
}

} // namespace ember::bench
