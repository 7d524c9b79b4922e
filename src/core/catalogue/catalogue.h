#pragma once
// Parts as data: valves with fitted models and their sources, rectifiers, lamps.

#include "core/base/result.h"
#include "core/circuit/laws.h"

#include <nlohmann/json_fwd.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// One way to wire a heater: the pins that each end of the winding goes to.
struct HeaterWiring {
    double volts = 6.3, amps = 0.3; ///< rated
    std::vector<int> one, other;    ///< pins; empty where the catalogue does not know them
};

struct Heater {
    double volts = 6.3, amps = 0.3; ///< rated, wired the first way
    bool directlyHeated = false;
    double warmUp = 11;                     ///< [s] from cold at rated volts to half emission
    std::vector<HeaterWiring> wirings = {}; ///< of one with a tap: halves in parallel, halves in series
    /// Wired the way whose volts are nearest, by ratio, to a winding of `windingVolts`.
    [[nodiscard]] Heater wiredFor(double windingVolts) const;
};

/// What a type's published limits allow for. Design-centre ones leave room for the mains and the parts' tolerances, so
/// that a tenth of grace on plate volts is theirs; design-maximum and absolute ones leave none (IEC 60134:1961).
enum class RatingSystem { DesignCentre, DesignMaximum, Absolute };

struct ValveLimits {
    double plateWatts = 0, screenWatts = 0, plateVolts = 0, screenVolts = 0;
    double screenWattsSignal = 0; ///< at full signal; 0: no more than at rest
    double cathodeAmps = 0, heaterCathodeVolts = 0;
    double gridLeakOhms = 0, gridLeakOhmsSelfBias = 0; ///< with fixed bias; with a cathode resistor
    RatingSystem system = RatingSystem::DesignMaximum;
    /// The most that plate and screen may stand at: a tenth of grace where the system has it [V].
    [[nodiscard]] double mostPlateVolts() const { return plateVolts * grace(); }
    [[nodiscard]] double mostScreenVolts() const { return screenVolts * grace(); }
    [[nodiscard]] double grace() const { return system == RatingSystem::DesignCentre ? 1.1 : 1; }
};

/// One published operating point of a type; zero where the source is silent.
struct PublishedPoint {
    double plate = 0, screen = 0, grid = 0; ///< [V] to the cathode
    double plateAmps = 0, screenAmps = 0, gm = 0, mu = 0, rp = 0;
    std::string source;
};

/// Single-ended class A operation as published.
struct ValveOperation {
    double load = 0, power = 0, thdPercent = 0; ///< [ohm, W, %]; load 0: none published
    double drive = 0;                           ///< [V peak]; 0: not published
};

/// Numbers of a base's pins, as published for the type; empty where the catalogue does not know them.
struct BasePins {
    std::vector<int> heater, grid, plate, cathode, screen; ///< all but the heater's: one for each section
};

struct ValveType {
    std::string type;
    std::vector<std::string> names;
    bool pentode = false;
    int sections = 1;
    Heater heater;
    BasePins pins;
    ValveLimits limits;
    double gridPlate = 0, gridCathode = 0, plateCathode = 0; ///< [F]
    std::vector<PublishedPoint> points;
    ValveOperation operation;
    circuit::PortLaw law; ///< TriodeLaw or PentodeLaw
};

struct RectifierType {
    std::string type;
    std::vector<std::string> names;
    bool vacuum = true;
    double perveance = 1e-3; ///< vacuum [A/V^1.5]
    double dropVolts = 0, dropAmps = 0;
    circuit::DiodeLaw junction; ///< silicon
    double seriesOhms = 0;      ///< silicon [ohm]
    Heater heater;              ///< vacuum
    double dcAmps = 0, peakAmps = 0, inverseVolts = 0;
    double firstCapacitor = 0; ///< [F], 0: no limit published
    /// Least resistance in series with each plate [ohm] at so many volts RMS per plate, rising; empty: none published.
    std::vector<std::pair<double, double>> sourceOhms;
    bool cathodeOnHeater = false; ///< joined in the base, so that the heater winding stands at B+
    /// Between the published points by straight lines, beyond them the end's.
    [[nodiscard]] double leastSourceOhms(double voltsPerPlate) const;
};

struct LampType {
    double volts, watts, kelvin, timeConstant;
    [[nodiscard]] circuit::IncandescentLaw law() const;
};

class Catalogue {
  public:
    /// The one that is shipped; read once.
    static const Catalogue& shipped();
    /// From the texts of valves.json, rectifiers.json and lamps.json.
    static Expected<Catalogue> read(std::string_view valves, std::string_view rectifiers, std::string_view lamps);

    /// By any designation that is listed, case ignored; nullptr when there is none. A suffix is part of it: the
    /// catalogue lists those that change nothing.
    [[nodiscard]] const ValveType* valve(std::string_view name) const;
    [[nodiscard]] const RectifierType* rectifier(std::string_view name) const;
    /// Nearest lamp by volts, then watts.
    [[nodiscard]] const LampType& lamp(double volts, double watts) const;

    std::vector<ValveType> valves;
    std::vector<RectifierType> rectifiers;
    std::vector<LampType> lamps;
};

/// Model parameters to and from the catalogue's "model" object.
nlohmann::json lawToJson(const circuit::PortLaw& law);
circuit::PortLaw lawFromJson(const nlohmann::json& model, bool pentode);

/// Small-signal figures of a valve law at a point.
struct ValveFigures {
    double plateAmps = 0, screenAmps = 0, gm = 0, mu = 0, rp = 0;
};
ValveFigures figuresAt(const circuit::PortLaw& law, double plate, double grid, double screen);

} // namespace ember
