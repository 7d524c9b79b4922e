#include "tone.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

namespace ember::plan {

using namespace circuit;

Expected<Done> solveTone(const Build& b, const Catalogue& catalogue, std::size_t channel, const ChannelSupply& supply,
                         const Tone& tone, ToneRun& run) {
    const HeldChannel h =
        heldChannel(b, catalogue, channel, supply, {0, tone.inputRms * std::numbers::sqrt2, tone.frequency, 0});
    auto solved = schematic::steadyTone(h.schematic, tone.frequency, h.output,
                                        run.tone.states.empty() ? nullptr : &run.tone, tone.stop);
    if (!solved) return Problem{b.channels[channel].name, solved.problem().sentence};
    run.tone = std::move(*solved);
    run.draws.clear();
    for (const schematic::HeldNode& n : h.nodes)
        run.draws.push_back({n.node, n.screens, run.tone.sourceAmps[static_cast<std::size_t>(n.source.index)]});
    ToneFigures f;
    f.inputRms = tone.inputRms;
    f.outputRms = run.tone.outputRms;
    f.watts = h.load > 0 ? f.outputRms * f.outputRms / h.load : 0;
    f.harmonics = run.tone.harmonics;
    f.thdPercent = run.tone.thdPercent;
    run.figures = std::move(f);
    return Done{};
}

namespace {

/// The supply under a signal's draw.
Expected<Done> load(const Build& b, const Catalogue& catalogue, Sag& sag, const std::vector<double>& amps,
                    const std::stop_token& stop) {
    auto loaded = solveSteady(b, catalogue, sag.steady.conditions, {.tolerance = 1e-4, .stop = stop, .musicAmps = amps},
                              &sag.warm);
    if (!loaded) return loaded.problem();
    sag.steady = std::move(*loaded);
    return Done{};
}

double largestDifference(const std::vector<double>& a, const std::vector<double>& b) {
    double most = 0;
    for (std::size_t k = 0; k < a.size(); ++k) most = std::max(most, std::abs(a[k] - (k < b.size() ? b[k] : 0)));
    return most;
}

/// The draw grows with the signal's power: a straight line in the square of the level, through the last two.
std::vector<double> extrapolated(const Sag& sag, double inputRms) {
    std::vector<double> amps = sag.last.amps;
    const double x0 = sag.before.inputRms * sag.before.inputRms, x1 = sag.last.inputRms * sag.last.inputRms;
    if (sag.before.amps.size() != amps.size() || x1 == x0) return amps;
    const double reach = std::min(2.0, (inputRms * inputRms - x1) / (x1 - x0));
    for (std::size_t k = 0; k < amps.size(); ++k) amps[k] += reach * (amps[k] - sag.before.amps[k]);
    return amps;
}

/// Where two rounds of drawn(given) lead: the secant along their difference (Anderson 1965, of depth one).
std::vector<double> accelerated(const std::vector<double>& given0, const std::vector<double>& drawn0,
                                const std::vector<double>& given1, const std::vector<double>& drawn1) {
    const auto at = [](const std::vector<double>& v, std::size_t k) { return k < v.size() ? v[k] : 0; };
    double along = 0, square = 0;
    for (std::size_t k = 0; k < drawn1.size(); ++k) {
        const double off1 = drawn1[k] - at(given1, k), change = off1 - (drawn0[k] - at(given0, k));
        along += off1 * change;
        square += change * change;
    }
    const double back = square > 0 ? std::clamp(along / square, -1.0, 1.0) : 0;
    std::vector<double> next = drawn1;
    for (std::size_t k = 0; k < next.size(); ++k) next[k] -= back * (drawn1[k] - drawn0[k]);
    return next;
}

} // namespace

Expected<Done> solveToneWithSag(const Build& b, const Catalogue& catalogue, std::size_t index, bool every,
                                const Tone& tone, Sag& sag, ToneRun& run) {
    constexpr int rounds = 8;
    constexpr double close = 1e-4;             // [A] moves no node by a tenth of a volt
    std::vector<double> under = sag.last.amps; // what the supply is solved for
    if (auto next = extrapolated(sag, tone.inputRms); largestDifference(next, under) > close) {
        if (auto done = load(b, catalogue, sag, next, tone.stop); !done) return done;
        under = std::move(next);
    }
    std::vector<double> given, drawn; // of the round before: what the supply was solved for, and what was then drawn
    for (int round = 0; round < rounds; ++round) {
        if (auto done = solveTone(b, catalogue, index, supplyOf(b, sag.steady), tone, run); !done) return done;
        // What it draws beyond what the same valves would draw at rest from the same volts.
        const std::vector<NodeDraw>& rest = sag.steady.channels[index].draws;
        std::vector<double> music(sag.steady.nodes.size(), 0.0);
        const double channels = every ? static_cast<double>(b.channels.size()) : 1;
        run.figures.more = run.draws;
        for (std::size_t k = 0; k < std::min(rest.size(), run.draws.size()); ++k) {
            run.figures.more[k].amps -= rest[k].amps;
            music[static_cast<std::size_t>(rest[k].node - 1)] += channels * run.figures.more[k].amps;
        }
        if (largestDifference(music, under) < close) break;
        std::vector<double> next = round > 0 ? accelerated(given, drawn, under, music) : music;
        given = std::exchange(under, std::move(next));
        drawn = std::move(music);
        if (auto done = load(b, catalogue, sag, under, tone.stop); !done) return done;
    }
    sag.before = std::exchange(sag.last, {tone.inputRms, under});
    return Done{};
}

} // namespace ember::plan
