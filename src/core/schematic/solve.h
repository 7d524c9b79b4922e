#pragma once
// Volts by net, amps by pin: the operating point of a schematic, its small signals, a tone through it.

#include "schematic.h"

#include "core/circuit/poles.h"
#include "core/circuit/small_signal.h"

#include <memory>
#include <stop_token>

namespace ember::schematic {

/// The schematic as the solver needs it: a node for each net, devices for each part.
struct Circuit {
    circuit::Netlist netlist;
    std::vector<circuit::Node> nodes;                    ///< by net
    std::vector<std::vector<circuit::DeviceId>> devices; ///< by part: one, or one for each valve section
};
/// Capacitances between a valve's electrodes and of windings matter from some kilohertz on, and cost states: a tone
/// lower than this is solved without them.
enum class Electrodes { WithoutCapacitance, WithCapacitance };
inline constexpr double capacitancesFrom = 2000; ///< [Hz]
Circuit circuitOf(const Schematic& schematic, Electrodes electrodes);

/// A solved operating point.
class Point {
  public:
    [[nodiscard]] double volts(NetId net) const {
        return net.index <= 0 ? 0 : netVolts[static_cast<std::size_t>(net.index)];
    }
    /// [A] into the part at this pin.
    [[nodiscard]] double amps(PinId pin) const {
        return pinAmps[static_cast<std::size_t>(pin.part.index)][static_cast<std::size_t>(pin.pin)];
    }
    /// [W] that a part takes in; of a source negative.
    [[nodiscard]] double watts(PartId part) const { return partWatts[static_cast<std::size_t>(part.index)]; }
    std::vector<double> netVolts;
    std::vector<std::vector<double>> pinAmps; ///< by part, by pin
    std::vector<double> partWatts;
    Eigen::VectorXd portVolts;
};

/// Everything that is asked of one schematic at rest; it keeps what was assembled once.
class Analysis {
  public:
    explicit Analysis(const Schematic& schematic);
    /// Where every source stands at its DC. A Problem has the residual.
    Expected<Point> operatingPoint();
    /// At a point of this schematic. Volts at `to` for 1 V of the Voltage part `source`; impedance at a net [ohm].
    [[nodiscard]] circuit::Complex gain(const Point& at, PartId source, NetId to, double hertz) const;
    [[nodiscard]] circuit::Complex impedance(const Point& at, NetId net, double hertz) const;
    /// Whether it leaves this point by itself, and at which frequency.
    [[nodiscard]] std::optional<circuit::Growth> growth(const Point& at) const;
    [[nodiscard]] const Circuit& circuit() const { return made; }
    [[nodiscard]] const circuit::System& system() const { return *assembled; }

  private:
    const Schematic schematic;
    Circuit made;
    std::unique_ptr<circuit::System> assembled;
};

/// A steady tone: the sources' waveforms as they are, all of one frequency [Hz]. RMS of harmonics 1 .. 10 at `output`,
/// mean amps of each Voltage part.
struct ToneResult {
    double outputRms = 0, thdPercent = 0;
    std::vector<double> harmonics;
    std::vector<double> sourceAmps;        ///< by part: [A] mean out of its + pin; 0 for other parts
    std::vector<double> samples;           ///< one period of the output's volts, evenly spaced
    std::vector<double> states, portVolts; ///< the start of a nearby tone
    Eigen::MatrixXd map;                   ///< and how a period takes its states on, for the same
};
enum class ToneAccuracy { Full, Draft }; ///< Draft: currents to a thousandth, for less than half the time
/// `start`: of a nearby tone of a schematic with the same parts, or nullptr. A tone that is not solved from there or
/// from the operating point is come to from lower levels.
Expected<ToneResult> steadyTone(const Schematic& schematic, double hertz, NetId output,
                                const ToneResult* start = nullptr, std::stop_token stop = {},
                                ToneAccuracy accuracy = ToneAccuracy::Full);

} // namespace ember::schematic
