#include "solve.h"

#include "tone.h"

#include <cmath>
#include <future>
#include <numbers>
#include <thread>

namespace ember::plan {

namespace {

PowerFigures powerOf(const Build& b, const Catalogue& catalogue, const Steady& steady, std::size_t index,
                     const std::stop_token& stop) {
    PowerFigures out;
    const Channel& ch = b.channels[index];
    ToneRun run;
    Tone tone{0.005, 1000, stop};
    if (!solveTone(ch, catalogue, supplyOf(b, steady, index), tone, run) || !(run.figures.outputRms > 1e-6)) return out;
    Sag sag{{}, {}, steady};
    const double gain = run.figures.outputRms / tone.inputRms;
    const double oneWatt = std::sqrt(ch.pair.load) / gain;
    for (tone.inputRms = oneWatt / 8; out.sweep.size() < 24; tone.inputRms *= std::numbers::sqrt2) {
        if (!solveToneWithSag(b, catalogue, index, true, tone, sag, run) || stop.stop_requested()) break;
        out.sweep.push_back(run.figures);
        if (run.figures.thdPercent > 12) break;
    }
    // Where `quantity` passes `wanted` between two levels, what `read` says there.
    const auto where = [&](double ToneFigures::*quantity, double wanted, auto read) {
        for (std::size_t k = 1; k < out.sweep.size(); ++k) {
            const ToneFigures &below = out.sweep[k - 1], &above = out.sweep[k];
            if (below.*quantity <= wanted && above.*quantity > wanted)
                return read(below) +
                       (wanted - below.*quantity) / (above.*quantity - below.*quantity) * (read(above) - read(below));
        }
        return unknown;
    };
    out.gain = where(&ToneFigures::watts, 1, [](const ToneFigures& f) { return f.outputRms / f.inputRms; });
    out.thdAtOneWatt = where(&ToneFigures::watts, 1, [](const ToneFigures& f) { return f.thdPercent; });
    const auto atClip = [&](double ToneFigures::*what) {
        return where(&ToneFigures::thdPercent, 3, [what](const ToneFigures& f) { return f.*what; });
    };
    out.clipWatts = atClip(&ToneFigures::watts);
    out.clipInput = atClip(&ToneFigures::inputRms);
    out.clipPlate = atClip(&ToneFigures::morePlate);
    out.clipScreen = atClip(&ToneFigures::moreScreen);
    out.clipSmall = atClip(&ToneFigures::moreSmall);
    return out;
}

/// Two adjusters alike are solved to the last digit but one.
ChannelSupply toMicrovolt(ChannelSupply s) {
    for (double* v : {&s.plate, &s.screen, &s.small, &s.biasA, &s.biasB}) *v = std::round(*v * 1e6) * 1e-6;
    return s;
}

} // namespace

std::vector<PowerFigures> channelPower(const Build& b, const Catalogue& catalogue, const Steady& steady,
                                       std::stop_token stop) {
    // A processor is left to whoever shows what is there already.
    const auto how = std::thread::hardware_concurrency() > 2 ? std::launch::async : std::launch::deferred;
    std::vector<HeldChannel> held;
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        held.push_back(heldChannel(b.channels[k], catalogue, toMicrovolt(supplyOf(b, steady, k))));
    // Channels that are one circuit on the same nodes are solved once: every channel is driven alike.
    std::vector<std::size_t> same(b.channels.size());
    std::vector<std::shared_future<PowerFigures>> under(b.channels.size());
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        same[k] = k;
        for (std::size_t e = 0; e < k && same[k] == k; ++e) {
            const Channel& other = b.channels[e];
            if (ch.plateNode == other.plateNode && ch.screenNode == other.screenNode && ch.smallNode == other.smallNode &&
                schematic::alike(held[e].schematic, held[k].schematic))
                same[k] = same[e];
        }
        if (same[k] == k)
            under[k] = std::async(how, [&, k] { return powerOf(b, catalogue, steady, k, stop); }).share();
    }
    std::vector<PowerFigures> out;
    out.reserve(under.size());
    for (const std::size_t of : same) out.push_back(under[of].get());
    return out;
}

} // namespace ember::plan
