#include "tone.h"

#include "core/circuit/periodic.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::plan {

using namespace circuit;

namespace {

Eigen::VectorXd vectorOf(const std::vector<double>& v) {
    return Eigen::Map<const Eigen::VectorXd>(v.data(), static_cast<Eigen::Index>(v.size()));
}

/// Harmonics 1 .. 10 as RMS volts, from one period of samples.
std::vector<double> harmonicsOf(const std::vector<double>& period) {
    const auto count = static_cast<double>(period.size());
    std::vector<double> out;
    for (int h = 1; h <= 10; ++h) {
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < period.size(); ++k)
            sum += period[k] *
                   std::polar(std::numbers::sqrt2 / count, -2 * std::numbers::pi * h * static_cast<double>(k) / count);
        out.push_back(std::abs(sum));
    }
    return out;
}

/// Far overdriven the grids charge their capacitors: come from below, each level from the one before.
Expected<PeriodicSolution> fromBelow(Stepper& stepper, int source, const Waveform& full, const Eigen::VectorXd& rest,
                                     const PeriodicOptions& o, Recording& record) {
    Expected<PeriodicSolution> solved = Problem{"", "the tone was not solved at this level; lower it"};
    Eigen::VectorXd start = rest;
    double reached = 0, stride = 0.25;
    while (reached < 1 && stride > 0.01 && !o.stop.stop_requested()) {
        const double next = std::min(1.0, reached + stride);
        Waveform part = full;
        part.amplitude *= next;
        stepper.setSource(source, part);
        auto level = periodicSteadyState(stepper, start, o, &record);
        if (level) {
            reached = next;
            start = level->y;
            if (reached >= 1) solved = std::move(level);
        } else {
            stride *= 0.5;
        }
    }
    return solved;
}

} // namespace

Expected<Done> solveTone(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply, const Tone& tone,
                         ToneRun& run) {
    const ChannelCircuit c =
        channelCircuit(ch, catalogue, supply, {0, tone.inputRms * std::numbers::sqrt2, tone.frequency, 0});
    const System sys = assemble(c.netlist);
    PeriodicOptions o;
    o.period = 1 / tone.frequency;
    o.steps = 96;
    o.levels = 4;
    o.tolerance = 1e-5;
    o.residual = 1e-8;
    o.mostPasses = 60;
    o.stop = tone.stop;
    Recording record({nodeVolts(sys, c.output), branchAmps(sys, c.railPlate), branchAmps(sys, c.railScreen),
                      branchAmps(sys, c.railSmall)});
    Stepper stepper = periodicStepper(sys, o);
    Expected<PeriodicSolution> solved = Problem{};
    if (static_cast<int>(run.states.size()) == sys.states()) {
        stepper.portSolver().volts() = vectorOf(run.portVolts);
        solved = periodicSteadyState(stepper, vectorOf(run.states), o, &record);
    }
    if (!solved && !tone.stop.stop_requested()) {
        // The operating point is the natural start: the waveform's dc is zero.
        const auto still = operatingPoint(sys);
        if (!still) return Problem{ch.name, still.problem().sentence};
        stepper.portSolver().volts() = still->portVolts;
        solved = periodicSteadyState(stepper, still->y, o, &record);
        const auto source = static_cast<std::size_t>(sys.sourceOf[static_cast<std::size_t>(c.source)]);
        if (!solved && !tone.stop.stop_requested())
            solved = fromBelow(stepper, static_cast<int>(source), sys.sources[source], still->y, o, record);
    }
    if (!solved) return Problem{ch.name, solved.problem().sentence};
    run.states.assign(solved->y.begin(), solved->y.end());
    run.portVolts.assign(solved->portVolts.begin(), solved->portVolts.end());
    run.samples = record.evenly(0, 0, o.period, 256);
    // A source's branch current runs into it; what the channel draws is the opposite.
    run.railPlate = -record.mean(1);
    run.railScreen = -record.mean(2);
    run.railSmall = -record.mean(3);
    ToneFigures f;
    f.inputRms = tone.inputRms;
    f.outputRms = record.rms(0);
    f.watts = f.outputRms * f.outputRms / ch.pair.load;
    f.harmonics = harmonicsOf(run.samples);
    double distortion = 0;
    for (std::size_t h = 1; h < f.harmonics.size(); ++h) distortion += f.harmonics[h] * f.harmonics[h];
    f.thdPercent = 100 * std::sqrt(distortion) / f.harmonics[0];
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
