#pragma once
// A circuit as plain values: nodes by name, devices between them. Node 0 is ground.

#include "laws.h"

#include <memory>
#include <string>
#include <variant>
#include <vector>

namespace ember::circuit {

using Node = int;
inline constexpr Node ground = 0;

struct Resistor {
    Node a, b;
    double ohms; ///< > 0
};
struct Capacitor {
    Node a, b;
    double farads;          ///< > 0
    double esr = 0;         ///< [ohm]
    double leakageOhms = 0; ///< [ohm] in parallel; 0 for none
};
struct Inductor {
    Node a, b;
    double henries; ///< > 0
    double ohms = 0;
};
/// Any signal as samples, evenly spaced from t = 0 on; zero before and after. Between them a polynomial through six
/// (Lagrange): with eight samples a period its error is below 2e-3 of the crest, with sixteen below 4e-5.
struct Samples {
    double rate = 48000;        ///< [Hz]
    std::vector<double> values; ///< [V or A]
    [[nodiscard]] double at(double seconds) const;
};
/// dc + amplitude (sin x + third sin 3x) + samples, x = 2 pi frequency t + phase [V or A, Hz, rad]. A third harmonic in
/// phase flattens the crest.
struct Waveform {
    double dc = 0, amplitude = 0, frequency = 0, phase = 0;
    std::shared_ptr<const Samples> samples = {};
    double third = 0; ///< share of the amplitude
    [[nodiscard]] double at(double seconds) const;
    bool operator==(const Waveform&) const = default;
};
struct VoltageSource {
    Node a, b; ///< a is positive
    Waveform volts;
};
/// Drives its current through itself from `from` to `to`, so that it is a load on `from`.
struct CurrentSource {
    Node from, to;
    Waveform amps;
};
/// Drives siemens times the volts from `plus` to `minus` through itself from `from` to `to`.
struct Transconductance {
    Node from, to, plus, minus;
    double siemens;
};
struct Winding {
    Node a, b;          ///< a is the dotted end
    double turns;       ///< relative to the other windings of the core
    double ohms = 0;    ///< copper
    double leakage = 0; ///< [H] leakage inductance of this winding
};
/// Windings on one core. `inductance` [H] is the magnetising inductance seen at the first winding, of which gap and
/// iron at small flux are the cause; `ratedFlux` [V s], at the first winding too, is the crest at which `saturation`
/// draws its amperes beyond that; 0: the core never saturates. `lossOhms` [ohm]: across the first winding; 0: no loss.
struct Transformer {
    std::vector<Winding> windings;
    double inductance = 10;
    double ratedFlux = 0;
    CoreLaw saturation{};
    double lossOhms = 0;
};
/// Anything with a PortLaw between its terminals. Two-terminal laws: {a, b}; triode: {grid, plate, cathode};
/// pentode: {grid, screen, plate, cathode}.
struct NonlinearDevice {
    std::vector<Node> terminals;
    PortLaw law;
    double emission = 1; ///< 0 .. 1
};

using Device = std::variant<Resistor, Capacitor, Inductor, VoltageSource, CurrentSource, Transconductance, Transformer,
                            NonlinearDevice>;

using DeviceId = int;

class Netlist {
  public:
    Netlist() : names{"ground"} {}

    Node node(std::string name);
    [[nodiscard]] int nodeCount() const { return static_cast<int>(names.size()); } ///< ground included
    [[nodiscard]] const std::string& nodeName(Node n) const { return names[static_cast<std::size_t>(n)]; }

    DeviceId add(Device device);
    /// A silicon diode with its series resistance, as a junction and a resistor; returns the junction.
    DeviceId addDiode(Node anode, Node cathode, DiodeLaw law, double seriesOhms);
    DeviceId addVacuumRectifier(Node plate, Node cathode, const VacuumLaw& law, double emission = 1);

    [[nodiscard]] const std::vector<Device>& devices() const { return all; }
    [[nodiscard]] Device& device(DeviceId id) { return all[static_cast<std::size_t>(id)]; }

  private:
    std::vector<std::string> names;
    std::vector<Device> all;
};

} // namespace ember::circuit
