#include "tone.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

Expected<Done> solveTone(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply, const Tone& tone,
                         ToneRun& run) {
    const HeldChannel h =
        heldChannel(ch, catalogue, supply, {0, tone.inputRms * std::numbers::sqrt2, tone.frequency, 0});
    auto solved = schematic::steadyTone(h.schematic, tone.frequency, h.output,
                                        run.tone.states.empty() ? nullptr : &run.tone, tone.stop);
    if (!solved) return Problem{ch.name, solved.problem().sentence};
    run.tone = std::move(*solved);
    const auto drawn = [&](schematic::PartId rail) { return run.tone.sourceAmps[static_cast<std::size_t>(rail.index)]; };
    run.railPlate = drawn(h.railPlate);
    run.railScreen = drawn(h.railScreen);
    run.railSmall = drawn(h.railSmall);
    ToneFigures f;
    f.inputRms = tone.inputRms;
    f.outputRms = run.tone.outputRms;
    f.watts = f.outputRms * f.outputRms / ch.pair.load;
    f.harmonics = run.tone.harmonics;
    f.thdPercent = run.tone.thdPercent;
    run.figures = std::move(f);
    return Done{};
}

Expected<Done> solveToneWithSag(const Build& b, const Catalogue& catalogue, std::size_t index, bool every,
                                const Tone& tone, Sag& sag, ToneRun& run) {
    const Channel& ch = b.channels[index];
    constexpr int rounds = 8;
    for (int round = 0; round < rounds; ++round) {
        const ChannelSupply supply = supplyOf(b, sag.steady, index);
        if (auto done = solveTone(ch, catalogue, supply, tone, run); !done) return done;
        // What it draws beyond what the same valves would draw at rest from the same volts.
        const ChannelPoint& rest = sag.steady.channels[index];
        std::vector<double> music(sag.steady.nodes.size(), 0.0);
        const double channels = every ? static_cast<double>(b.channels.size()) : 1;
        ToneFigures& f = run.figures;
        f.morePlate = run.railPlate - rest.railPlate;
        f.moreScreen = run.railScreen - rest.railScreen;
        f.moreSmall = run.railSmall - rest.railSmall;
        for (const auto& [node, more] :
             {std::pair{ch.plateNode, f.morePlate}, {ch.screenNode, f.moreScreen}, {ch.smallNode, f.moreSmall}})
            music[static_cast<std::size_t>(node - 1)] += channels * more;
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
