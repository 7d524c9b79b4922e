#include "planned_response.h"

#include "core/bench/model_bench.h"
#include "core/bench/spread.h"
#include "core/build/own_types.h"
#include "core/plan/as_built.h"
#include "core/plan/solve.h"

#include <algorithm>
#include <cmath>

namespace ember::app {

PlannedResponse plannedResponse(const Build& b, const plan::Steady& steady, std::size_t channel, double mainsVolts,
                                int amplifiers, std::stop_token stop) {
    const Catalogue& catalogue = catalogueOf(b);
    PlannedResponse out;
    out.nominal = plan::channelResponse(b, catalogue, steady, channel);
    const std::size_t size = out.nominal.hertz.size();
    if (size == 0) return out;
    // A step of a tenth of what 1 W takes, well below anything that bends; from 1 ms on.
    constexpr double stepVolts = 0.01, length = 0.03;
    std::vector<double> volts(static_cast<std::size_t>(length * out.stepRate), stepVolts);
    std::fill(volts.begin(), volts.begin() + static_cast<std::ptrdiff_t>(out.stepLead * out.stepRate), 0.0);
    // The resampler takes zeros to follow: a tail keeps the step's end away from what is read.
    volts.resize(volts.size() * 2, stepVolts);
    if (auto c = bench::ModelBench(b, catalogue, steady, {}).play(channel, {}, volts, out.stepRate, {{}, stop})) {
        c->volts.resize(volts.size() / 2);
        for (const double v : c->volts) out.step.push_back(v / stepVolts);
    }
    std::vector<bench::Spread> spread(size);
    for (int k = 1; k <= amplifiers && !stop.stop_requested(); ++k) {
        const Build other = plan::asBuilt(b, static_cast<std::uint64_t>(k));
        const auto at = plan::solveSteady(other, catalogue, {mainsVolts}, {.stop = stop});
        if (!at) continue;
        const auto r = plan::channelResponse(other, catalogue, *at, channel);
        for (std::size_t n = 0; n < std::min(size, r.db.size()); ++n) spread[n].add(r.db[n]);
    }
    if (spread.front().count() < 3) return out;
    for (std::size_t n = 0; n < size; ++n) {
        const auto [least, most] = spread[n].range();
        // The nominal one belongs to it, however few were drawn.
        out.low.push_back(std::min(least, out.nominal.db[n] - 0.05));
        out.high.push_back(std::max(most, out.nominal.db[n] + 0.05));
    }
    return out;
}

} // namespace ember::app
