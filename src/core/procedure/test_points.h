#pragma once
// Where a meter goes, and what it would read in a solved steady state.

#include "core/plan/steady.h"
#include "core/quantity/unit.h"

#include <random>

namespace ember::procedure {

enum class MeterMode { Ohms, AcVolts, DcVolts };

/// What a point is; TestPoint::index and ::section say which one.
enum class PointKind {
    Earth,            ///< ohms of the safety earth
    LineChassis,      ///< insulation of the mains' line conductor
    NeutralChassis,   ///< and of its neutral
    PrimaryOhms,      ///< copper of the mains winding
    PrimarySecondary, ///< insulation between mains and plate winding
    LegOhms,          ///< copper of the HV winding: `index` of WindingPart
    WindingChassis,   ///< plate winding to chassis
    RailOhms,         ///< B+1 to chassis
    HeaterChassis,    ///< of winding `index`
    LoadOhms,         ///< of channel `index`
    GridOhms,         ///< grid to chassis, of section `section` of bottle `index`; an output valve's socket is empty
    CathodeOhms,      ///< likewise its cathode
    Held,             ///< a capacitor with the plug out: of supply node `section`, of the bias supply where that is 0
    HeaterVolts,      ///< of winding `index`
    LegVolts,         ///< `index` as of LegOhms
    Node,             ///< supply node `index`, 1 is the rectifier's output
    StringVolts,      ///< one capacitor of a string: number `section`, from the plus end, of the chain's part `index`
    Ripple,
    Hum,  ///< of channel `index`, at its load
    Grid, ///< of section `section` of bottle `index`, as what follows
    Plate,
    Cathode,
    Sense, ///< across its sense resistor
};

/// Of a winding with a centre tap each leg by itself, and end to end; of another the whole.
enum class WindingPart : std::size_t { LegA, LegB, Ends };

struct TestPoint {
    std::string id;    ///< as typed in the log line: "B+1", "sense-v3"
    std::string label; ///< "B+1 to star, DC"
    std::string probe; ///< where the two leads go
    MeterMode mode = MeterMode::DcVolts;
    PointKind kind = PointKind::Node;
    std::size_t index = 0;
    int section = 1;
    unsigned stages = 0;   ///< bit k: stage k of First Power reads it; none: read where a search asks for it
    std::string part = {}; ///< id of the capacitor, of Held and StringVolts
    bool runsAway = false; ///< an output valve's current: read before anything else once it is in
    [[nodiscard]] Unit unit() const { return mode == MeterMode::Ohms ? Unit::Ohm : Unit::Volt; }
    [[nodiscard]] bool readAt(int stage) const { return stage >= 0 && (stages >> stage & 1) != 0; }
};

/// Whether a point is a valve's: its index is a bottle's then.
bool isValvePoint(PointKind kind);

/// Every point of the build, in the order of the work.
std::vector<TestPoint> testPoints(const Build& build);
/// Those that are read with the plug out, before power: PointKind::Held.
std::vector<TestPoint> heldPoints(const Build& build);
const TestPoint* findPoint(const std::vector<TestPoint>& points, std::string_view id); ///< case is ignored

/// Points that stage `stage` of First Power reads, in the order in which they are read: capacitors with the plug out;
/// then what can run away, and what drives it.
std::vector<TestPoint> pointsOfStage(const Build& build, int stage);

/// Whether B+ can be there before a valve is in its socket: a silicon diode leads to it.
bool siliconFeedsRail(const Build& build);

/// What the build's meter shows: the volts at each point under the load of the meter's own input resistance, by the
/// channel's resistance there (its circuit at this operating point, capacitors open). NaN where nothing can be read.
std::vector<double> readings(const Build& build, const Catalogue& catalogue, const plan::Steady& steady,
                             const std::vector<TestPoint>& points);
double reading(const Build& build, const Catalogue& catalogue, const plan::Steady& steady, const TestPoint& point);
/// The volts that are there, with no meter.
std::vector<double> trueReadings(const Build& build, const plan::Steady& steady, const std::vector<TestPoint>& points);

/// By channel: hum and noise at its load under these conditions, its input shorted [V RMS]; NaN: not solved.
std::vector<double> humReadings(const Build& build, const Catalogue& catalogue, const plan::Conditions& conditions,
                                const plan::SteadyOptions& options = {});

/// Unpowered, by point: resistance by a test current through the netlist, no valve drawing current [ohm]; volts of a
/// capacitor that was discharged: 0. NaN where the point is not read so.
std::vector<double> coldReadings(const Build& build, const Catalogue& catalogue, const std::vector<TestPoint>& points,
                                 const plan::Miswiring& wiring = {});
double coldReading(const Build& build, const Catalogue& catalogue, const TestPoint& point);

/// Share of a reading that the meter may be off.
double meterShare(const Build& build, MeterMode mode);
/// `value` as one such meter shows it: its error normal, the accuracy at two sigma, cut there.
double asShown(const Build& build, MeterMode mode, double value, std::mt19937_64& chance);

} // namespace ember::procedure
