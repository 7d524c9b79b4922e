#pragma once
// What is computed from a Build: plain values, SI units. Unknown figures are NaN and show as "-".

#include "conditions.h"

#include "core/schematic/stages/stage_kind.h"

#include <complex>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace ember::chassis {
struct LayoutFigures;
}

namespace ember::wires {
struct WireFigures;
}

namespace ember {
struct HeaterWinding;
}

namespace ember::plan {

inline constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

/// RMS amplitudes at 1 .. 12 times the mains' frequency, with their phases; the primary's volts are a sine at phase 0.
using Phasors = std::vector<std::complex<double>>;

struct NodeFigures {
    double mean = unknown, ripplePp = unknown, rippleRms = unknown, most = unknown; ///< [V]
    double load = unknown;                                                          ///< [A] drawn by the stages
    Phasors ripple;                                                                 ///< [V]; nominal mains only
};

struct HeaterFigures {
    std::string winding, valve;
    int count = 0;
    double volts = unknown, amps = unknown, kelvin = unknown, emission = unknown; ///< RMS; emission 0 .. 1
    double ratedVolts = unknown;                                                  ///< as its heater is wired
    std::string string = {}; ///< of one heater in a string: the string's name
};

/// What a heater winding gives, and what its feed does.
struct HeaterFeedFigures {
    double windingAmps = unknown; ///< RMS
    double out = unknown;         ///< at the heaters: RMS of AC, mean of DC [V]
    double legWatts = unknown;    ///< of each resistor in a lead; none: unknown
    double reference = unknown;   ///< DC that a divider holds the reference at; none: unknown [V]
    double reservoir = unknown, reservoirLeast = unknown; ///< of one that is rectified: mean, lowest instant [V]
    double ripplePp = unknown;                            ///< at the heaters [V]
    double diodePeak = unknown, capacitorAmps = unknown;  ///< peak of one diode; ripple current, RMS [A]
    double headroom = unknown; ///< least volts from the regulator's input to its output over a period
    double regulatorWatts = unknown;
    double boardWatts = unknown; ///< of diodes, filter and reservoir; without the regulator
    Phasors ripple, pulses; ///< of one that is rectified: at the heaters [V], in the winding [A]; nominal mains only
};

struct LampFigures {
    double volts = 0, watts = 0, kelvin = 293;
};

/// The lamp through a switch-on from cold: the flash, then the glow it settles to.
struct LampCurve {
    std::vector<double> seconds, kelvin;
    double flashKelvin = unknown, flashSeconds = unknown; ///< the hottest it gets, and when
    double settledSeconds = unknown;                      ///< from then on within 5 % of its steady temperature
};

/// The first tenth of a second after the switch closes at the mains' zero crossing, everything cold.
struct Inrush {
    double peakAmps = unknown; ///< [A] in the primary
    double i2t = unknown;      ///< [A2 s] integral of the primary current's square over 0.1 s
};

/// What flows when the rectifier's output touches the chassis.
struct ShortCircuit {
    double amps = unknown;        ///< mean of what flows into the short [A]
    double rms = unknown;         ///< and its RMS [A]
    double primaryAmps = unknown; ///< RMS in the mains lead [A]
};

/// DC of one valve system at work in a path: volts to ground, amps into its electrodes.
struct ValvePoint {
    std::size_t bottle = 0; ///< in Build::bottles
    int section = 1;
    std::size_t stage = 0; ///< in Channel::stages
    std::string at;        ///< its place in the stage: "a1"
    schematic::Duty duty = schematic::Duty::Gain;
    double grid = unknown, screen = unknown, plate = unknown, cathode = unknown; ///< screen of a triode: unknown
    double gridAmps = unknown, screenAmps = 0, plateAmps = unknown;
    double senseOhms = 0;    ///< resistor through which its current alone flows; 0: none
    double foot = 0;         ///< [V] at that resistor's other end
    double selfBiasOhms = 0; ///< cathode resistor that biases it; 0: none, or no resistor
    int sharing = 1;         ///< valves whose current flows there
    int adjuster = -1;       ///< its trimmer, of adjustersOf(); -1: none
    [[nodiscard]] double cathodeAmps() const { return plateAmps + screenAmps; }
    [[nodiscard]] double plateWatts() const { return (plate - cathode) * plateAmps; }
    [[nodiscard]] double screenWatts() const { return screenAmps > 0 ? (screen - cathode) * screenAmps : 0; }
    [[nodiscard]] double sense() const { return cathode - foot; } ///< [V] across the sense resistor
};

/// What a channel takes from a supply node [A]; `screens`: as the feed of its screens.
struct NodeDraw {
    int node = 1;
    bool screens = false;
    double amps = unknown;
};

/// DC of a channel.
struct ChannelPoint {
    std::vector<ValvePoint> valves; ///< in the path's order
    std::vector<NodeDraw> draws;
    double output = unknown; ///< [V] at the output
    /// From a node, in every way [A].
    [[nodiscard]] double drawn(int node) const;
};

/// The diodes of a tap, and its winding: [A, A, A RMS, V].
struct TapFigures {
    double peak = unknown, mean = unknown, rms = unknown, inverseVolts = unknown;
};

/// One cycle of the mains, for drawing.
struct Cycle {
    std::vector<double> seconds, legA, legB, reservoir, rectifierAmps, primaryAmps;
};

/// Steady state under one set of conditions.
struct WarmStart;
struct Steady {
    Conditions conditions;
    std::vector<NodeFigures> nodes;
    double rectifierPeak = unknown, rectifierMean = unknown, inverseVolts = unknown; ///< [A, A, V]
    double rectifierWatts = unknown; ///< of its plates or diodes, by their pulses; a valve's heater is not in it
    double legVolts = unknown, legRms = unknown; ///< RMS of a plate winding leg [V, A]
    double coreDc = unknown;           ///< direct current of the windings, as if it all flowed in the primary [A]
    double legResistorWatts = unknown; ///< of the resistor in a lead to the rectifier, if there is one
    double primaryRms = unknown, mainsWatts = unknown, primaryVolts = unknown;
    std::map<std::string, double> partWatts;       ///< by id [W]
    std::map<std::string, double> capacitorRipple; ///< by id, RMS [A]
    std::map<std::string, double> chokeAmps;       ///< by id, mean [A]
    std::map<std::string, TapFigures> taps;        ///< by id
    double biasReservoir = unknown, biasRail = unknown;
    Phasors biasReservoirRipple, biasRailRipple; ///< [V]; nominal mains only
    Phasors middleRipple;                        ///< of a doubler, where its capacitors meet [V]; nominal mains only
    std::vector<double> wipers;                  ///< [V] per adjuster of the build
    std::vector<HeaterFigures> heaters;
    std::map<std::string, HeaterFeedFigures> heaterFeeds; ///< by winding
    LampFigures lamp;
    std::vector<ChannelPoint> channels;
    Cycle cycle;
    double residual = unknown;
    std::shared_ptr<const WarmStart> end; ///< the slow state that it was solved to: the start of a nearby one
    /// DC that a heater winding's reference stands at: its divider's, or as the build holds it [V].
    [[nodiscard]] double heaterReference(const HeaterWinding& winding) const;
    Steady();
    Steady(const Steady&);
    Steady(Steady&&) noexcept;
    Steady& operator=(const Steady&);
    Steady& operator=(Steady&&) noexcept;
    ~Steady();
};

/// Volts against time at every supply node.
struct Curve {
    std::vector<double> seconds;
    std::vector<std::vector<double>> nodes;
    std::map<std::string, double> surge; ///< of a switch-on, each fuse of the chain: its worst tenth of a second [A2 s]
    [[nodiscard]] double most(std::size_t node) const; ///< NaN: there is no curve
    /// First time after which the node stays below `volts`; NaN when the curve ends above.
    [[nodiscard]] double below(std::size_t node, double volts) const;
};

/// One capacitor after switch-off, or several in series: what a meter reads from their plus to their minus end.
struct CapacitorDischarge {
    std::string id;
    int node = 0;                          ///< of the supply, 1 is the rectifier's output; 0: of the bias supply
    double farads = unknown;               ///< of the whole string, at the top of its tolerance
    double start = unknown;                ///< [V] across it when the mains goes
    std::vector<double> volts;             ///< across it, at Discharge::seconds
    double to50 = unknown, to10 = unknown; ///< [s]; NaN: not while it was followed
};
/// A discharge by hand; see dischargeByHand().
struct HandDischarge {
    double ohms = 0, watts = 0; ///< of each body: E12; a standard rating, 5 W at least
    int inSeries = 1;           ///< bodies, so that none has more than its limiting volts across it
    struct Hold {
        std::string capacitor; ///< id: across its plus and minus
        double seconds = 0;
    };
    std::vector<Hold> holds; ///< in this order, until every capacitor is below 5 V
    double from = 0;         ///< [V] the highest before it
    bool whole = false;      ///< false: after these holds some still has more
};

struct Discharge {
    std::vector<double> seconds;
    std::vector<CapacitorDischarge> capacitors;
    std::optional<HandDischarge> byHand; ///< where one is slow
    /// From all capacitors [V], `t` seconds after switch-off: the highest.
    [[nodiscard]] double highest(double t) const;
    /// [s] until every capacitor is below 10 V; NaN: not while it was followed. 0: none was charged.
    [[nodiscard]] double allBelow10() const;
    /// The one to wait for: the last below 50 V; of several that never fall, the one with the most volts.
    [[nodiscard]] const CapacitorDischarge* slowest() const;
};

/// Impedance against frequency at every node.
struct ImpedanceCurve {
    std::vector<double> hertz;
    std::vector<std::vector<double>> ohms; ///< per node
    double sourceOhms = unknown; ///< source resistance of transformer and rectifier for slow changes, at the first node
};

/// A tone through a channel.
struct ToneFigures {
    double inputRms = unknown, outputRms = unknown, watts = unknown, thdPercent = unknown;
    double compressionDb = unknown; ///< what of the smallest signal's gain is missing [dB]
    std::vector<double> harmonics;  ///< 1 .. 10, RMS volts at the load
    std::vector<NodeDraw> more;     ///< mean, from the supply, beyond rest
};

/// Whether a load is a line's, judged in volts, and no loudspeaker's, judged in watts.
inline bool isLine(double loadOhms) {
    return !(loadOhms > 0 && loadOhms < 100);
}

/// What a channel will do, in numbers.
struct PowerFigures {
    static constexpr double clipDb = 1, clipPercent = 10, cleanPercent = 3;
    double load = 0;                 ///< [ohm] at the output; 0: none
    double gain = unknown;           ///< volts out over volts in, at the reference level
    double thdAtReference = unknown; ///< [%] there
    /// Where it clips: 1 dB of the smallest signal's gain is missing, or THD is 10 %, whichever comes first.
    double clipWatts = unknown;
    double clipOutput = unknown;    ///< [V RMS] there
    double clipInput = unknown;     ///< [V RMS] there
    double clipThd = unknown;       ///< [%] there
    std::vector<NodeDraw> clipMore; ///< from the supply there, beyond rest
    double cleanWatts = unknown;    ///< at `cleanPercent` of THD
    double cleanOutput = unknown;   ///< [V RMS] there
    double cleanInput = unknown;    ///< [V RMS] there
    double outputOhms = unknown;    ///< at the output, the load taken off, 1 kHz
    double inputOhms = unknown;     ///< that the source sees, 1 kHz
    std::vector<ToneFigures> sweep; ///< rising level
    [[nodiscard]] double damping() const { return load / outputOhms; }
    [[nodiscard]] bool line() const { return isLine(load); }
    /// 1 W in the load, or 1 V at a line's [V RMS].
    [[nodiscard]] double referenceVolts() const;
    [[nodiscard]] const char* reference() const { return line() ? "1 V" : "1 W"; }
    /// From a node, in every way; `screens` alone where asked for [A].
    [[nodiscard]] double clipDraw(int node) const;
    [[nodiscard]] double clipScreens() const;
    PowerFigures();
    PowerFigures(const PowerFigures&);
    PowerFigures(PowerFigures&&) noexcept;
    PowerFigures& operator=(const PowerFigures&);
    PowerFigures& operator=(PowerFigures&&) noexcept;
    ~PowerFigures();
};

/// One stage of a path for small signals at 1 kHz.
struct StageFigures {
    double gain = unknown;        ///< volts where the signal leaves over volts where it comes in
    double outputOhms = unknown;  ///< there, with what follows connected
    double inputOhms = unknown;   ///< what the stage before it drives; unknown where next to nothing flows
    double voltsAtClip = unknown; ///< RMS there when the channel clips
};

/// A channel that leaves its operating point by itself.
struct Oscillation {
    std::size_t channel = 0;
    const char* how = "as built"; ///< "as built", "without its load", "into 0.1 µF"
    double hertz = 0;             ///< 0: it drifts
};

/// What the feedback of a channel does where its output transformer resonates.
struct LeakageResonance {
    std::size_t channel = 0;
    std::string iron;            ///< id
    double hertz = 0;            ///< of leakage against winding capacitance, as its figures give it
    double feedbackDb = unknown; ///< by how much the feedback still lowers the gain there; negative: it raises it
    double peakDb = unknown;     ///< of the channel's response above 5 kHz, over its gain at 1 kHz
    double peakHertz = unknown;
    double openPeakDb = unknown; ///< the same without the feedback: what the iron does by itself
};

struct Figures {
    std::optional<Steady> low, nominal, high, cold; ///< cold: mains high, rectifier hot, no other valve drawing current
    std::vector<std::string> failures;              ///< sentences of what could not be solved
    std::shared_ptr<const chassis::LayoutFigures> layout; ///< of the chassis; see chassis/layout_figures.h
    ShortCircuit shorted;                                 ///< B+1 on the chassis, nominal mains
    std::shared_ptr<const wires::WireFigures> wires;      ///< of the wires, heaters and hum; see wires/hum.h
    Curve switchOn, switchOff; ///< switched off with hot valves: the best case, not the one to wait by
    Curve switchOffCold;       ///< by guaranteed paths alone; see discharge.h
    Discharge discharge;       ///< the same for every capacitor by itself
    Curve burst, burstResistor,
        dip;                    ///< a bass note, the same with resistors for the chokes, and mains 15 % low for 0.5 s
    double burstAmps = unknown; ///< [A] more, from all nodes together, while the note lasts
    ImpedanceCurve impedance;
    std::map<std::string, double> within;          ///< of each named figure at nominal mains: its uncertainty from
                                                   ///< the transformer's data
    Inrush inrush;                                 ///< mains at the high end
    std::vector<PowerFigures> power;               ///< per channel
    std::vector<std::vector<StageFigures>> stages; ///< per channel, per stage
    std::vector<Oscillation> oscillations;         ///< empty: every channel rests
    std::optional<Steady> warm;                    ///< nominal mains, the power transformer's copper warmed through
    std::vector<LeakageResonance> resonances;      ///< of channels with feedback and known iron
    bool complete = false;                         ///< the slow figures (curves, power) are there too
    Figures();
    Figures(const Figures&);
    Figures(Figures&&) noexcept;
    Figures& operator=(const Figures&);
    Figures& operator=(Figures&&) noexcept;
    ~Figures();
};

} // namespace ember::plan
