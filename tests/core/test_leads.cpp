// Where the meter's leads go: the pins that a picture shows are those whose volts the reading is of.
#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/own_types.h"
#include "core/build/starts.h"
#include "core/procedure/leads.h"
#include "core/procedure/progress.h"
#include "core/schematic/path_schematic.h"
#include "core/wires/terminals.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::procedure;

class TestLeads : public QObject {
    Q_OBJECT

    std::vector<Build> all;

    static const schematic::Net* netAt(const schematic::WholeAmplifier& whole, const LeadEnd& end) {
        if (end.pin.part.index < 0) return nullptr;
        const auto& pin = whole.schematic[end.pin.part].pins[static_cast<std::size_t>(end.pin.pin)];
        return pin.net.index < 0 ? nullptr : &whole.schematic[pin.net];
    }

  private Q_SLOTS:
    void initTestCase() {
        all.push_back(demoBuild());
        for (const Start& s : starts()) all.push_back(s.build);
    }

    /// Of every point of every amplifier both ends are found, on two different nets.
    void everyPointOfEveryStartHasBothEnds() {
        int points = 0;
        for (const Build& b : all) {
            const auto whole = schematic::wholeAmplifier(b, catalogueOf(b));
            for (const TestPoint& p : testPoints(b)) {
                const Leads leads = leadsOf(b, whole, p);
                const QString at = QString("%1: %2").arg(b.name.c_str(), p.id.c_str());
                const bool toMetal = p.kind == PointKind::Earth || p.kind == PointKind::LineChassis ||
                                     p.kind == PointKind::NeutralChassis || p.kind == PointKind::WindingChassis ||
                                     p.kind == PointKind::RailOhms || p.kind == PointKind::HeaterChassis ||
                                     p.kind == PointKind::GridOhms || p.kind == PointKind::CathodeOhms;
                QCOMPARE(toMetal, leads.common.metal || leads.red.metal);
                const auto *common = netAt(whole, leads.common), *red = netAt(whole, leads.red);
                QVERIFY2(common || leads.common.metal, qPrintable(at));
                QVERIFY2(red || leads.red.metal, qPrintable(at));
                QVERIFY2(common != red, qPrintable(at));
                ++points;
            }
        }
        QVERIFY(points > 300);
    }

    /// The net at the red lead is what the point is called; the common is on ground where the reading is to ground.
    void redIsOnWhatIsRead() {
        for (const Build& b : all) {
            const auto whole = schematic::wholeAmplifier(b, catalogueOf(b));
            const auto& s = whole.schematic;
            for (const TestPoint& p : testPoints(b)) {
                const Leads leads = leadsOf(b, whole, p);
                const QString at = QString("%1: %2").arg(b.name.c_str(), p.id.c_str());
                const auto* red = netAt(whole, leads.red);
                if (p.kind == PointKind::Node)
                    QVERIFY2(red && red->name == schematic::nodeNet(static_cast<int>(p.index)), qPrintable(at));
                if (p.kind == PointKind::Node || isValvePoint(p.kind)) {
                    const auto* common = netAt(whole, leads.common);
                    QVERIFY2(common == &s[schematic::Schematic::ground], qPrintable(at));
                }
                if (!isValvePoint(p.kind)) continue;
                const auto& pin = s[leads.red.pin.part].pins[static_cast<std::size_t>(leads.red.pin.pin)];
                const char* electrode = p.kind == PointKind::Grid    ? "grid"
                                        : p.kind == PointKind::Plate ? "plate"
                                                                     : "cathode";
                QVERIFY2(pin.name.starts_with(electrode), qPrintable(at + ": " + pin.name.c_str()));
                QCOMPARE(s[leads.red.pin.part].id, b.bottles[p.index].id);
                // The same number stands in the words.
                if (pin.number < topCap)
                    QVERIFY2(p.probe.find(std::to_string(pin.number)) != std::string::npos, qPrintable(at));
            }
        }
    }

    /// By the published base of the EL84 (noval: 2 grid, 3 cathode, 7 plate) and of the 5V4G (octal: 4 and 6 plates).
    void larkfieldsPinsAreThoseOfItsBases() {
        const Build b = demoBuild();
        const auto whole = schematic::wholeAmplifier(b, catalogueOf(b));
        const auto points = testPoints(b);
        const auto said = [&](const char* id) {
            const TestPoint* p = findPoint(points, id);
            const Leads leads = p ? leadsOf(b, whole, *p) : Leads{};
            return spokenEnd(whole, leads.common) + " | " + spokenEnd(whole, leads.red);
        };
        QCOMPARE(said("output-plate-v3"), std::string("C1 − | V3 pin 7, plate"));
        QCOMPARE(said("sense-v4"), std::string("C1 − | V4 pin 3, cathode"));
        QCOMPARE(said("bias-v6"), std::string("C1 − | V6 pin 2, grid"));
        QCOMPARE(said("leg"), std::string("PT1 centre | V1 plate 1, pin 4"));
        QCOMPARE(said("leg-b"), std::string("PT1 centre | V1 plate 2, pin 6"));
        QCOMPARE(said("earth"), std::string("inlet E | bare metal"));
        QCOMPARE(said("held-c1"), std::string("C1 − | C1 +"));
        QCOMPARE(said("B+3"), std::string("C1 − | C3 +"));
    }

    /// Of a valve whose pins nobody knows no pin is shown, and never bare metal in its place.
    void anUnknownPinIsSaidToBeUnknown() {
        Build b = demoBuild();
        for (auto& bottle : b.bottles)
            if (bottle.id == "v3") bottle.type = "nobody's";
        const auto whole = schematic::wholeAmplifier(b, Catalogue::shipped());
        TestPoint plate;
        plate.kind = PointKind::Plate;
        for (std::size_t k = 0; k < b.bottles.size(); ++k)
            if (b.bottles[k].id == "v3") plate.index = k;
        const Leads leads = leadsOf(b, whole, plate);
        QVERIFY(!leads.red.known() && !leads.red.metal);
        QCOMPARE(spokenEnd(whole, leads.red), std::string("pin not known"));
    }

    /// The rectifier's wires meet its socket at the pins that its base has.
    void aRectifiersWiresGoToItsOwnPins() {
        const Build b = demoBuild();
        const auto terminals = wires::terminalsOf(b, catalogueOf(b));
        const auto at = [&](const char* name) { return terminals.find(name)->at; };
        // 4 and 6 of eight pins lie two steps of 45 degrees apart on a circle of 17.4 mm; the cathode and one end of
        // the heater are one pin.
        const double chord = (at("v1.plate-1") - at("v1.plate-2")).norm();
        QVERIFY2(std::abs(chord - 0.0174 * std::sin(std::numbers::pi / 4)) < 1e-3, qPrintable(QString::number(chord)));
        QVERIFY((at("v1.cathode") - at("v1.heater-2")).norm() < 1e-9);
    }
};

EMBER_TESTS(TestLeads)
#include "test_leads.moc"
