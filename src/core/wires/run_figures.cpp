#include "run_figures.h"

#include "wire_edits.h"

#include "core/schematic/path_schematic.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::wires {

using namespace schematic;

double mostAmps(double area) {
    return 10.3 * std::pow(area / 1e-6, 0.627);
}

double leastArea(double amps) {
    const auto fits =
        std::find_if(standardAreas.begin(), standardAreas.end(), [&](double a) { return mostAmps(a) >= amps; });
    return fits == standardAreas.end() ? standardAreas.back() : *fits;
}

double insulationFor(double volts) {
    for (const double rated : {300.0, 600.0, 1000.0})
        if (rated >= 1.2 * volts) return rated;
    return 3000;
}

void addFigures(Harness& h, const Build& b, const plan::Figures& f) {
    if (!f.nominal) return;
    const plan::Steady &n = *f.nominal, &worst = f.cold ? *f.cold : f.high ? *f.high : n;
    double most = 0;
    for (const plan::NodeFigures& node : worst.nodes) most = std::max(most, node.most);
    std::set<std::string> plates, outputPlates; // nets
    for (const Terminal& t : h.terminals.list) {
        const Part& p = h.terminals.part(t);
        const Pin& pin = p.pins[static_cast<std::size_t>(t.pin.pin)];
        if (std::holds_alternative<Bottle>(p.element) && h.terminals.serves(t) != Serves::Rectifier &&
            (pin.name.starts_with("plate") || pin.name.starts_with("screen")))
            plates.insert(h.terminals.whole.schematic[t.net].name);
        if (h.terminals.serves(t) == Serves::SignalIron) outputPlates.insert(h.terminals.whole.schematic[t.net].name);
    }
    for (Run& r : h.runs) {
        switch (r.kind) {
        case RunKind::Mains:
            r.worstVolts = b.mains.high * std::sqrt(2.0);
            r.amps = n.primaryRms;
            break;
        case RunKind::Earth: r.worstVolts = 0; break;
        case RunKind::Winding:
            r.worstVolts =
                std::max(most, b.transformer.plateVolts * std::sqrt(2.0) * b.mains.high / b.transformer.primaryVolts);
            r.amps =
                r.net.starts_with("plate winding") || r.net.starts_with("rectifier lead") ? n.legRms : plan::unknown;
            break;
        case RunKind::HighVoltage: {
            r.worstVolts = most;
            double sum = 0;
            for (const plan::NodeFigures& node : n.nodes) sum += std::isfinite(node.load) ? node.load : 0;
            r.amps = sum; // at most
            // From the rectifier to the first capacitor the whole pulses flow, of both legs where there are two.
            const auto rectifies = [&](const std::string& end) {
                const Terminal* t = h.terminals.find(end);
                return t && h.terminals.serves(*t) == Serves::Rectifier;
            };
            if (r.net == nodeNet(1) && (rectifies(r.wire.from) || rectifies(r.wire.to)))
                r.amps = n.legRms * (b.supply.connection == Connection::CentreTapped ? std::sqrt(2.0) : 1);
            break;
        }
        case RunKind::Heater: {
            r.worstVolts = 0;
            for (const HeaterWinding& w : b.transformer.heaters)
                if (r.heater == w.id)
                    r.worstVolts = w.feeds == "signal" ? w.volts * 1.5 + std::abs(n.heaterReference(w)) : most;
            break;
        }
        case RunKind::Ground: r.worstVolts = 0; break;
        case RunKind::Bias: r.worstVolts = std::abs(n.biasReservoir); break;
        case RunKind::Output: r.worstVolts = 0; break;
        case RunKind::Signal:
            // An output valve's plate swings to twice its supply; another's stands at it while the valve is cold.
            r.worstVolts = outputPlates.contains(r.net) ? 2 * most : plates.contains(r.net) ? most : plan::unknown;
            break;
        }
        // Unless the builder says what it is: the usual insulation that bears it with a fifth to spare.
        const Wire* said = wireIn(b, r.wire.id);
        if (!(said && said->insulationVolts > 0) && r.worstVolts > 0)
            r.wire.insulationVolts = std::max(r.wire.insulationVolts, insulationFor(r.worstVolts));
    }
}

} // namespace ember::wires
