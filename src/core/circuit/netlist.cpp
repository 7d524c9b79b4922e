#include "netlist.h"

#include <cmath>
#include <numbers>
#include <utility>

namespace ember::circuit {

double Waveform::at(double seconds) const {
    return amplitude == 0 ? dc : dc + amplitude * std::sin(2 * std::numbers::pi * frequency * seconds + phase);
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
