// Each finding is made to appear and to go away.

#include "../support/demo.h"

#include "core/plan/solve.h"
#include "core/rules/findings.h"

#include <QTest>

#include <algorithm>

#include <functional>

using namespace ember;

namespace {

const Catalogue& catalogue = Catalogue::shipped();

std::vector<rules::Finding> inspected(const Build& b) {
    plan::Figures f = plan::solveFigures(b, catalogue);
    if (f.cold) {
        auto curve = plan::switchOff(b, catalogue, *f.cold, false, 600);
        if (curve) f.switchOffCold = *curve;
    }
    if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high)) f.inrush = *rush;
    f.power.resize(b.channels.size()); // of the slow figures only this one is asked for: the demo's, in volts
    for (plan::PowerFigures& p : f.power) p.clipInput = 0.165;
    return rules::inspect(b, catalogue, f);
}

const rules::Finding* find(const std::vector<rules::Finding>& all, const std::string& start) {
    for (const auto& f : all)
        if (f.id.rfind(start, 0) == 0) return &f;
    return nullptr;
}

/// Behind the first capacitor, with this full scale.
void insertMeter(Build& b, double amps) {
    Section meter;
    meter.id = "m1x";
    meter.kind = SectionKind::Meter;
    meter.resistance = 0.5;
    meter.amps = amps;
    b.supply.sections.insert(b.supply.sections.begin() + 1, meter);
    for (Channel& ch : b.channels) ch.plateNode = ch.screenNode = 3, ch.smallNode = 4;
}

using Change = std::function<void(Build&)>;

} // namespace
Q_DECLARE_METATYPE(Change)

class TestRules : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void theDemoHasTwoOpenFindingsAtEachOfTwoStations() {
        const auto all = inspected(demoBuild());
        QVERIFY(find(all, "capacitor-volts/c3"));
        QVERIFY(find(all, "slow-discharge"));
        QVERIFY(find(all, "too-near/p-v1/p-c1"));
        QVERIFY(find(all, "stray/p-ot2/p-l1"));
        QCOMPARE(std::count_if(all.begin(), all.end(), [](const auto& f) { return !f.waived; }), 4);
    }

    void appearsAndGoesAway_data() {
        QTest::addColumn<QString>("id");
        QTest::addColumn<Change>("bad");
        QTest::addColumn<Change>("good");
        const auto row = [](const char* id, Change bad, Change good) {
            QTest::newRow(id) << QString(id) << bad << good;
        };
        row(
            "capacitor-volts/c1", [](Build& b) { b.supply.sections[0].volts = 350; },
            [](Build& b) { b.supply.sections[0].volts = 500; });
        row(
            "rectifier-peak",
            [](Build& b) {
                b.transformer.plateResistance = 20;
                b.supply.sections[0].capacitance = 40e-6;
            },
            [](Build& b) { b.supply.sections[0].capacitance = 10e-6; });
        row(
            "rectifier-inverse", [](Build& b) { b.transformer.plateVolts = 520; }, [](Build&) {});
        row(
            "first-capacitor", [](Build& b) { b.supply.sections[0].capacitance = 60e-6; },
            [](Build& b) { b.supply.sections[0].capacitance = 40e-6; });
        row(
            "winding-amps", [](Build& b) { b.transformer.plateAmps = 0.1; },
            [](Build& b) { b.transformer.plateAmps = 0.3; });
        row(
            "choke-amps", [](Build& b) { b.supply.sections[1].amps = 0.1; },
            [](Build& b) { b.supply.sections[1].amps = 0.25; });
        row(
            "resistor-watts/r1", [](Build& b) { b.supply.sections[3].watts = 0.5; },
            [](Build& b) { b.supply.sections[3].watts = 3; });
        row(
            "fuse", [](Build& b) { b.fuse.amps = 0.25; }, [](Build& b) { b.fuse.amps = 0.8; });
        row(
            "heater-volts/h1", [](Build& b) { b.transformer.heaters[0].volts = 7.4; }, [](Build&) {});
        row(
            "plate-watts",
            [](Build& b) {
                b.channels[0].pair.adjusterA = 0;
                b.bias.floor = 2000;
            },
            [](Build&) {});
        row(
            "balance/left", [](Build& b) { b.channels[0].pair.adjusterA = 0.8; }, [](Build&) {});
        row(
            "grid-leak/", [](Build& b) { b.channels[0].pair.gridLeakA.resistance = 1e6; },
            [](Build& b) { b.channels[0].pair.gridLeakA.resistance = 270e3; });
        row(
            "coupling/", [](Build& b) { b.channels[0].pair.couplingA.capacitance = 22e-9; },
            [](Build& b) { b.channels[0].pair.couplingA.capacitance = 0.47e-6; });
        row(
            "adjuster-open", [](Build& b) { b.bias.failSafe = 0; }, [](Build& b) { b.bias.failSafe = 47e3; });
        row(
            "bias-cold", [](Build& b) { b.transformer.biasVolts = 4; }, [](Build&) {});
        row(
            "no-bias", [](Build& b) { b.transformer.biasVolts = 0; },
            [](Build& b) { // from a plate winding's end instead
                b.transformer.biasVolts = 0;
                b.bias.from = BiasSource::PlateResistor;
            });
        row(
            "meter-range/m1x", [](Build& b) { insertMeter(b, 0.11); }, [](Build& b) { insertMeter(b, 0.2); });
        row(
            "balancing/c1",
            [](Build& b) {
                b.supply.sections[0].inSeries = 2;
                b.supply.sections[0].volts = 250;
            },
            [](Build& b) {
                b.supply.sections[0].inSeries = 2;
                b.supply.sections[0].balancing = 220e3;
            });
        row(
            "capacitor-volts/c2",
            [](Build& b) {
                b.supply.sections[2].inSeries = 2;
                b.supply.sections[2].volts = 200; // half the volts, and the tolerance of the other
            },
            [](Build& b) {
                b.supply.sections[2].inSeries = 2;
                b.supply.sections[2].volts = 250;
                b.supply.sections[2].balancing = 100e3;
            });
        row(
            "resistor-volts/rb",
            [](Build& b) {
                b.supply.bleeders.push_back({{}, 1, {{}, "rb", 220e3, 0.5, 0.05}});
            },
            [](Build& b) {
                b.supply.bleeders.push_back({{}, 1, {{}, "rb", 220e3, 2, 0.05}});
            });
        row(
            "critical-choke/l1",
            [](Build& b) {
                std::swap(b.supply.sections[0], b.supply.sections[1]);
                b.supply.sections[0].inductance = 0.8;
            },
            [](Build& b) {
                std::swap(b.supply.sections[0], b.supply.sections[1]);
                b.supply.sections[0].inductance = 20;
            });
        row(
            "switch-neutral", [](Build& b) { b.mainsSwitch.breaks = Breaks::Neutral; },
            [](Build& b) { b.mainsSwitch.breaks = Breaks::Live; });
        row(
            "fuse-behind-switch", [](Build& b) { b.mainsSwitch.fuseFirst = false; }, [](Build&) {});
        row(
            "other-mains", [](Build& b) { b.transformer.primaryVolts = 200; }, [](Build&) {});
        row(
            "rectifier-winding", [](Build& b) { b.transformer.heaters[1].feeds = "signal"; },
            [](Build& b) { b.transformer.heaters[1].feeds = "rectifier"; });
        row(
            "fuse-inrush",
            [](Build& b) {
                b.fuse.slow = false;
                b.fuse.amps = 0.8;
            },
            [](Build& b) { b.fuse.amps = 0.8; });
        row(
            "hum-budget/left",
            [](Build& b) {
                b.supply.sections[2].capacitance = 2e-6;
                b.supply.sections[4].capacitance = 1e-7;
            },
            [](Build&) {});
        row(
            "chain-fuse/f1x",
            [](Build& b) {
                Section fuse;
                fuse.id = "f1x";
                fuse.kind = SectionKind::Fuse;
                fuse.resistance = 1;
                fuse.amps = 0.1;
                b.supply.sections.push_back(fuse);
                std::swap(b.supply.sections[3], b.supply.sections.back()); // r1 behind it
                for (Channel& ch : b.channels) ch.plateNode = ch.screenNode = 3;
            },
            [](Build&) {});
        row(
            "slow-discharge", [](Build&) {},
            [](Build& b) {
                b.supply.bleeders.push_back({{}, 1, {{}, "rb", 100e3, 5, 0.05}});
            });
    }
    void appearsAndGoesAway() {
        QFETCH(QString, id);
        QFETCH(Change, bad);
        QFETCH(Change, good);
        Build b = demoBuild();
        bad(b);
        const auto with = inspected(b);
        const auto* f = find(with, id.toStdString());
        QVERIFY(f);
        QVERIFY(!f->title.empty() && f->text.size() > 30);
        b = demoBuild();
        good(b);
        QVERIFY(!find(inspected(b), id.toStdString()));
    }

    void everyFixMendsItsFinding() {
        Build b = demoBuild();
        b.fuse.amps = 0.25;
        b.supply.sections[3].watts = 0.5;
        b.bias.failSafe = 0;
        b.channels[0].pair.gridLeakA.resistance = 1e6;
        const auto before = inspected(b);
        int fixes = 0;
        for (const auto& f : before) {
            if (!f.fix) continue;
            const auto mended = apply(b, *f.fix);
            QVERIFY2(mended.ok(), mended.ok() ? "" : mended.problem().text().c_str());
            QVERIFY2(!find(inspected(*mended), f.id), f.id.c_str());
            ++fixes;
        }
        QVERIFY(fixes >= 6);
    }

    void aWaivedFindingKeepsItsReason() {
        Build b = demoBuild();
        b.waivers.push_back({{}, "slow-discharge", "a switch with a bleeder contact", "2026-01-01"});
        const auto all = inspected(b);
        const auto* f = find(all, "slow-discharge");
        QVERIFY(f && f->waived);
        QCOMPARE(f->waiverReason, std::string("a switch with a bleeder contact"));
        QVERIFY(!all.front().waived);
    }
};

QTEST_GUILESS_MAIN(TestRules)
#include "test_rules.moc"
