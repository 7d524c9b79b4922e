#pragma once
// The practice bench: the plan's own netlist with parts off their marks and, perhaps, a hidden fault.

#include "instruments.h"

#include "core/plan/solve.h"

#include <cstdint>
#include <optional>
#include <random>

namespace ember::bench {

class VirtualAmplifier : public Voltmeter, public Generator, public Recorder {
  public:
    /// `fault` is an id of faultsOf(), or empty.
    static Expected<VirtualAmplifier> make(const Build& build, const Catalogue& catalogue, std::uint64_t seed,
                                           const std::string& fault);

    /// Puts it into a stage of First Power, or into use with the build's adjusters. Solves it.
    Expected<Done> power(int stage, double mainsVolts, std::stop_token stop = {});
    /// The builder turned adjusters: positions are taken over from the build that is worked on.
    void adjust(const Build& positions);

    Expected<double> read(const std::string& point) override;
    void set(double voltsRms, double hertz) override;
    /// The load's volts under the tone: periodic solution of the netlist with the supply's sag, its own hum and noise
    /// (wires/hum.h, phases by chance), and the converter's noise.
    Expected<signal::Capture> capture(std::size_t channel, double seconds) override;

    [[nodiscard]] const plan::Steady& state() const { return steady; }

  private:
    VirtualAmplifier(Build b, const Catalogue& c, plan::Miswiring miswired, std::uint64_t seed)
        : real(std::move(b)),
          catalogue(&c),
          wiring(std::move(miswired)),
          chance(seed) {}
    Build real;
    const Catalogue* catalogue;
    plan::Miswiring wiring;
    std::mt19937_64 chance;
    plan::Steady steady;
    plan::WarmStart warm;
    int stageNow = -1;
    std::optional<std::pair<int, double>> solvedAt; ///< stage and mains that `steady` is of
    double toneVolts = 0, toneHertz = 1000;
};

} // namespace ember::bench
