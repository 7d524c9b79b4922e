#include "played.h"

#include "rail_circuit.h"

#include "core/schematic/play.h"

#include <cmath>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double settling = 0.4; // [s] from the steady state's means to the ripple that belongs to them
constexpr int pieces = 10;       // of a block, in which the channel's supply moves from one mean to the next

/// The supply's chain, drawn from by one current source at each node, and by the idle channels.
class Rails {
  public:
    Rails(const Build& b, const Catalogue& catalogue, const Steady& steady, const std::vector<RailLoad>& others)
        : circuit(railCircuit(b, catalogue, steady.conditions.mainsVolts, true, others)),
          block(0.5 / b.mains.frequency) {
        for (const Node rail : circuit.rails) draws.push_back(circuit.netlist.add(CurrentSource{rail, ground, {}}));
        system = std::make_unique<System>(assemble(circuit.netlist));
        stepper = std::make_unique<Stepper>(*system, block / 16, 5);
        state = {0, Eigen::VectorXd::Zero(system->states()), Eigen::VectorXd::Zero(system->states())};
        startAt(b, steady, *system, circuit, state);
    }
    /// Each node's mean over the next `seconds` under these amps.
    Expected<std::vector<double>> run(const std::vector<double>& amps, double seconds) {
        for (std::size_t k = 0; k < draws.size(); ++k)
            stepper->setSource(system->sourceOf[static_cast<std::size_t>(draws[k])], {.dc = amps[k]});
        std::vector<double> sum(draws.size(), 0.0);
        Unknowns x;
        TransientOptions o;
        o.duration = seconds;
        o.largestStep = block / 16;
        o.levels = 5;
        o.tolerance = 1e-3;
        o.onStep = [&](Stepper& s, const State&, double h) {
            s.endUnknowns(x);
            for (std::size_t k = 0; k < sum.size(); ++k) sum[k] += h * x[system->row(circuit.rails[k])];
            return true;
        };
        if (auto done = runTransient(*stepper, state, o); !done) return done.problem();
        for (double& v : sum) v /= seconds;
        return sum;
    }
    [[nodiscard]] double blockSeconds() const { return block; }

  private:
    RailCircuit circuit;
    double block;
    std::vector<DeviceId> draws;
    std::unique_ptr<System> system;
    std::unique_ptr<Stepper> stepper;
    State state;
};

} // namespace

Expected<Played> play(const Build& b, const Catalogue& catalogue, const Steady& steady, std::size_t channel,
                      const PlayedSignal& signal) {
    const ChannelSupply supply = supplyOf(b, steady);
    auto samples = std::make_shared<const Samples>(Samples{signal.rate, signal.volts});
    const HeldChannel held = heldChannel(b, catalogue, channel, supply, {.samples = samples}, signal.wiring);
    auto stage = schematic::Play::from(held.schematic, held.output, signal.outputRate);
    if (!stage) return Problem{b.channels[channel].name, stage.problem().sentence};
    const std::size_t nodes = steady.nodes.size();
    std::vector<double> rest(nodes, 0.0); // what the playing channel draws without a signal
    const auto drawnBy = [&](const std::vector<double>& amps) {
        std::vector<double> all(nodes, 0.0);
        for (std::size_t k = 0; k < held.nodes.size(); ++k)
            all[static_cast<std::size_t>(held.nodes[k].node - 1)] += amps[k];
        return all;
    };
    for (const NodeDraw& d : steady.channels[channel].draws) rest[static_cast<std::size_t>(d.node - 1)] += d.amps;
    std::vector<RailLoad> others = biasedRailLoads(b, steady);
    for (RailLoad& l : others) l.amps *= std::max(0.0, 1 - rest[l.node] / std::max(1e-9, steady.nodes[l.node].load));
    std::erase_if(others, [](const RailLoad& l) { return l.amps < 1e-6; });
    Rails rails(b, catalogue, steady, others);
    Played out;
    out.block = rails.blockSeconds();
    std::vector<double> amps(held.nodes.size(), 0.0);
    // The chain's mean at rest differs from the steady state's in the last digits; only its change is used.
    auto start = rails.run(rest, settling);
    if (start) start = rails.run(rest, out.block);
    if (!start) return start.problem();
    std::vector<double> before(nodes, 0.0), now(nodes, 0.0); // change of each node against rest [V]
    const auto total = static_cast<std::size_t>(
        std::llround(static_cast<double>(signal.volts.size()) * signal.outputRate / signal.rate));
    const auto perBlock = static_cast<std::size_t>(std::llround(out.block * signal.outputRate));
    out.volts.reserve(total);
    while (out.volts.size() < total) {
        std::fill(amps.begin(), amps.end(), 0.0);
        const std::size_t from = out.volts.size(), length = std::min(perBlock, total - from);
        for (std::size_t piece = 0; piece < pieces; ++piece) {
            const std::size_t until = from + length * (piece + 1) / pieces, count = until - out.volts.size();
            if (count == 0) continue;
            const double share = (static_cast<double>(piece) + 0.5) / pieces;
            for (const schematic::HeldNode& n : held.nodes) {
                const auto k = static_cast<std::size_t>(n.node - 1);
                stage->hold(n.source, supply.nodes[k] + before[k] + share * (now[k] - before[k]));
            }
            if (auto done = stage->run(count, out.volts, signal.stop); !done)
                return Problem{b.channels[channel].name, done.problem().sentence};
            for (std::size_t k = 0; k < amps.size(); ++k)
                amps[k] +=
                    stage->meanAmps(held.nodes[k].source) * static_cast<double>(count) / static_cast<double>(length);
        }
        const std::vector<double> drawn = drawnBy(amps);
        const auto mean = rails.run(drawn, out.block);
        if (!mean) return mean.problem();
        before = now;
        for (std::size_t k = 0; k < nodes; ++k) now[k] = (*mean)[k] - (*start)[k];
        out.nodes.resize(nodes);
        for (std::size_t k = 0; k < nodes; ++k) out.nodes[k].push_back(supply.nodes[k] + now[k]);
        if (signal.progress) signal.progress(static_cast<double>(out.volts.size()) / static_cast<double>(total));
    }
    return out;
}

} // namespace ember::plan
