#include "tone.h"

#include <algorithm>
#include <cmath>
#include <numbers>

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

Expected<Done> solveToneWithSag(const Build& b, const Catalogue& catalogue, std::size_t index, bool every,
                                const Tone& tone, Sag& sag, ToneRun& run) {
    constexpr int rounds = 8;
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
        double change = 0;
        for (std::size_t k = 0; k < music.size(); ++k)
            change = std::max(change, std::abs(music[k] - (k < sag.musicAmps.size() ? sag.musicAmps[k] : 0)));
        if (change < 1e-4) return Done{}; // 0.1 mA moves no node by a tenth of a volt
        sag.musicAmps = music;
        auto loaded = solveSteady(b, catalogue, sag.steady.conditions,
                                  {.tolerance = 1e-4, .stop = tone.stop, .musicAmps = music}, &sag.warm);
        if (!loaded) return loaded.problem();
        sag.steady = std::move(*loaded);
    }
    return Done{};
}

} // namespace ember::plan
