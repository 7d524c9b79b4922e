#include "solve.h"

#include "stage_figures.h"
#include "tone.h"

#include <algorithm>
#include <cmath>
#include <future>
#include <numbers>
#include <thread>

namespace ember::plan {

namespace {

/// What of the gain for `small` is missing at `f` [dB].
double shortOf(const ToneFigures& small, const ToneFigures& f) {
    return 20 * std::log10(small.outputRms / small.inputRms * f.inputRms / f.outputRms);
}

} // namespace

std::vector<ToneFigures> levelSweep(const Build& b, const Catalogue& catalogue, const Steady& steady,
                                    std::size_t channel, double hertz, std::stop_token stop) {
    std::vector<ToneFigures> out;
    PowerFigures about;
    const HeldChannel held = heldChannel(b, catalogue, channel, supplyOf(b, steady));
    about.load = held.load;
    schematic::Analysis small(held.schematic);
    const auto rest = small.operatingPoint();
    const double gain = rest ? std::abs(small.gain(*rest, held.source, held.output, hertz)) : 0;
    if (!(gain > 1e-6)) return out;
    ToneRun run;
    Tone tone{0, hertz, stop};
    Sag sag{.warm = steady.end ? *steady.end : WarmStart{}, .steady = steady};
    const double reference = about.referenceVolts();
    tone.inputRms = reference / gain / 8;
    while (out.size() < 28) {
        if (!solveToneWithSag(b, catalogue, channel, true, tone, sag, run) || stop.stop_requested()) break;
        out.push_back(run.figures);
        const double thd = run.figures.thdPercent, missing = shortOf(out.front(), run.figures);
        if (thd > PowerFigures::clipPercent || (thd > PowerFigures::cleanPercent && missing > 6 * PowerFigures::clipDb))
            break;
        // By twos where nothing happens yet, then as finely as a chart wants it.
        tone.inputRms *= run.figures.thdPercent < 0.3 ? 2 : std::numbers::sqrt2;
    }
    // Where clipping begins THD rises tenfold within one step: levels between, until what is read between two of them
    // is read truly.
    constexpr double steep = 2, worthIt = 1; // ratio of neighbours' THD; [%] from which it matters
    for (int more = 0; more < 5 && !stop.stop_requested(); ++more) {
        std::size_t at = 0;
        double most = steep;
        for (std::size_t k = 1; k < out.size(); ++k)
            if (const double ratio = out[k].thdPercent / out[k - 1].thdPercent;
                out[k].thdPercent > worthIt && ratio > most)
                most = ratio, at = k;
        if (at == 0) break;
        tone.inputRms = std::sqrt(out[at - 1].inputRms * out[at].inputRms);
        if (!solveToneWithSag(b, catalogue, channel, true, tone, sag, run)) break;
        out.insert(out.begin() + static_cast<std::ptrdiff_t>(at), run.figures);
    }
    for (ToneFigures& f : out) f.compressionDb = shortOf(out.front(), f);
    return out;
}

double readWhere(const std::vector<ToneFigures>& sweep, double ToneFigures::*quantity, double wanted,
                 const std::function<double(const ToneFigures&)>& read) {
    for (std::size_t k = 1; k < sweep.size(); ++k) {
        const ToneFigures &below = sweep[k - 1], &above = sweep[k];
        if (below.*quantity <= wanted && above.*quantity > wanted)
            return read(below) +
                   (wanted - below.*quantity) / (above.*quantity - below.*quantity) * (read(above) - read(below));
    }
    return unknown;
}

namespace {

PowerFigures powerOf(const Build& b, const Catalogue& catalogue, const Steady& steady, std::size_t index, double load,
                     const std::stop_token& stop) {
    PowerFigures out;
    out.load = load;
    const Ports ports = portsOf(b, catalogue, steady, index);
    out.outputOhms = ports.outputOhms, out.inputOhms = ports.inputOhms;
    out.gain = ports.gain; // until the reference level says it better
    out.sweep = levelSweep(b, catalogue, steady, index, 1000, stop);
    if (out.sweep.empty()) return out;
    const auto where = [&](double ToneFigures::*quantity, double wanted, const auto& read) {
        return readWhere(out.sweep, quantity, wanted, read);
    };
    // Watts go with the square of the volts, so that they are what is interpolated at a loudspeaker's reference.
    const auto level = out.line() ? &ToneFigures::outputRms : &ToneFigures::watts;
    const double gain = where(level, 1, [](const ToneFigures& f) { return f.outputRms / f.inputRms; });
    if (std::isfinite(gain)) out.gain = gain; // it reaches the reference
    out.thdAtReference = where(level, 1, [](const ToneFigures& f) { return f.thdPercent; });
    const auto input = [](const ToneFigures& f) { return f.inputRms; };
    const auto wattsOf = [load](double volts) { return volts * (load > 0 ? volts / load : 0); };
    out.cleanInput = where(&ToneFigures::thdPercent, PowerFigures::cleanPercent, input);
    out.cleanOutput = where(&ToneFigures::inputRms, out.cleanInput, [](const ToneFigures& f) { return f.outputRms; });
    out.cleanWatts = wattsOf(out.cleanOutput);
    out.clipInput = std::fmin(where(&ToneFigures::compressionDb, PowerFigures::clipDb, input),
                              where(&ToneFigures::thdPercent, PowerFigures::clipPercent, input));
    const auto atClip = [&](auto read) { return where(&ToneFigures::inputRms, out.clipInput, read); };
    out.clipOutput = atClip([](const ToneFigures& f) { return f.outputRms; });
    out.clipThd = atClip([](const ToneFigures& f) { return f.thdPercent; });
    out.clipWatts = wattsOf(out.clipOutput);
    for (std::size_t k = 0; std::isfinite(out.clipWatts) && k < out.sweep.front().more.size(); ++k) {
        NodeDraw draw = out.sweep.front().more[k];
        draw.amps = atClip([k](const ToneFigures& f) { return f.more[k].amps; });
        out.clipMore.push_back(draw);
    }
    return out;
}

/// Two adjusters alike are solved to the last digit but one.
ChannelSupply toMicrovolt(ChannelSupply s) {
    for (auto* list : {&s.nodes, &s.wipers})
        for (double& v : *list) v = std::round(v * 1e6) * 1e-6;
    return s;
}

bool sameNodes(const HeldChannel& a, const HeldChannel& b) {
    return std::equal(a.nodes.begin(), a.nodes.end(), b.nodes.begin(), b.nodes.end(),
                      [](const schematic::HeldNode& x, const schematic::HeldNode& y) {
                          return x.node == y.node && x.screens == y.screens;
                      });
}

} // namespace

std::vector<PowerFigures> channelPower(const Build& b, const Catalogue& catalogue, const Steady& steady,
                                       std::stop_token stop) {
    // One processor is left for the interface.
    const auto how = std::thread::hardware_concurrency() > 2 ? std::launch::async : std::launch::deferred;
    std::vector<HeldChannel> held;
    const ChannelSupply supply = toMicrovolt(supplyOf(b, steady));
    for (std::size_t k = 0; k < b.channels.size(); ++k) held.push_back(heldChannel(b, catalogue, k, supply));
    // Channels that are one circuit on the same nodes are solved once: every channel is driven alike.
    std::vector<std::size_t> same(b.channels.size());
    std::vector<std::shared_future<PowerFigures>> under(b.channels.size());
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        same[k] = k;
        for (std::size_t e = 0; e < k && same[k] == k; ++e)
            if (sameNodes(held[e], held[k]) && schematic::alike(held[e].schematic, held[k].schematic))
                same[k] = same[e];
        if (same[k] == k)
            under[k] = std::async(how, [&, k] { return powerOf(b, catalogue, steady, k, held[k].load, stop); }).share();
    }
    std::vector<PowerFigures> out;
    out.reserve(under.size());
    for (const std::size_t of : same) out.push_back(under[of].get());
    return out;
}

} // namespace ember::plan
