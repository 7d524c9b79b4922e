#include "solve.h"

#include "core/build/build_json.h"
#include "core/circuit/periodic.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::plan {

using namespace circuit;

Expected<ToneFigures> tone(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply, double inputRms,
                           double frequency, std::vector<double>* samples, ChannelPoint* drawn, std::stop_token stop) {
    const ChannelCircuit c = channelCircuit(ch, catalogue, supply, {0, inputRms * std::numbers::sqrt2, frequency, 0});
    System sys = assemble(c.netlist);
    const auto source = static_cast<std::size_t>(sys.sourceOf[static_cast<std::size_t>(c.source)]);
    // The operating point is the natural start: the waveform's dc is zero.
    auto still = operatingPoint(assemble(channelCircuit(ch, catalogue, supply).netlist));
    if (!still) return Problem{ch.name, still.problem().sentence};
    PeriodicOptions o;
    o.period = 1 / frequency;
    o.steps = 96;
    o.levels = 4;
    o.tolerance = 1e-5;
    o.residual = 1e-8;
    o.stop = stop;
    Recording record({nodeVolts(sys, c.output), branchAmps(sys, c.railPlate), branchAmps(sys, c.railScreen),
                      branchAmps(sys, c.railSmall)});
    Stepper stepper = periodicStepper(sys, o);
    stepper.portSolver().volts() = still->portVolts;
    o.mostPasses = 80;
    auto solved = periodicSteadyState(stepper, still->y, o, &record);
    if (!solved && !stop.stop_requested()) {
        // Far overdriven the grids charge their capacitors: come from below, each level from the one before.
        const Waveform full = sys.sources[source];
        Eigen::VectorXd start = still->y;
        double reached = 0, stride = 0.25;
        while (reached < 1 && stride > 0.01 && !stop.stop_requested()) {
            const double next = std::min(1.0, reached + stride);
            Waveform part = full;
            part.amplitude *= next;
            stepper.setSource(static_cast<int>(source), part);
            auto level = periodicSteadyState(stepper, start, o, &record);
            if (level) {
                reached = next;
                start = level->y;
                solved = std::move(level);
            } else {
                stride *= 0.5;
            }
        }
        if (reached < 1)
            return Problem{ch.name,
                           solved ? "the tone was not solved at this level; lower it" : solved.problem().sentence};
    }
    if (!solved) return Problem{ch.name, solved.problem().sentence};
    constexpr std::size_t count = 256;
    const auto v = record.evenly(0, 0, o.period, count);
    ToneFigures f;
    f.inputRms = inputRms;
    f.outputRms = record.rms(0);
    f.watts = f.outputRms * f.outputRms / ch.pair.load;
    double distortion = 0;
    for (int h = 1; h <= 10; ++h) {
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < count; ++k)
            sum += v[k] *
                   std::polar(std::numbers::sqrt2 / count, -2 * std::numbers::pi * h * static_cast<double>(k) / count);
        f.harmonics.push_back(std::abs(sum));
        if (h > 1) distortion += std::norm(sum);
    }
    f.thdPercent = 100 * std::sqrt(distortion) / f.harmonics[0];
    if (samples) *samples = v;
    if (drawn) {
        drawn->railPlate = -record.mean(1);
        drawn->railScreen = -record.mean(2);
        drawn->railSmall = -record.mean(3);
    }
    return f;
}

PowerFigures channelPower(const Build& b, const Catalogue& catalogue, const Steady& steady, std::size_t index,
                          std::stop_token stop) {
    PowerFigures out;
    const Channel& ch = b.channels[index];
    ChannelSupply supply = supplyOf(b, steady, index);
    const ChannelPoint& rest = steady.channels[index];
    // The supply seen from its nodes: volts fall with what both channels draw beyond rest, by the slope of the chain.
    double ohms = 0;
    for (const Section& s : b.supply.sections)
        if (s.kind != SectionKind::Capacitor &&
            nodeOfSection(b.supply, static_cast<std::size_t>(&s - b.supply.sections.data())) < ch.plateNode)
            ohms += s.resistance;
    const double ratio = b.transformer.plateVolts / b.transformer.primaryVolts;
    ohms += 2.2 * (b.transformer.plateResistance + b.transformer.primaryResistance * ratio * ratio);
    const auto at = [&](double volts) -> std::optional<ToneFigures> {
        ChannelSupply sagging = supply;
        std::optional<ToneFigures> found;
        for (int round = 0; round < 2; ++round) {
            ChannelPoint drawn;
            const auto f = tone(ch, catalogue, sagging, volts, 1000, nullptr, &drawn, stop);
            if (!f) return std::nullopt;
            found = *f;
            const double more = (drawn.railPlate + drawn.railScreen) - (rest.railPlate + rest.railScreen);
            const double fall = ohms * more * static_cast<double>(b.channels.size());
            sagging.plate = supply.plate - fall;
            sagging.screen = supply.screen - fall;
            if (std::abs(fall) < 0.002 * supply.plate) break;
        }
        return found;
    };
    const auto probe = at(0.005);
    if (!probe || !(probe->outputRms > 1e-6)) return out;
    const double gain = probe->outputRms / 0.005;
    const double oneWatt = std::sqrt(ch.pair.load) / gain;
    for (double level = oneWatt / 8; out.sweep.size() < 24; level *= 1.4142135623730951) {
        const auto f = at(level);
        if (!f || stop.stop_requested()) break;
        out.sweep.push_back(*f);
        if (f->thdPercent > 12) break;
    }
    const auto between = [&](auto quantity, double wanted, auto read) {
        for (std::size_t k = 1; k < out.sweep.size(); ++k) {
            const double x0 = quantity(out.sweep[k - 1]), x1 = quantity(out.sweep[k]);
            if (x0 <= wanted && x1 > wanted)
                return read(out.sweep[k - 1]) +
                       (wanted - x0) / (x1 - x0) * (read(out.sweep[k]) - read(out.sweep[k - 1]));
        }
        return unknown;
    };
    const auto watts = [](const ToneFigures& f) { return f.watts; };
    const auto thd = [](const ToneFigures& f) { return f.thdPercent; };
    out.gain = between(watts, 1, [](const ToneFigures& f) { return f.outputRms / f.inputRms; });
    out.thdAtOneWatt = between(watts, 1, thd);
    out.clipWatts = between(thd, 3, watts);
    out.clipInput = between(thd, 3, [](const ToneFigures& f) { return f.inputRms; });
    return out;
}

} // namespace ember::plan
