// Findings that hang on what happens through time or at full power, and what a waiver does.

#include "../support/inspected.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"

#include <QTest>

using namespace ember;

class TestFindings : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aChainResistorStandsHighestWhileTheChainFills() {
        // Standby closes on a charged reservoir: all of it stands across a resistor whose capacitor fills slowly.
        const auto found = [](const Build& b) {
            plan::Figures f = plan::solveFigures(b, catalogue);
            if (auto on = plan::switchOn(b, catalogue, *f.nominal, 12)) f.switchOn = *on;
            const auto all = rules::inspect(b, catalogue, f);
            const auto* x = findingOf(all, "resistor-volts/");
            return x ? std::optional(*x) : std::nullopt;
        };
        Build b = demoBuild();
        QVERIFY(!found(b));
        b.supply.rectifier.type = "silicon";
        b = *apply(b, insertSection(b, 1, SectionKind::Switch));
        b.supply.sections[1].closes = 3;
        Section& r1 = b.supply.sections[4];
        QCOMPARE(r1.id, std::string("r1"));
        r1.resistance = 47e3;
        r1.watts = 0.25;
        const auto small = found(b);
        QVERIFY(small && small->fix && small->id == "resistor-volts/r1");
        b = *apply(b, *small->fix);
        QVERIFY(!found(b));
        // Above what any single body bears, two share it.
        b.transformer.plateVolts = 450;
        const auto high = found(b);
        QVERIFY(high && high->fix);
        const std::size_t before = b.supply.sections.size();
        b = *apply(b, *high->fix);
        QCOMPARE(b.supply.sections.size(), before + 1);
        QVERIFY(!found(b));
    }

    /// At full power each screen burns its volts times what it draws then: EL84, 2 W at rest and 4 W with signal.
    void screensAreJudgedAtFullPowerToo() {
        const Build b = demoBuild();
        plan::Figures f = plan::solveFigures(b, catalogue);
        f.power.resize(2);
        const auto& p = pointOf(b, *f.nominal, "v3");
        const double volts = p.screen - p.cathode;
        f.power[0].clipMore = {{2, true, 2 * (4.2 / volts - p.screenAmps)}}; // 4.2 W in each
        f.power[1].clipMore = {{2, true, 2 * (3.5 / volts - p.screenAmps)}};
        const auto all = rules::inspect(b, catalogue, f);
        const auto* over = findingOf(all, "screen-power/left");
        QVERIFY(over && over->level == rules::Level::Stop && over->text.find("4.20 W of 4.00 W") != std::string::npos);
        QVERIFY(!findingOf(all, "screen-power/right"));
    }

    void aWaivedFindingKeepsItsReason() {
        Build b = demoWithoutBleeder();
        b.waivers.push_back({{}, "slow-discharge", "a switch with a bleeder contact", "2026-01-01"});
        const auto all = inspected(b);
        const auto* f = findingOf(all, "slow-discharge");
        QVERIFY(f && f->waived);
        QCOMPARE(f->waiverReason, std::string("a switch with a bleeder contact"));
        QVERIFY(!all.front().waived);
    }
};

EMBER_TESTS(TestFindings)
#include "test_findings.moc"
