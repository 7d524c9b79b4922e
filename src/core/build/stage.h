#pragma once
// A channel as a path of stages from jack to load, each a kind with its parts, as plain values. What the kinds are and
// what they wire is in core/schematic/stages; a build may hold a kind that this version does not know.

#include "extras.h"

#include <string>
#include <variant>
#include <vector>

namespace ember {

struct ResistorPart : Extras {
    std::string id;
    double resistance = 1e3; ///< [ohm]
    double watts = 0.5;      ///< rating
    double tolerance = 0.05; ///< share
};

struct CapacitorPart : Extras {
    std::string id;
    double capacitance = 1e-6; ///< [F]
    double volts = 450;        ///< rating
    double tolerance = 0.2;
    double esr = 0;               ///< [ohm]
    double leakageResistance = 0; ///< [ohm], 0: none worth naming
};

struct ChokePart : Extras {
    std::string id;
    double inductance = 10, resistance = 200; ///< [H]; copper [ohm]
    double amps = 0.05;                       ///< rating, at which it has its inductance
    double idleInductance = 0;                ///< [H] without direct current; 0: a tenth more
    double tolerance = 0.2;                   ///< of the inductance
};

enum class Taper { Linear, Audio };

struct PotentiometerPart : Extras {
    std::string id;
    double resistance = 250e3; ///< [ohm] end to end
    Taper taper = Taper::Linear;
    double position = 0.5; ///< of its travel, 0: counter-clockwise
    double watts = 0.2;
    double tolerance = 0.2;
};
/// Share of the track between the counter-clockwise end and the wiper. Audio: two straight pieces, a tenth of the
/// resistance at half the travel, as such tracks are printed.
double trackShare(const PotentiometerPart& part);

/// A further tap of a transformer's secondary, called by the load that it is for [ohm].
struct SecondaryTap : Extras {
    double loadImpedance = 16;
};

/// Windings on one core that carry a signal: output, interstage or line transformer.
struct OutputTransformer : Extras {
    std::string id;
    double primaryImpedance = 8000, loadImpedance = 8; ///< of the whole primary for that load on the secondary [ohm]
    double primaryInductance = 60;                     ///< of the whole primary [H]
    double primaryResistanceA = 150, primaryResistanceB = 150, secondaryResistance = 0.4; ///< halves; secondary [ohm]
    double leakageInductance = 0.03; ///< [H] seen at the whole primary, the secondary shorted
    /// Between the halves of a centre-tapped primary [H], seen at one half with the other shorted: 0 where they are
    /// wound together. It is contained in `leakageInductance`.
    double halvesLeakage = 0;
    double windingCapacitance = 0; ///< [F] seen at the whole primary; 0: not known, and left out
    double watts = 15;
    double lowestHertz = 0; ///< [Hz] down to which it gives its watts; 0: not known, and its core never saturates
    double dcAmps = 0;      ///< [A] through the whole primary that its gap is for; 0: none, a push-pull one
    double coreLoss = 0;    ///< of its watts, lost in the core while it gives them
    double screenTap = 0;   ///< share of a half's turns from the supply's end to the screen's tap; 0: none
    /// Shares of the half's copper and leakage that lie before the tap; 0: as the turns.
    double tapCopper = 0, tapLeakage = 0;
    /// From which feedback may be taken. The load stands at `loadImpedance`; `secondaryResistance` is the copper of its
    /// turns.
    std::vector<SecondaryTap> secondaryTaps;
};

/// A constant-current source or tail: i = I (1 - exp(-v / knee)) above 0 V, whatever it is made of.
struct CurrentSourcePart : Extras {
    std::string id;
    double amps = 1e-3;
    double knee = 0.5; ///< [V] over which it comes to life
    double volts = 300;
    double tolerance = 0.05;
};

/// Diodes or light-emitting diodes in series, conducting from the first end to the second.
struct DiodePart : Extras {
    std::string id;
    double drop = 0.7; ///< [V] at 10 mA, of each
    int inSeries = 1;
    double amps = 1; ///< rating
};

/// Zener diodes in series: from the first end to the second nothing flows below their volts.
struct ZenerPart : Extras {
    std::string id;
    double volts = 100;     ///< of the whole string
    double resistance = 50; ///< [ohm] slope of the whole string
    double watts = 5;
    double tolerance = 0.05;
};

/// A trimmer of the bias supply; its track is the bias supply's.
struct AdjusterPart : Extras {
    std::string id;
    double position = 1; ///< 0 hottest .. 1 coldest
};

using PartValue = std::variant<ResistorPart, CapacitorPart, ChokePart, PotentiometerPart, OutputTransformer,
                               CurrentSourcePart, DiodePart, ZenerPart, AdjusterPart>;

/// One part of a stage: which one of it (`slot`, a name of its kind's table), and of several alike at which valve.
struct StagePart : Extras {
    std::string slot; ///< "plate", "grid leak"
    std::string at;   ///< "a", "b": a side; "a1" .. "b8": a valve; empty: the stage's only one, or shared by all
    std::string note; ///< why it differs from the drawing that the builder follows
    PartValue part;
};
const std::string& idOf(const PartValue& part);
std::string& idOf(PartValue& part);
/// JSON key of a kind's main value: "resistance", "capacitance" ... and the value itself.
const char* mainKey(const PartValue& part);
double mainValue(const PartValue& part);
double& mainValue(PartValue& part);

/// Which valve system a stage uses where.
struct StageValve : Extras {
    std::string at; ///< "", "upper", "a1" ...; a name of its kind's table
    std::string bottle;
    int section = 1;
};

/// A form of its kind: "screens" is "tap".
struct StageOption : Extras {
    std::string name, choice;
};

struct Stage : Extras {
    std::string id, kind;
    int node = 1;         ///< supply node of its plates
    int screenNode = 0;   ///< of its screens; 0: the same
    std::string from, to; ///< of feedback: "STAGE POINT", such as "s4 secondary"
    std::vector<StageValve> valves;
    std::vector<StageOption> options;
    std::vector<StagePart> parts;
    std::string note;

    [[nodiscard]] int screensNode() const { return screenNode > 0 ? screenNode : node; }
    [[nodiscard]] const StagePart* part(std::string_view slot, std::string_view at = {}) const;
    [[nodiscard]] StagePart* part(std::string_view slot, std::string_view at = {});
    [[nodiscard]] const StageValve* valve(std::string_view at = {}) const;
    /// The choice of an option, or `otherwise` where the file does not say.
    [[nodiscard]] std::string option(std::string_view name, std::string_view otherwise) const;
    Stage();
    Stage(const Stage&);
    Stage(Stage&&) noexcept;
    Stage& operator=(const Stage&);
    Stage& operator=(Stage&&) noexcept;
    ~Stage();
};

/// A reading of a valve on a tester, or in its socket [V to the cathode, A].
struct ReadPoint : Extras {
    int section = 1;
    double plate = 250, screen = 0, grid = 0; ///< screen: a pentode's
    double plateAmps = 0, screenAmps = 0;     ///< screenAmps 0: not read
};

/// A valve as built in: its type and what it was tested to be, as shares of an average new one of the type.
struct Valve : Extras {
    std::string id, type;
    double emission = 1;                   ///< of its current, 0 .. 1.5
    double tolerance = 0.15;               ///< spread of its current
    double mu = 1, cutoff = 1, screen = 1; ///< amplification; sharpness of cut-off; current to its screen
    double muTolerance = 0.08, cutoffTolerance = 0.15, screenTolerance = 0.15;
    /// Ions out of its grid (and what its grid emits), as a share of its cathode current: as tested, and how much more
    /// a sound one may have.
    double gas = 0, gasTolerance = 1e-5;
    std::string heater; ///< id of its heater winding; empty: the first that feeds "signal"
    /// Heaters of one winding with the same name here are in series, in the order of the bottles; empty: in parallel.
    std::string heaterString;
    std::vector<ReadPoint> readings; ///< of this one, from which its shares were taken
    std::string note;
};

struct Channel : Extras {
    std::string id, name;
    std::string follows; ///< id of the channel whose edits it takes over; empty: it stands by itself
    std::vector<Stage> stages;
    Channel();
    Channel(const Channel&);
    Channel(Channel&&) noexcept;
    Channel& operator=(const Channel&);
    Channel& operator=(Channel&&) noexcept;
    ~Channel();
};

/// A part between two nets by their names, for what no stage foresees.
struct LoosePart : Extras {
    std::string from, to; ///< "V2 plate 1", "B+2", "ground"
    std::string note;
    PartValue part;
};

} // namespace ember
