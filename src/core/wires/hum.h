#pragma once
// Hum and noise at each channel's output with its input shorted, as one budget by source.

#include "boards.h"
#include "earth_faults.h"
#include "ground_network.h"
#include "heaters.h"
#include "reach.h"
#include "signal_returns.h"

namespace ember::wires {

/// In the order in which they are shown.
enum class HumSource { Ripple, Heaters, Grounds, Field, Noise };
inline constexpr std::size_t humSources = 5;
const char* nameOf(HumSource source); ///< "ripple" ...

struct HumLine {
    double hertz = 0, rms = 0;            ///< [V] at the output
    double least = 0, most = 0;           ///< as the phases between the sources may be
    HumSource source = HumSource::Ripple; ///< that dominates
    std::array<double, humSources> by{};
};

struct ChannelHum {
    std::size_t channel = 0;
    double rms = plan::unknown, weighted = plan::unknown; ///< [V] at the output, 20 Hz .. 20 kHz; A-weighted
    double least = plan::unknown, most = plan::unknown;   ///< of `rms`: as the phases between the sources may be
    double rated = plan::unknown;                         ///< [V RMS] at clipping
    std::array<double, humSources> by{};                  ///< [V RMS] of each source alone
    std::vector<HumLine> lines;                           ///< at the mains' harmonics
    std::vector<double> groundAtInput; ///< [V RMS] by harmonic: what the returns make, seen at the input
    [[nodiscard]] double belowRatedDb() const;
};

/// A closed way of the return network.
struct GroundLoop {
    std::vector<std::string> wires; ///< ids
    double area = 0;                ///< [m2]
    double induced = 0;             ///< [V RMS] by the stray fields, all harmonics
};

/// With a source that has a safety earth of its own: the ring by the input's screen, the source's earth, the mains and
/// this chassis, driven by the volts between the two earths.
struct EarthLoop {
    std::size_t channel = 0;
    double amps = plan::unknown;   ///< RMS in the screen, at the mains' frequency
    double output = plan::unknown; ///< what it makes there [V RMS]
};

/// What one piece of iron induces in another that carries the signal.
struct IronPickup {
    std::string from, into; ///< ids
    std::size_t channel = 0;
    double output = plan::unknown; ///< what it makes there [V RMS], all harmonics
};

struct HumFigures {
    std::vector<ChannelHum> channels;
    std::vector<SignalReturn> driven;  ///< by channel: the signal's own currents
    std::vector<EarthLoop> earthLoops; ///< by channel
    std::vector<IronPickup> pickups;   ///< loudest first
    EarthFaults faults;
    std::vector<GroundLoop> loops;
    std::vector<std::string> bonds;            ///< ids of the wires to the chassis
    std::vector<std::string> loose;            ///< ground points that nothing joins to the supply's
    std::map<std::string, double> groundAmps;  ///< by wire: RMS of the alternating current [A]
    std::map<std::string, double> groundVolts; ///< by ground point: RMS to the chassis [V]
};

/// Keeps the channels' transfers, which a circuit decides, from one build to the next: after a move or with another
/// wire the budget comes within a frame. They are computed anew where the ground points are others; whoever changes the
/// circuit takes another solver.
class HumSolver {
  public:
    /// Nothing for a build without a steady state at nominal mains.
    HumFigures solve(const Build& build, const Catalogue& catalogue, const Harness& harness,
                     const HeaterFigures& heaters, const plan::Figures& figures);

  private:
    std::vector<ChannelReach> reaches;
    std::vector<std::string> points; ///< names of the ground points that `reaches` are by
};

/// Harness, heaters and hum of a build in one.
struct WireFigures {
    Harness harness;
    std::vector<BoardFigures> boards;
    HeaterFigures heaters;
    HumFigures hum;
};
/// The same into the figures that they belong to.
void addWires(const Build& build, const Catalogue& catalogue, plan::Figures& figures);
/// Once the channels' power and the supply's short circuit are known too: what is rated, and faults. The rest stays as
/// it was computed.
void completeWires(const Build& build, plan::Figures& figures);
WireFigures wireFigures(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

} // namespace ember::wires
