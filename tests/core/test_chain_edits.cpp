// The chain is changed, and what hangs on it hangs where it hung.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>

using namespace ember;

class TestChainEdits : public QObject {
    Q_OBJECT
    static Build after(const Build& b, const Edit& e) {
        const auto done = apply(b, e);
        if (!done) qFatal("%s", done.problem().text().c_str());
        return *done;
    }

  private Q_SLOTS:
    void whatIsHungDrawsFromItsNode() {
        const Build demo = demoBuild();
        Build b = *apply(demo, hangBleeder(demo, 2));
        b = *apply(b, hangLoad(b, 3));
        b = *apply(b, hangLoad(b, 3));
        QCOMPARE(b.supply.bleeders.back().node, 2);
        QCOMPARE(b.supply.loads.size(), demo.supply.loads.size() + 2);
        QVERIFY(b.supply.loads[0].id != b.supply.loads[1].id);
        QVERIFY(!checkReferences(b));
        // Parts put in before their node take them along.
        const Build longer = *apply(b, insertSection(b, 1, SectionKind::Resistor));
        QCOMPARE(longer.supply.loads.back().node, 4);
        QVERIFY(!apply(demo, hangLoad(demo, 9)).ok());
    }

    void aResistorBeforeACapacitorTakesItsLoadsAlong() {
        const Build b = demoBuild();                                           // c1 l1 c2 r1 c3
        const Build so = after(b, insertSection(b, 2, SectionKind::Resistor)); // c1 l1 r2 c2 r1 c3
        QVERIFY(so.supply.sections[2].kind == SectionKind::Resistor);
        QCOMPARE(so.channels[0].stages[2].node, b.channels[0].stages[2].node + 1);
        QCOMPARE(so.channels[0].stages[0].node, b.channels[0].stages[0].node + 1);
    }

    void aResistorAtTheEndBringsItsCapacitorAndTakesNothingAlong() {
        const Build b = demoBuild();
        const Build so = after(b, insertSection(b, b.supply.sections.size(), SectionKind::Resistor));
        QCOMPARE(so.supply.sections.size(), b.supply.sections.size() + 2);
        QVERIFY(so.supply.sections.back().kind == SectionKind::Capacitor);
        QCOMPARE(so.channels[0].stages[0].node, b.channels[0].stages[0].node);
    }

    void aCapacitorChangesNoNode() {
        const Build b = demoBuild();
        const Build so = after(b, insertSection(b, 1, SectionKind::Capacitor));
        QCOMPARE(so.supply.sections.size(), b.supply.sections.size() + 1);
        QCOMPARE(so.channels[0].stages[2].node, b.channels[0].stages[2].node);
        QCOMPARE(so.supply.sections[1].volts, b.supply.sections.back().volts); // as the last of its kind
    }

    void whatIsInsertedAndTakenAwayLeavesTheBuild() {
        const Build b = demoBuild();
        for (const SectionKind kind : {SectionKind::Capacitor, SectionKind::Resistor, SectionKind::Choke,
                                       SectionKind::Switch, SectionKind::Fuse, SectionKind::Meter})
            for (std::size_t at = 0; at < b.supply.sections.size(); ++at) {
                const Build with = after(b, insertSection(b, at, kind));
                const Build back = after(with, removeSection(with, at));
                QVERIFY2(toText(back) == toText(b), kindWord(kind));
            }
    }

    void removingTheOnlyPartBetweenTwoNodesJoinsThem() {
        const Build b = demoBuild();
        const Build so = after(b, removeSection(b, 3)); // without r1
        QCOMPARE(so.channels[0].stages[0].node, 2);
        const auto f = plan::solveFigures(so, Catalogue::shipped());
        QVERIFY(f.nominal.has_value());
        QCOMPARE(f.nominal->nodes.size(), std::size_t(2));
    }

    void shiftingChangesPlacesAndEndsAtTheEnds() {
        const Build b = demoBuild();
        const auto shifted = shiftSection(b, 0, 1); // choke input
        QVERIFY(shifted);
        const Build so = after(b, *shifted);
        QCOMPARE(so.supply.sections[0].id, std::string("l1"));
        QCOMPARE(so.supply.sections[1].id, std::string("c1"));
        const auto f = plan::solveFigures(so, Catalogue::shipped());
        QVERIFY(f.nominal.has_value());
        const auto g = plan::solveFigures(b, Catalogue::shipped());
        QVERIFY(f.nominal->nodes[1].mean < 0.85 * g.nominal->nodes[1].mean); // towards 0.9 of RMS
        QVERIFY(!shiftSection(b, 0, -1));
        QVERIFY(!shiftSection(b, b.supply.sections.size() - 1, 1));
    }

    void everyKindOfSectionSolves() {
        const Build b = demoBuild();
        for (const SectionKind kind :
             {SectionKind::Switch, SectionKind::Fuse, SectionKind::Meter, SectionKind::Choke}) {
            const Build so = after(b, insertSection(b, 2, kind));
            const auto f = plan::solveFigures(so, Catalogue::shipped());
            QVERIFY2(f.nominal.has_value(), kindWord(kind));
            QCOMPARE(f.nominal->nodes.size(), std::size_t(4));
            QVERIFY(f.nominal->nodes[2].mean > 200);
        }
    }
};

EMBER_TESTS(TestChainEdits)
#include "test_chain_edits.moc"
