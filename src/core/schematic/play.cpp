#include "play.h"

#include "core/circuit/operating_point.h"
#include "core/circuit/transient.h"

#include <cmath>
#include <limits>

namespace ember::schematic {

using namespace circuit;

namespace {

/// Steps of the distance of two samples, which follow the whole audio band, and shorter ones only where the ports of a
/// stage far into clipping are not solved over a whole one: finer ones move what a recorder hears by less than 0.1 dB,
/// and steps that change their length without need are a distortion of their own.
constexpr int levels = 3;
constexpr double tolerance = std::numeric_limits<double>::infinity(); // no step is too long but for its ports
constexpr double portTolerance = 4e-4, leastSwing = 1e-3;             // of each port's swing; [V]
constexpr double remembered = 0.05;                                   // [s] in which a swing is forgotten

} // namespace

Play::Play(const Schematic& s, NetId out, double sampleRate)
    : circuit(circuitOf(s, Electrodes::WithCapacitance)),
      system(std::make_unique<System>(assemble(circuit.netlist))),
      rate(sampleRate),
      stepper(*system, 1 / sampleRate, levels),
      output(nodeVolts(*system, circuit.nodes[static_cast<std::size_t>(out.index)])),
      amps(s.parts().size(), 0) {
    std::vector<int> watched{output.index};
    for (std::size_t k = 0; k < s.parts().size(); ++k)
        if (std::holds_alternative<Voltage>(s.parts()[k].element)) {
            const Probe p = branchAmps(*system, circuit.devices[k][0]);
            watched.push_back(p.index);
            sources.push_back(k);
            scales.push_back(p.scale);
        }
    stepper.watch(std::move(watched));
}

Expected<Play> Play::from(const Schematic& s, NetId output, double rate) {
    Play p(s, output, rate);
    const auto rest = circuit::operatingPoint(*p.system);
    if (!rest) return rest.problem();
    p.stepper.portSolver().volts() = rest->portVolts;
    p.state = {0, rest->y, Eigen::VectorXd::Zero(p.system->states())};
    p.restVolts = rest->portVolts;
    p.portSwing = Eigen::VectorXd::Zero(p.restVolts.size());
    return p;
}

Expected<Done> Play::run(std::size_t count, std::vector<double>& volts, const std::stop_token& stop) {
    std::fill(amps.begin(), amps.end(), 0.0);
    samples = 0;
    TransientOptions o;
    o.duration = static_cast<double>(count) / rate;
    o.largestStep = 1 / rate;
    o.levels = levels;
    o.tolerance = tolerance;
    o.stop = stop;
    o.onStep = [&](Stepper& s, const State& at, double h) {
        const double kept = std::exp(-h / remembered);
        portSwing = (portSwing * kept).cwiseMax((s.endPortVolts() - restVolts).cwiseAbs()).cwiseMax(leastSwing);
        s.solvePortsTo(portTolerance * portSwing);
        const double place = at.t * rate;
        if (std::abs(place - std::round(place)) > 1e-3) return true; // between two samples
        const Eigen::VectorXd& seen = s.endWatched();
        volts.push_back(output.scale * seen[0]);
        for (std::size_t k = 0; k < sources.size(); ++k)
            amps[sources[k]] -= scales[k] * seen[static_cast<Eigen::Index>(k) + 1]; // a branch's runs into +
        ++samples;
        return true;
    };
    return runTransient(stepper, state, o);
}

void Play::hold(PartId source, double volts) {
    const DeviceId device = circuit.devices[static_cast<std::size_t>(source.index)][0];
    Waveform w;
    w.dc = volts;
    stepper.setSource(system->sourceOf[static_cast<std::size_t>(device)], w);
}

double Play::meanAmps(PartId source) const {
    return samples ? amps[static_cast<std::size_t>(source.index)] / static_cast<double>(samples) : 0;
}

} // namespace ember::schematic
