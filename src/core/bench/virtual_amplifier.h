#pragma once
// The practice bench: the plan's own netlist with parts off their marks and, perhaps, a hidden fault.

#include "model_bench.h"

#include "core/plan/solve.h"

#include <cstdint>
#include <optional>
#include <random>

namespace ember::wires {
struct HumFigures;
}

namespace ember::bench {

class VirtualAmplifier : public Voltmeter, public Player {
  public:
    static constexpr const char* practice = "practice"; ///< source of its captures
    /// `fault` is an id of faultsOf(), or empty.
    static Expected<VirtualAmplifier> make(const Build& build, const Catalogue& catalogue, std::uint64_t seed,
                                           const std::string& fault);

    /// Puts it into a stage of First Power, or into use with the build's adjusters. Solves it.
    Expected<Done> power(int stage, double mainsVolts, std::stop_token stop = {});
    /// The builder turned adjusters or a level control, or connected another load: taken over from the build that is
    /// worked on.
    void adjust(const Build& positions);

    Expected<double> read(const std::string& point) override;
    /// As ModelBench::take(), with the amplifier's hum and noise (wires/hum.h, phases by chance) and the converter's,
    /// and in a channel that is not driven what the returns carry there (wires/signal_returns.h).
    Expected<signal::Capture> take(const TakeRequest& request, const TakeWatch& watch = {});
    /// Any signal, over time (plan/played.h); hum and noise likewise.
    Expected<signal::Capture> play(std::size_t channel, const std::vector<double>& volts, double rate,
                                   const TakeWatch& watch) override;

    [[nodiscard]] const plan::Steady& state() const { return steady; }

  private:
    VirtualAmplifier(Build b, const Catalogue& c, plan::Miswiring miswired, std::uint64_t seed)
        : real(std::move(b)),
          catalogue(&c),
          wiring(std::move(miswired)),
          chance(seed) {}
    [[nodiscard]] Expected<Done> ready(std::size_t channel) const; ///< for a signal
    const wires::HumFigures& hum();
    /// To volts of this capture across a channel's load.
    void addHumAndNoise(std::vector<double>& volts, const signal::Capture& capture, std::size_t channel);
    Build real;
    const Catalogue* catalogue;
    plan::Miswiring wiring;
    std::mt19937_64 chance;
    plan::Steady steady;
    plan::WarmStart warm;
    std::optional<ModelBench> model;                 ///< at `solvedAt`
    std::shared_ptr<const wires::WireFigures> wired; ///< of it, for the hum; none yet: not asked for
    int stageNow = -1;
    std::optional<std::pair<int, double>> solvedAt; ///< stage and mains that `steady` is of
};

} // namespace ember::bench
