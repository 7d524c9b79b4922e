// Stages that oscillate through the supply they share.

#include "../support/inspected.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/impedance.h"
#include "core/plan/supply_feedback.h"

#include <QTest>

#include <cmath>

using namespace ember;

namespace {

/// The single-ended instrument amplifier, its controls fully up, with this much behind its last dropping resistor.
Build loud(double farads) {
    Build b = startOf("instrument-single-ended")->build;
    for (Channel& ch : b.channels)
        for (Stage& s : ch.stages)
            for (StagePart& p : s.parts)
                if (auto* control = std::get_if<PotentiometerPart>(&p.part); control && s.kind == "volume")
                    control->position = 1;
    for (Section& s : b.supply.sections)
        if (s.id == "c3") s.capacitance = farads;
    return b;
}

std::vector<plan::Oscillation> oscillations(const Build& b) {
    const auto f = plan::solveFigures(b, catalogue);
    const auto impedance = plan::supplyImpedance(b, catalogue, *f.nominal, 20);
    return plan::supplyOscillations(b, catalogue, *f.nominal, impedance->sourceOhms);
}

} // namespace

class TestSupplyFeedback : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// With 1 uF at its last node ngspice shows 47 V peak to peak at 8 Hz; as it is shipped it rests.
    void aSmallDecouplingCapacitorMakesItMotorboat() {
        QVERIFY(oscillations(loud(22e-6)).empty());
        const auto all = oscillations(loud(1e-6));
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY2(std::abs(all[0].hertz - 8) < 2, qPrintable(QString::number(all[0].hertz)));
    }
    /// A supply without impedance joins nothing; nor does a path without gain.
    void aStiffSupplyJoinsNothing() {
        const Build b = loud(1e-6);
        Build stiff = b;
        for (Section& s : stiff.supply.sections)
            if (s.kind == SectionKind::Capacitor) s.capacitance = 0.05;
        QVERIFY(oscillations(stiff).empty());
        Build turnedDown = b;
        for (Channel& ch : turnedDown.channels)
            for (Stage& s : ch.stages)
                for (StagePart& p : s.parts)
                    if (auto* control = std::get_if<PotentiometerPart>(&p.part)) control->position = 0;
        QVERIFY(oscillations(turnedDown).empty());
    }
    /// The finding has the hertz and a capacitor that ends it.
    void theFindingHasACapacitorThatEndsIt() {
        Build b = loud(1e-6);
        for (int k = 0; k < 4; ++k) {
            plan::Figures f = plan::solveFigures(b, catalogue);
            f.oscillations = oscillations(b);
            const auto all = rules::inspect(b, catalogue, f);
            const auto* x = findingOf(all, "unstable/main/supply");
            if (!x) {
                QVERIFY(k > 0);
                return;
            }
            QVERIFY(x->level == rules::Level::Stop && x->fix && x->title.find(" Hz") != std::string::npos);
            b = *apply(b, *x->fix);
        }
        QFAIL("it still oscillates");
    }
    /// No start and not the demo does, whatever its controls stand at.
    void everyStartRests_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts())
            if (!s.build.channels.empty()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyStartRests() {
        QFETCH(QString, id);
        QVERIFY(oscillations(startOf(id.toStdString())->build).empty());
    }
};

EMBER_TESTS(TestSupplyFeedback)
#include "test_supply_feedback.moc"
