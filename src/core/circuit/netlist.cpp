#include "netlist.h"

#include <cmath>
#include <numbers>
#include <utility>

namespace ember::circuit {

double Samples::at(double seconds) const {
    const double place = seconds * rate, first = std::floor(place), f = place - first;
    const auto count = static_cast<double>(values.size());
    if (!(first >= -3) || first >= count + 3) return 0;
    const auto value = [&](double offset) {
        const double k = first + offset;
        return k >= 0 && k < count ? values[static_cast<std::size_t>(k)] : 0;
    };
    const double before = (f + 2) * (f + 1), behind = (f - 2) * (f - 3);
    return f * (f - 1) *
               (behind * ((f + 2) * value(-1) / 24 - (f + 1) * value(-2) / 120) +
                before * ((f - 2) * value(3) / 120 - (f - 3) * value(2) / 24)) +
           before * behind * (f * value(1) - (f - 1) * value(0)) / 12;
}

double Waveform::at(double seconds) const {
    double out = dc;
    if (amplitude != 0) {
        const double sine = std::sin(2 * std::numbers::pi * frequency * seconds + phase);
        out += amplitude * sine * (1 + third * (3 - 4 * sine * sine));
    }
    if (samples) out += samples->at(seconds);
    return out;
}

Node Netlist::node(std::string name) {
    names.push_back(std::move(name));
    return nodeCount() - 1;
}

DeviceId Netlist::add(Device device) {
    all.push_back(std::move(device));
    return static_cast<DeviceId>(all.size()) - 1;
}

DeviceId Netlist::addDiode(Node anode, Node cathode, DiodeLaw law, double seriesOhms) {
    Node junction = anode;
    if (seriesOhms > 0) {
        junction = node(nodeName(anode) + "~junction");
        add(Resistor{anode, junction, seriesOhms});
    }
    return add(NonlinearDevice{{junction, cathode}, law});
}

DeviceId Netlist::addVacuumRectifier(Node plate, Node cathode, const VacuumLaw& law, double emission) {
    return add(NonlinearDevice{{plate, cathode}, law, emission});
}

} // namespace ember::circuit
