// Leakage of push-pull iron as it is read on a bench: the inductance at one winding with another shorted.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/circuit/operating_point.h"
#include "core/circuit/small_signal.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/path_schematic.h"

#include <QTest>

#include <cmath>
#include <map>
#include <numbers>

using namespace ember;
using namespace ember::circuit;

namespace {

/// The output transformer of the first channel taken out of its circuit, its coils as the program wires them.
struct OnTheBench {
    Netlist n;
    std::vector<Node> plates, secondary;
    Node centre;

    explicit OnTheBench(const Build& b, bool shorted = true) {
        const auto channel = schematic::channelSchematic(b, catalogue, 0);
        for (const schematic::Part& p : channel.schematic.parts()) {
            const auto* w = std::get_if<schematic::Windings>(&p.element);
            if (!w) continue;
            std::map<int, Node> nodes;
            const auto node = [&](int pin) {
                const int net = p.pins[static_cast<std::size_t>(pin)].net.index;
                if (!nodes.contains(net)) nodes[net] = n.node(channel.schematic[schematic::NetId{net}].name);
                return nodes[net];
            };
            Transformer t;
            t.inductance = w->inductance;
            for (const schematic::Coil& c : w->coils) {
                t.windings.push_back({node(c.a), node(c.b), c.turns, 0, c.leakage});
                const std::string& name = p.pins[static_cast<std::size_t>(c.a)].name;
                if (name == "half a start") plates.push_back(node(c.b)), centre = node(c.a);
                if (name == "half b start") plates.push_back(node(c.a));
                if (name == "secondary start") secondary = {node(c.a), node(c.b)};
            }
            n.add(t);
        }
        for (const Node at : secondary) n.add(Resistor{at, ground, shorted || at == secondary[1] ? 1e-6 : 1e9});
    }
    /// Inductance between two nodes, `low` held [H].
    [[nodiscard]] double henries(Node high, Node low, double hertz) {
        n.add(Resistor{low, ground, 1e-6});
        const System sys = assemble(n);
        const auto op = operatingPoint(sys);
        if (!op) return 0;
        return SmallSignal(sys, op->portVolts).impedance(high, hertz).imag() / (2 * std::numbers::pi * hertz);
    }
};

bool henriesAre(double a, double b, double within) {
    return std::abs(a / b - 1) < within;
}

OutputTransformer& ironOf(Build& b) {
    return partOf<OutputTransformer>(b, "ot1");
}

} // namespace

class TestLeakage : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// "Seen at the whole primary, the secondary shorted": 20 mH are 20 mH, and a half sees a quarter.
    void theWholePrimarySeesWhatTheBuildSays() {
        Build b = demoBuild();
        ironOf(b).leakageInductance = 0.020;
        QCOMPARE(OnTheBench(b).plates.size(), std::size_t(2));
        OnTheBench whole(b), half(b);
        QVERIFY(henriesAre(whole.henries(whole.plates[0], whole.plates[1], 20e3), 0.020, 0.01));
        QVERIFY(henriesAre(half.henries(half.plates[0], half.centre, 20e3), 0.005, 0.01));
    }
    /// Halves that are not wound together leak from one to the other; the whole primary still sees what was read.
    void theHalvesLeakApart() {
        Build b = demoBuild();
        ironOf(b).leakageInductance = 0.020;
        ironOf(b).halvesLeakage = 0.006;
        OnTheBench whole(b);
        QVERIFY(henriesAre(whole.henries(whole.plates[0], whole.plates[1], 20e3), 0.020, 0.01));
        // One half with the other shorted and the secondary open sees all that lies between them.
        OnTheBench apart(b, false);
        apart.n.add(Resistor{apart.plates[1], apart.centre, 1e-6});
        QVERIFY(henriesAre(apart.henries(apart.plates[0], apart.centre, 20e3), 0.006, 0.01));
    }
    /// With the secondary shorted the primary rings where leakage and winding capacitance resonate: at that frequency
    /// its impedance turns from inductive to capacitive.
    void itResonatesWithTheWindingsCapacitance() {
        Build b = demoBuild();
        const OutputTransformer& t = ironOf(b);
        const double hertz = 1 / (2 * std::numbers::pi * std::sqrt(t.leakageInductance * t.windingCapacitance));
        for (const double share : {0.97, 1.03}) {
            OnTheBench at(b);
            for (const Node plate : at.plates) at.n.add(Capacitor{plate, at.centre, 2 * t.windingCapacitance, 0, 0});
            QCOMPARE(at.henries(at.plates[0], at.plates[1], share * hertz) > 0, share < 1);
        }
    }
};

EMBER_TESTS(TestLeakage)
#include "test_leakage.moc"
