#include "tone.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

namespace ember::plan {

using namespace circuit;

Expected<Done> solveTone(const Build& b, const Catalogue& catalogue, std::size_t channel, const ChannelSupply& supply,
                         const Tone& tone, ToneRun& run) {
    const HeldChannel h = heldChannel(b, catalogue, channel, supply,
                                      {0, tone.inputRms * std::numbers::sqrt2, tone.frequency, 0}, tone.wiring);
    auto solved = schematic::steadyTone(h.schematic, tone.frequency, h.output,
                                        run.tone.states.empty() ? nullptr : &run.tone, tone.stop, tone.accuracy);
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

double at(const std::vector<double>& v, std::size_t k) {
    return k < v.size() ? v[k] : 0;
}

/// The supply under a signal's draw, and what that teaches about how it follows.
Expected<Done> load(const Build& b, const Catalogue& catalogue, Sag& sag, const std::vector<double>& amps,
                    const Tone& tone) {
    auto loaded =
        solveSteady(b, catalogue, sag.steady.conditions,
                    {.tolerance = 1e-4, .stop = tone.stop, .musicAmps = amps, .wiring = tone.wiring}, &sag.warm);
    if (!loaded) return loaded.problem();
    const std::size_t n = amps.size();
    sag.ohms.resize(n, std::vector<double>(n, 0.0));
    double square = 0;
    for (std::size_t k = 0; k < n; ++k) square += std::pow(amps[k] - at(sag.under, k), 2);
    for (std::size_t row = 0; row < n && square > 1e-9; ++row) { // from 30 uA on it can be told from rounding
        double missed = loaded->nodes[row].mean - sag.steady.nodes[row].mean;
        for (std::size_t k = 0; k < n; ++k) missed -= sag.ohms[row][k] * (amps[k] - at(sag.under, k));
        for (std::size_t k = 0; k < n; ++k) sag.ohms[row][k] += missed * (amps[k] - at(sag.under, k)) / square;
    }
    sag.steady = std::move(*loaded);
    sag.under = amps;
    return Done{};
}

/// What the supply would give under these amps, by what was learnt: exact at `sag.under`.
ChannelSupply supplyUnder(const Build& b, const Sag& sag, const std::vector<double>& amps) {
    ChannelSupply s = supplyOf(b, sag.steady);
    for (std::size_t row = 0; row < std::min(s.nodes.size(), sag.ohms.size()); ++row)
        for (std::size_t k = 0; k < amps.size(); ++k) s.nodes[row] += sag.ohms[row][k] * (amps[k] - at(sag.under, k));
    return s;
}

double largestDifference(const std::vector<double>& a, const std::vector<double>& b) {
    double most = 0;
    for (std::size_t k = 0; k < a.size(); ++k) most = std::max(most, std::abs(a[k] - at(b, k)));
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

/// Slope of the drawn current against the assumed one between two rounds, along the change of the assumed currents.
double shareDrawn(const std::vector<double>& given0, const std::vector<double>& drawn0,
                  const std::vector<double>& given1, const std::vector<double>& drawn1) {
    double along = 0, square = 0;
    for (std::size_t k = 0; k < drawn1.size(); ++k) {
        const double more = at(given1, k) - at(given0, k);
        along += more * (drawn1[k] - at(drawn0, k));
        square += more * more;
    }
    return square > 0 ? std::clamp(along / square, -2.0, 0.7) : 0;
}

} // namespace

Expected<Done> solveToneWithSag(const Build& b, const Catalogue& catalogue, std::size_t index, bool every,
                                const Tone& tone, Sag& sag, ToneRun& run) {
    constexpr int rounds = 12;
    // Converged: currents within these [A, share] move a node by less than a thousandth of its volts, the watts by less
    // than 1 dB / 50.
    constexpr double least = 2e-4, share = 0.03;
    constexpr double closeShare = 1e-3; // between the learnt supply's node volts and the solved ones
    ChannelDc still(b, catalogue, index, tone.wiring);
    const double channels = every ? static_cast<double>(b.channels.size()) : 1;
    std::vector<double> under = extrapolated(sag, tone.inputRms); // what the supply is taken to give
    under.resize(sag.steady.nodes.size(), 0.0);
    Tone draft = tone; // accurate enough for the currents that it draws
    draft.accuracy = schematic::ToneAccuracy::Draft;
    std::vector<NodeDraw> more;
    std::vector<double> given, drawn; // of the round before: what the supply was taken for, and what was then drawn
    for (int round = 0; round < rounds; ++round) {
        const ChannelSupply supply = supplyUnder(b, sag, under);
        if (auto done = solveTone(b, catalogue, index, supply, draft, run); !done) return done;
        // What it draws beyond what the same valves would draw at rest from the same volts.
        const auto rest = still.at(supply);
        if (!rest) return rest.problem();
        std::vector<double> music(sag.steady.nodes.size(), 0.0);
        more = run.draws;
        for (std::size_t k = 0; k < std::min(rest->draws.size(), run.draws.size()); ++k) {
            more[k].amps -= rest->draws[k].amps;
            music[static_cast<std::size_t>(rest->draws[k].node - 1)] += channels * more[k].amps;
        }
        const double close = std::max(least, share * largestDifference(music, {}));
        if (largestDifference(music, under) >= close) {
            // Secant step to drawn = assumed.
            if (!given.empty()) sag.back = shareDrawn(given, drawn, under, music);
            std::vector<double> next = under;
            for (std::size_t k = 0; k < next.size(); ++k) next[k] += (music[k] - under[k]) / (1 - sag.back);
            given = std::exchange(under, std::move(next));
            drawn = std::move(music);
            continue;
        }
        if (largestDifference(under, sag.under) < close) break;
        // The tone agrees with the learnt supply; solve the real one to check it.
        if (auto done = load(b, catalogue, sag, under, tone); !done) return done;
        double off = 0;
        for (std::size_t n = 0; n < supply.nodes.size(); ++n)
            off = std::max(off, std::abs(supply.nodes[n] - sag.steady.nodes[n].mean) / (1 + std::abs(supply.nodes[n])));
        if (off < closeShare) break;
        given.clear();
        drawn.clear();
    }
    if (auto done = solveTone(b, catalogue, index, supplyUnder(b, sag, under), tone, run); !done) return done;
    run.figures.more = std::move(more);
    sag.before = std::exchange(sag.last, {tone.inputRms, under});
    return Done{};
}

} // namespace ember::plan
