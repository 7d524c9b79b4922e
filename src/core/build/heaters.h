#pragma once
// Heater windings and what stands between them and the heaters.

#include "extras.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>

namespace ember {

/// How a heater winding is tied to ground: by its centre tap, by two equal resistors, by a potentiometer's wiper, by
/// one of its two sides, or not at all.
enum class HeaterReference { CentreTap, Resistors, Floating, Potentiometer, OneSide };
inline constexpr std::array<std::string_view, 5> heaterReferenceNames{"centre-tap", "resistors", "floating",
                                                                      "potentiometer", "one-side"};

/// What makes direct current of a winding: four diodes, or two with the winding's centre tap as minus.
enum class HeaterRectifier { None, Bridge, FullWave };
inline constexpr std::array<std::string_view, 3> heaterRectifierNames{"none", "bridge", "full-wave"};

/// What stands between the rectified volts and the heaters.
enum class HeaterRegulator { None, Linear, LowDropout, CurrentSource };
inline constexpr std::array<std::string_view, 4> heaterRegulatorNames{"none", "linear", "low-dropout",
                                                                      "current-source"};

/// Where the regulator's heat goes: into the air from its own case on a board, into a heat sink, into the chassis.
enum class RegulatorMount { Board, HeatSink, Chassis };
inline constexpr std::array<std::string_view, 3> regulatorMountNames{"board", "heat-sink", "chassis"};

/// Behind the rectifier: reservoir, a resistor with a second capacitor, regulator.
struct HeaterDc : Extras {
    std::string diode = "silicon 3 A";                                  ///< of the catalogue's rectifiers
    double reservoir = 10e-3, reservoirEsr = 0.03, capacitorVolts = 25; ///< [F, ohm]; rating of both capacitors [V]
    double series = 0, second = 0; ///< [ohm, F] filter behind the reservoir; 0: none
    HeaterRegulator regulator = HeaterRegulator::None;
    double volts = 6.3, amps = 0.3;   ///< what it holds: volts, or amperes of a current source
    double dropout = 2, mostAmps = 3; ///< least volts from input to output at its largest current [V, A]
    RegulatorMount mount = RegulatorMount::HeatSink;
    double sink = 6;                                           ///< of the heat sink to the air [K/W]
    double junctionCase = 2, caseSink = 0.5, junctionAir = 50; ///< [K/W]; the last without any sink
    double mostKelvin = 398;                                   ///< of the junction
};

/// A divider from a supply node to ground, with a capacitor across its lower resistor.
struct HeaterLift : Extras {
    double top = 220e3, bottom = 47e3, capacitance = 10e-6; ///< [ohm, ohm, F]
};

struct HeaterWinding : Extras {
    std::string id;
    double volts = 6.6;      ///< no load, at the primary's rated volts; of one with a centre tap, end to end
    double resistance = 0.1; ///< [ohm]
    double amps = 3;         ///< rating, RMS
    /// "rectifier", "signal", the id of a tap whose rectifier is a valve, or the id of another heater winding: it then
    /// stands in series with that one.
    std::string feeds;
    bool opposed = true; ///< of one in series with another: its volts are taken off, not added
    HeaterReference reference = HeaterReference::CentreTap; ///< of one that feeds "signal"; a rectifier's stands at B+
    double referenceOhms = 100; ///< [ohm] each of two resistors, or a potentiometer's whole track
    double referenceVolts = 0;  ///< DC that the reference is held at by something outside the drawing; no divider then
    double legResistance = 0, legWatts = 2; ///< a resistor in each of the two leads to the heaters [ohm, W]; 0: none
    int referenceNode = 0;                  ///< the reference stands at a divider from this supply node; 0: it does not
    HeaterLift lift;                        ///< that divider
    HeaterRectifier rectifier = HeaterRectifier::None;
    HeaterDc dc; ///< of one that is rectified
    HeaterWinding();
    HeaterWinding(const HeaterWinding&);
    HeaterWinding(HeaterWinding&&) noexcept;
    HeaterWinding& operator=(const HeaterWinding&);
    HeaterWinding& operator=(HeaterWinding&&) noexcept;
    ~HeaterWinding();
    [[nodiscard]] bool rectified() const { return rectifier != HeaterRectifier::None; }
};

struct Build;
struct PowerTransformer;
struct Valve;

/// Index of the heater winding that feeds a bottle; nothing: none does.
std::optional<std::size_t> heaterWindingOf(const Build& build, const Valve& bottle);

/// Where a bottle's heater stands among those in series with it; one that is in no string is the only one of its own.
struct StringPlace {
    std::size_t place = 0, length = 1;
};
StringPlace heaterStringOf(const Build& build, const Valve& bottle, std::size_t winding);

/// The winding in series with `winding`, or none.
const HeaterWinding* inSeriesWith(const PowerTransformer& transformer, const HeaterWinding& winding);

/// The winding that `winding` stands in series with, and whose heaters it thereby feeds; or none.
const HeaterWinding* mainWindingOf(const PowerTransformer& transformer, const HeaterWinding& winding);

/// What reaches the heaters of a winding without load, about [V]: with the one in series, rectified less two drops, or
/// what a regulator holds. It decides how a heater with a tap is wired.
double heaterVolts(const PowerTransformer& transformer, const HeaterWinding& winding);
/// And what reaches one bottle's heater: its share of a string.
double heaterVoltsOf(const Build& build, const Valve& bottle, std::size_t winding);

} // namespace ember
