#pragma once
// A circuit as a builder has it before him: parts with pins on nets. Made from a Build (of_channel.h) or part by part;
// whoever needs volts asks solve.h, a varied amplifier is `with()` other values or other nets.
//
//   Schematic s;
//   const NetId grid = s.net("V1 grid", NetKind::Signal), plate = s.net("V1 plate", NetKind::Signal);
//   s.add(resistor("r1", s.net("B+1", NetKind::HighVoltage), plate, 100e3));
//   const Schematic forgotten = s.with(Open{s.pin("r1", "2")});

#include "core/base/result.h"
#include "core/circuit/netlist.h"

#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace ember::schematic {

/// Index of a net, a part, or a pin of a part; -1: none.
struct NetId {
    int index = -1;
    auto operator<=>(const NetId&) const = default;
};
struct PartId {
    int index = -1;
    auto operator<=>(const PartId&) const = default;
};
struct PinId {
    PartId part;
    int pin = -1; ///< in Part::pins
    auto operator<=>(const PinId&) const = default;
};

enum class NetKind { Mains, Winding, HighVoltage, Bias, Heater, Signal, Return, Chassis, Earth };

struct Net {
    std::string name; ///< as a builder says it: "V2 plate 1", "B+2", "star"
    NetKind kind = NetKind::Signal;
};

struct Pin {
    std::string name;   ///< electrode or end: "plate", "grid 2", "1", "+"
    NetId net;          ///< none: not connected
    int number = 0;     ///< on the base; 0: not known
    bool spare = false; ///< need not lead anywhere: a transformer's further tap
    int stands = 0;     ///< the number of one that goes by its name, as a rectifier's do; 0: not known
};

struct Resistance {
    double ohms = 1e3;
    bool operator==(const Resistance&) const = default;
};
struct Capacitance {
    double farads = 1e-6, esr = 0, leakageOhms = 0; ///< leakageOhms 0: none
    bool operator==(const Capacitance&) const = default;
};
struct Inductance {
    double henries = 1, ohms = 0; ///< at `amps`, where these are given
    double idleHenries = 0;       ///< without direct current; 0: the core never saturates
    double amps = 0;
    bool operator==(const Inductance&) const = default;
};
/// A potentiometer: pin 0 the clockwise end, 1 the wiper, 2 the other end; `share` of its track lies between 1 and 2.
struct Track {
    double ohms = 250e3, share = 0.5;
    bool operator==(const Track&) const = default;
};
/// A constant current from pin 0 to pin 1; see circuit::SinkLaw.
struct CurrentSink {
    double amps = 1e-3, knee = 0.5;
    bool operator==(const CurrentSink&) const = default;
};
/// Conducts from pin 0 to pin 1.
struct Diode {
    circuit::DiodeLaw law;
    double ohms = 0.1;
    bool operator==(const Diode&) const = default;
};
/// Holds pin 0 at `volts` above pin 1, or below.
struct Zener {
    double volts = 100, ohms = 50;
    bool operator==(const Zener&) const = default;
};
/// An ideal voltage source between its pins 0 (+) and 1: a supply node held at its volts, a bias line, a generator.
struct Voltage {
    circuit::Waveform volts;
    bool operator==(const Voltage&) const = default;
};
/// An ideal gain of -1: pin 0 drives pin 1 with the opposite of its volts. A drive for tests, not a part.
struct Inverter {
    bool operator==(const Inverter&) const = default;
};
/// Pins for wires to come and go, nothing between them: a jack, terminals, an earth bolt.
struct Connector {
    bool operator==(const Connector&) const = default;
};
/// Closed contacts: pins 2k and 2k + 1 are the poles' ends.
struct Contacts {
    int poles = 1;
    double ohms = 0.01; ///< of each
    bool operator==(const Contacts&) const = default;
};
/// One winding between two pins.
struct Coil {
    int a = 0, b = 1; ///< pins; a is the dotted end
    double turns = 1, ohms = 0, leakage = 0;
    double farads = 0; ///< between its ends; 0: none
    bool operator==(const Coil&) const = default;
};
/// Windings on one core; `inductance` is seen at the first.
struct Windings {
    double inductance = 10;
    std::vector<Coil> coils;
    double ratedFlux = 0, saturationAmps = 0, lossOhms = 0; ///< as circuit::Transformer has them
    bool operator==(const Windings&) const = default;
};
/// One valve system of a bottle. Pins in the order of its law: triode grid, plate, cathode; pentode grid, screen,
/// plate, cathode.
struct ValveSection {
    circuit::PortLaw law;
    std::vector<int> pins;
    int number = 1;                                          ///< of the bottle's sections, as the catalogue counts them
    double gridPlate = 0, gridCathode = 0, plateCathode = 0; ///< [F]; a pentode's screen counts as its cathode
    bool operator==(const ValveSection&) const = default;
};
/// A bottle. Its heater's pins have names and numbers, and no part in the signal's circuit.
struct Bottle {
    std::string type;
    double emission = 1; ///< of its own, and what its heater lets it give: 0 .. 1.5
    std::vector<ValveSection> sections;
    bool operator==(const Bottle&) const = default;
};

using Element = std::variant<Resistance, Capacitance, Inductance, Track, CurrentSink, Diode, Zener, Voltage, Inverter,
                             Connector, Contacts, Windings, Bottle>;

/// What a part bears; 0: not known.
struct Ratings {
    double volts = 0, watts = 0, amps = 0;
};

struct Part {
    std::string id; ///< as on the drawing: "r7", "v3", "ot1"
    Element element;
    std::vector<Pin> pins;
    double tolerance = 0; ///< share, of its main value
    Ratings ratings;
    std::string role;    ///< "grid leak of V3"
    std::string channel; ///< that it serves; empty: the supply or several
    std::string place;   ///< JSON pointer of its main value in the Build; empty: not of a Build
};

/// A part that is another: its main value (ohm, farad, henry, emission).
struct Value {
    PartId part;
    double value;
};
/// A joint that was forgotten, or a broken lead: the pin is on a net of its own.
struct Open {
    PinId pin;
};
/// A resistance between two nets.
struct Leak {
    NetId a, b;
    double ohms;
};
/// Two leads on each other's place.
struct Swapped {
    PinId a, b;
};
/// A valve of another type in the socket: its laws, section by section, by the order of the electrodes.
struct OtherLaws {
    PartId part;
    std::vector<circuit::PortLaw> laws;
};
/// One lead on another net.
struct Moved {
    PinId pin;
    NetId to;
};
/// Every pin of a part open: it is not there.
struct Missing {
    PartId part;
};
/// A winding's two ends exchanged.
struct Reversed {
    PartId part;
    int coil = 0;
};
using Variation = std::variant<Value, Open, Leak, Swapped, OtherLaws, Moved, Missing, Reversed>;

class Schematic {
  public:
    /// The net of this name; made when there is none. "ground" is 0 V and always there.
    NetId net(std::string_view name, NetKind kind = NetKind::Signal);
    static constexpr NetId ground{0};
    PartId add(Part part);

    Schematic();
    [[nodiscard]] const std::vector<Part>& parts() const { return all; }
    [[nodiscard]] const std::vector<Net>& nets() const { return netList; }
    [[nodiscard]] const Part& operator[](PartId id) const { return all[static_cast<std::size_t>(id.index)]; }
    [[nodiscard]] const Net& operator[](NetId id) const { return netList[static_cast<std::size_t>(id.index)]; }
    [[nodiscard]] NetId at(PinId id) const { return (*this)[id.part].pins[static_cast<std::size_t>(id.pin)].net; }
    /// As `with()` a Value, in place: for one that is solved again and again.
    void set(PartId part, double value);
    [[nodiscard]] Part& edit(PartId part) { return all[static_cast<std::size_t>(part.index)]; }
    void place(PartId part, std::string pointer) { edit(part).place = std::move(pointer); }
    void setWave(PartId source, const circuit::Waveform& volts);
    /// By id; nothing when there is no such part, net or pin.
    [[nodiscard]] std::optional<PartId> find(std::string_view part) const;
    [[nodiscard]] std::optional<NetId> findNet(std::string_view name) const;
    /// A pin by its name or its number on the base.
    [[nodiscard]] std::optional<PinId> pin(std::string_view part, std::string_view pin) const;

    /// The amplifier with one thing different. Nets and parts keep their index; new ones come after.
    [[nodiscard]] Schematic with(const Variation& variation) const;

    /// What cannot be right whatever the values are, each named by net or part: a net with one pin, a grid without a DC
    /// path to ground.
    [[nodiscard]] std::vector<Problem> defects() const;

  private:
    std::vector<Part> all;
    std::vector<Net> netList;
};

/// Whether two schematics are one circuit: the same elements on the same nets, whatever they are called.
bool alike(const Schematic& a, const Schematic& b);

/// Whether direct current finds its way from a net to ground through what conducts.
std::vector<bool> groundedNets(const Schematic& schematic);

Part resistor(std::string id, NetId a, NetId b, double ohms);
Part capacitor(std::string id, NetId a, NetId b, double farads);
/// "+" at `plus`, "-" at `minus`.
Part voltage(std::string id, NetId plus, NetId minus, circuit::Waveform volts);
/// A bottle of one section, pins in the order of the law.
Part valve(std::string id, circuit::PortLaw law, const std::vector<NetId>& nets);

/// Names of a section's electrodes in the order of its law.
const std::vector<std::string>& electrodes(const circuit::PortLaw& law);

} // namespace ember::schematic
