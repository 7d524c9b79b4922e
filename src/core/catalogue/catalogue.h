#pragma once
// Parts as data: valves with fitted models and their sources, rectifiers, lamps.

#include "published.h"
#include "ratings.h"

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

/// Published limits; 0: none is published.
struct ValveLimits {
    double plateWatts = 0, screenWatts = 0, plateVolts = 0, screenVolts = 0;
    double bothPlatesWatts = 0;                     ///< of the two sections together; 0: twice one
    double screenWattsSignal = 0;                   ///< at full signal; 0: no more than at rest
    double coldPlateVolts = 0, coldScreenVolts = 0; ///< while no current flows, as at switch-on
    double cathodeAmps = 0, heaterCathodeVolts = 0;
    double gridLeakOhms = 0, gridLeakOhmsSelfBias = 0; ///< with fixed bias; with a cathode resistor
    RatingSystem system = RatingSystem::DesignMaximum;
    /// The most that plate and screen may stand at: a tenth of grace where the system has it [V].
    [[nodiscard]] double mostPlateVolts() const { return plateVolts * grace(); }
    [[nodiscard]] double mostScreenVolts() const { return screenVolts * grace(); }
    [[nodiscard]] double grace() const { return system == RatingSystem::DesignCentre ? 1.1 : 1; }
};

/// Numbers of the pins of one section's electrodes, as published; more than one where the base joins them, empty where
/// the catalogue does not know them (or the heater is the cathode).
struct ElectrodePins {
    std::vector<int> grid, screen, plate, cathode;
};
inline constexpr int topCap = 99; ///< the "number" of a terminal on top of the glass

/// One of the valves in a bottle: most bottles have one or two alike, some have two unlike ones.
struct TypeSection {
    std::string name; ///< "" or, of unlike ones, "triode", "pentode"
    bool pentode = false;
    ElectrodePins pins;
    ValveLimits limits;
    double gridPlate = 0, gridCathode = 0, plateCathode = 0; ///< [F]; 0: not published
    circuit::PortLaw law;                                    ///< TriodeLaw or PentodeLaw
    PublishedData published;
    FitError fit;
};

struct ValveType {
    std::string type;
    std::vector<std::string> names;
    std::string base; ///< "noval", "octal" ...; "": not known
    std::string note;
    Heater heater;
    std::vector<int> heaterPins; ///< the two ends, wired the first way; empty: not known
    std::string mistakenFor;     ///< a type of the same socket and pins that comes into its place; "": none is named
    std::vector<TypeSection> halves; ///< at least one, in the order of their numbers
    [[nodiscard]] int sections() const { return static_cast<int>(halves.size()); }
    /// Section 1, 2 ...; what is out of range is the nearest.
    [[nodiscard]] const TypeSection& section(int number) const;
};

/// Numbers of a rectifier's pins on its base, as published; silicon has none.
struct RectifierPins {
    std::vector<int> heater, plate;
    std::vector<int> cathode; ///< of a directly heated one its heater
};

struct RectifierType {
    std::string type;
    std::vector<std::string> names;
    bool vacuum = true;
    std::string base;
    RectifierPins pins;
    circuit::VacuumLaw law;             ///< vacuum
    double dropVolts = 0, dropAmps = 0; ///< as published, across one plate
    circuit::DiodeLaw junction;         ///< silicon
    double seriesOhms = 0;              ///< silicon [ohm]
    Heater heater;                      ///< vacuum
    double dcAmps = 0, peakAmps = 0, inverseVolts = 0;
    double firstCapacitor = 0; ///< [F], 0: no limit published
    /// Least resistance in series with each plate [ohm] at so many volts RMS per plate, rising; empty: none published.
    std::vector<std::pair<double, double>> sourceOhms;
    bool cathodeOnHeater = false;  ///< joined in the base, so that the heater winding stands at B+
    double heaterCathodeVolts = 0; ///< [V] published, of one with a cathode of its own; 0: none published
    /// Whether it may rectify a high voltage; silicon for less is made for heaters.
    [[nodiscard]] bool forHighVoltage() const { return vacuum || inverseVolts >= 400; }
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
    /// Relative error (one standard deviation) of a type's plate current where nothing is published: as found by
    /// leaving points out, at most 25 %; of a type with too few points the median of the others.
    [[nodiscard]] double predictionError(const ValveType& type) const;
    /// Nearest lamp by volts, then watts.
    [[nodiscard]] const LampType& lamp(double volts, double watts) const;

    std::vector<ValveType> valves;
    std::vector<RectifierType> rectifiers;
    std::vector<LampType> lamps;
};

/// The catalogue's "published" object.
PublishedData publishedFromJson(const nlohmann::json& published);

/// Model parameters to and from the catalogue's "model" object.
nlohmann::json lawToJson(const circuit::PortLaw& law);
circuit::PortLaw lawFromJson(const nlohmann::json& model, bool pentode);

} // namespace ember
