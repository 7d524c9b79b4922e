#pragma once
// Any signal through a schematic over time, from its operating point on.

#include "solve.h"

#include "core/circuit/record.h"

namespace ember::schematic {

class Play {
  public:
    /// At rest, every source at its DC. `rate` [Hz]: of the samples that run() gives. A Problem: no operating point.
    static Expected<Play> from(const Schematic& schematic, NetId output, double rate);
    /// Appends the output's volts at the next `count` samples. A Problem has the time at which a step was not solved.
    Expected<Done> run(std::size_t count, std::vector<double>& volts, const std::stop_token& stop = {});
    /// A Voltage part's volts from now on.
    void hold(PartId source, double volts);
    /// Mean out of a Voltage part's + pin over the last run() [A].
    [[nodiscard]] double meanAmps(PartId source) const;

  private:
    Play(const Schematic& schematic, NetId output, double sampleRate);

    Circuit circuit;
    std::unique_ptr<circuit::System> system; ///< the stepper keeps a reference to it
    double rate;
    circuit::Stepper stepper;
    circuit::State state;
    Eigen::VectorXd restVolts; ///< of the ports
    Eigen::VectorXd portSwing; ///< [V] each port's largest way from there lately
    circuit::Probe output;
    std::vector<std::size_t> sources; ///< Voltage parts
    std::vector<double> scales;       ///< of their branch currents, among what the stepper watches behind the output
    std::vector<double> amps;         ///< sums over the last run, by part
    std::size_t samples = 0;          ///< of the last run
};

} // namespace ember::schematic
