#pragma once
// The Build: the one document. Plain values in SI units; everything else is computed from it.

#include "chassis.h"
#include "heaters.h"
#include "own_type.h"
#include "prices.h"
#include "stage.h"
#include "wiring.h"

#include "core/base/result.h"

#include <limits>
#include <numbers>
#include <string>
#include <vector>

namespace ember {

struct Mains : Extras {
    double volts = 230, frequency = 50; ///< [V, Hz] nominal
    double low = 207, high = 253;       ///< [V] over the year; EN 50160 allows 10 % either way
    /// Crest over RMS: as it is, and at its flattest; of a sine the root of 2. Rectifiers all over town flatten it.
    double crest = std::numbers::sqrt2, flattest = std::numbers::sqrt2;
    /// From the live conductor at the inlet by the mains and its earth back to the inlet, as measured [ohm]; 0: it was
    /// not.
    double loopOhms = 0;
    static constexpr double assumedLoopOhms = 1; ///< [ohm] of a usual installation, until it is measured
    [[nodiscard]] double loop() const { return loopOhms > 0 ? loopOhms : assumedLoopOhms; }
};

/// What the builder's meter is worth.
struct Meter : Extras {
    double dc = 0.01, ac = 0.02, ohms = 0.02; ///< accuracy, as shares of a reading
    double inputResistance = 10e6;            ///< [ohm] on volts: it loads what it reads
};

/// Thermal classes of insulation by the temperature of its hottest spot (IEC 60085).
enum class InsulationClass { A, E, B, F, H };
/// [degrees Celsius]
double hottestSpot(InsulationClass insulation);
/// What the laminations are: common silicon sheet, or grain-oriented, as in toroids and cut cores.
enum class CoreSheet { Common, GrainOriented };

struct PowerTransformer : Extras {
    std::string id;
    double primaryVolts = 230, primaryResistance = 8; ///< rated; copper [ohm]
    double ratedHertz = 50;                           ///< at which it takes its rated volts
    InsulationClass insulation = InsulationClass::B;
    CoreSheet sheet = CoreSheet::Common;
    double magnetisingInductance = 12;             ///< [H] at the primary
    double plateVolts = 260, plateResistance = 60; ///< per leg: no load [V]; copper [ohm]
    double plateAmps = 0.2;                        ///< RMS rating of a leg
    double voltsTolerance = 0.02;                  ///< what is not known of every winding's volts, as a share
    double resistanceTolerance = 0.15;             ///< and of the copper
    double biasVolts = 0, biasResistance = 20;     ///< winding for the bias supply; 0 V: none
    std::vector<HeaterWinding> heaters;
    PowerTransformer();
    PowerTransformer(const PowerTransformer&);
    PowerTransformer(PowerTransformer&&) noexcept;
    PowerTransformer& operator=(const PowerTransformer&);
    PowerTransformer& operator=(PowerTransformer&&) noexcept;
    ~PowerTransformer();
};

enum class Connection;
/// Of its plate and heater windings, as rated [VA].
double ratedVoltAmperes(const PowerTransformer& transformer, Connection connection);

/// What a cartridge fuse may be asked to break, by IEC 60127-2: low (sheets 2 and 3, glass), enhanced (sheet 6), high
/// (sheets 1 and 5, ceramic and filled).
enum class Breaking { Low, Enhanced, High };
struct Fuse : Extras {
    std::string id;
    double amps = 1;
    bool slow = true;
    Breaking breaking = Breaking::Low;
    double volts = 250; ///< AC rating [V]
    /// The most that it is sure to break [A]: low 35 A or ten times its rating, whichever is more; 150 A; 1500 A.
    [[nodiscard]] double breakingAmps() const;
};

/// What the mains switch opens, and whether the fuse stands before it.
enum class Breaks { Both, Live, Neutral };
struct MainsSwitch : Extras {
    std::string id;
    Breaks breaks = Breaks::Both;
    bool fuseFirst = true;
};

struct Limiter : Extras {
    double watts = 60, volts = 230;
};

/// A switch is the standby switch, a meter the panel ammeter; both, and a fuse, stand in the chain with their
/// resistance. A tap begins a chain of its own: the nodes behind it hang on a rectifier of their own, from a tap of
/// each leg where the plate winding is centre-tapped, else from a winding of their own, bridged (two plates of a valve
/// to the rail, then, and two silicon diodes to ground).
enum class SectionKind { Capacitor, Resistor, Choke, Switch, Fuse, Meter, Tap };

struct Section : Extras {
    std::string id;
    SectionKind kind = SectionKind::Capacitor;
    double capacitance = 33e-6, esr = 0, leakageResistance = 0; ///< of a capacitor
    double rippleAmps = 0;              ///< of a capacitor: RMS that its maker allows at 100 Hz [A]; 0: not entered
    double volts = 450;                 ///< a capacitor's rating; of a tap: no load, from the centre, RMS
    double resistance = 1e3;            ///< of a resistor or choke; a tap's copper from the centre
    double watts = 5;                   ///< of a resistor
    double inductance = 10, amps = 0.1; ///< of a choke; amps also of a fuse, a tap (RMS), and a meter's full scale
    double idleInductance = 0;          ///< of a choke without direct current [H]; 0: a tenth more than at its amps
    int inSeries = 1;             ///< capacitors one above the other, or a tap's diodes, each with the figures above
    double balancing = 0;         ///< [ohm] across each of them; 0: none
    double closes = 0;            ///< of a switch: this long after the mains [s]
    double dcVolts = 250;         ///< of a switch or fuse: what it may break at DC [V]
    double tolerance = 0.2;       ///< of the capacitance, resistance or inductance
    std::string type = "silicon"; ///< of a tap: its rectifier
    Section();
    Section(const Section&);
    Section(Section&&) noexcept;
    Section& operator=(const Section&);
    Section& operator=(Section&&) noexcept;
    ~Section();
};

/// A hybrid bridge has the rectifier's two plates to the rail and two silicon diodes to ground. A doubler's winding
/// meets the middle of its first section, two capacitors in series.
enum class Connection { CentreTapped, Bridge, HalfWave, HybridBridge, Doubler };

struct Bleeder : Extras {
    int node = 1; ///< 1 is the rectifier's output
    ResistorPart resistor;
    int inSeries = 1; ///< resistors one above the other, each with the figures above
};

struct Rectifier : Extras {
    std::string id, type;
    double emission = 1; ///< share of a new valve's, as tested
    int inSeries = 1;    ///< silicon diodes in a string for each plate's place
    /// A resistor in each lead from the winding to the rectifier; in a doubler's one lead [ohm, W]. 0 ohm: none.
    double legResistance = 0, legWatts = 5;
};

/// What draws from a node besides the stages.
struct SupplyLoad : Extras {
    std::string id;
    int node = 1;
    double amps = 0;       ///< constant current
    double resistance = 0; ///< [ohm]; 0: none
};

struct Supply : Extras {
    Connection connection = Connection::CentreTapped;
    Rectifier rectifier;
    std::vector<Section> sections;
    std::vector<Bleeder> bleeders;
    std::vector<SupplyLoad> loads;
};

/// Cold, it holds the surge of the mains back; warm, it is nearly gone. In series with the primary; 0 ohm: none.
struct Thermistor : Extras {
    std::string id;
    double cold = 0, hot = 0; ///< [ohm]
};

/// From its own winding (or a tap of it), or from a plate winding's end through a resistor or a capacitor.
enum class BiasSource { Winding, PlateResistor, PlateCapacitor };

/// Half wave, negative: source, diode, reservoir, series resistor, second capacitor, one adjuster per output valve.
struct BiasSupply : Extras {
    BiasSource from = BiasSource::Winding;
    double feed = 47e3;            ///< [ohm] from the plate winding, also behind the feeding capacitor
    double feedWatts = 2;          ///< rating of that resistor
    double feedCapacitance = 1e-7; ///< [F] of the feeding capacitor
    double feedVolts = 630;        ///< its rating [V]
    std::string diode = "silicon";
    CapacitorPart reservoir;
    ResistorPart series;
    CapacitorPart second;
    double adjuster = 25e3;  ///< [ohm] each potentiometer, from the rail (coldest) to its floor resistor
    double floor = 22e3;     ///< [ohm] from the potentiometer's hot end to ground
    double failSafe = 220e3; ///< [ohm] wiper to rail, so that an open wiper biases cold; 0: none
};

/// Whether the bias supply hangs on anything.
inline bool biasIsFed(const BiasSupply& bias, const PowerTransformer& transformer) {
    return bias.from != BiasSource::Winding || transformer.biasVolts > 0;
}

struct Waiver : Extras {
    std::string finding, reason, time;
};

/// What happened to a stage of First Power: its readings stand, it was ended by a reading past a stop limit, or it is
/// begun again from there.
enum class StageEvent { Passed, Ended, Begun };

/// One thing that happened. History: never erased, only struck out.
struct LogEntry : Extras {
    std::string time; ///< ISO 8601
    std::string kind; ///< note, reading, measure, stage; power: it was switched off; change, exchange: of a part
    std::string text;
    std::string point; ///< test point id, of a reading; of a change or exchange the part's id
    std::string was;   ///< of a change: the part before it, as procedure/changes.h writes it; empty: it was not there
    int stage = -1;    ///< of First Power
    StageEvent event = StageEvent::Passed; ///< of a stage
    double value = 0;                      ///< SI
    /// The expected band at that time, SI. NaN low: there was none. NaN or infinite high beside a low: "or more".
    double low = std::numeric_limits<double>::quiet_NaN(), high = std::numeric_limits<double>::quiet_NaN();
    std::string unit;   ///< V, A, ohm ...
    std::string source; ///< typed or practice; of a stage and of power practice, or empty for the amplifier itself
    /// Of a measure, its captures beside the build (bench/take_records.h): name of the file in NAME.files, and its
    /// SHA-256.
    std::string file, hash;
    std::string verdict; ///< in range, low, high, stop, not judged
    bool struck = false;
    std::string struckWhy;
    LogEntry();
    LogEntry(const LogEntry&);
    LogEntry(LogEntry&&) noexcept;
    LogEntry& operator=(const LogEntry&);
    LogEntry& operator=(LogEntry&&) noexcept;
    ~LogEntry();
};

struct Build : Extras {
    std::string name = "Untitled", notes;
    Mains mains;
    Meter meter;
    Fuse fuse;
    MainsSwitch mainsSwitch;
    Thermistor thermistor;
    Limiter limiter;
    PowerTransformer transformer;
    Supply supply;
    BiasSupply bias;
    std::vector<OwnType> types; ///< of valves that the catalogue does not list
    std::vector<Valve> bottles; ///< all but the rectifiers
    std::vector<Valve> spares;  ///< at hand, in no socket
    std::vector<Channel> channels;
    std::vector<LoosePart> loose;
    Chassis chassis;
    Wiring wiring;
    std::vector<Price> prices; ///< of lines of the parts list
    std::vector<Waiver> waivers;
    std::vector<LogEntry> log;
    Build();
    Build(const Build&);
    Build(Build&&) noexcept;
    Build& operator=(const Build&);
    Build& operator=(Build&&) noexcept;
    ~Build();
};

} // namespace ember
