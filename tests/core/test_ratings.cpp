// Parts against what they are made for: those that more than one finding, or more than one edit, tells of.

#include "../support/inspected.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/starts.h"

#include <QTest>

#include <cmath>

using namespace ember;

class TestRatings : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// A rectifier with a cathode of its own shares the other heaters' winding, as far as its published 500 V between
    /// heater and cathode reach, and its heater counts there; one whose cathode is its heater never does.
    void aRectifierWithItsOwnCathodeMayShareTheHeaters() {
        Build b = demoBuild();
        const double alone = plan::solveFigures(b, catalogue).nominal->heaterFeeds.at("h1").windingAmps;
        b.transformer.heaters.erase(b.transformer.heaters.begin() + 1);
        QVERIFY(findingOf(inspected(b), "rectifier-winding"));
        b.supply.rectifier.type = "EZ81";
        QVERIFY(!findingOf(inspected(b), "rectifier-winding"));
        const double together = plan::solveFigures(b, catalogue).nominal->heaterFeeds.at("h1").windingAmps;
        QVERIFY2(std::abs(together - alone - 1) < 0.15, qPrintable(QString::number(together - alone))); // 1 A published
        b.transformer.plateVolts *= 1.3;
        const auto all = inspected(b);
        const auto* stop = findingOf(all, "rectifier-winding");
        QVERIFY(stop && stop->level == rules::Level::Stop && stop->text.find("500 V") != std::string::npos);
    }

    void everyPartOfAPathIsHeldAgainstItsRating() {
        Build b = startOf("single-ended-triode")->build;
        for (Stage& s : b.channels[0].stages) {
            if (!schematic::isOutput(s)) continue;
            for (StagePart& p : s.parts) {
                if (auto* c = std::get_if<CapacitorPart>(&p.part); c && p.slot == "bypass") c->volts = 16;
                if (auto* r = std::get_if<ResistorPart>(&p.part); r && p.slot == "cathode") r->watts = 0.5;
            }
        }
        const auto all = inspected(b);
        int found = 0;
        for (const Stage& s : b.channels[0].stages)
            if (schematic::isOutput(s))
                for (const StagePart& p : s.parts) {
                    const std::string what = p.slot == "bypass" ? "capacitor-volts/" : "resistor-watts/";
                    if (p.slot != "bypass" && p.slot != "cathode") continue;
                    const auto* f = findingOf(all, what + idOf(p.part));
                    QVERIFY2(f && f->level == rules::Level::Stop && f->fix, idOf(p.part).c_str());
                    ++found;
                }
        QVERIFY(found >= 2);
    }

    /// A follower whose grid hangs on a plate: cold, the grid stands at the supply and the cathode at ground. A diode
    /// from grid to cathode, as offered, leaves a volt between them, and nothing else changes.
    void aGridOnAPlateIsSparedItsColdMoment() {
        Build at = startOf("line-stage")->build;
        at.loose.clear(); // the diodes that it is shipped with
        const double before = plan::solveFigures(at, catalogue).nominal->channels[0].output;
        int diodes = 0;
        for (auto all = inspected(at); findingOf(all, "cold-grid/"); all = inspected(at)) {
            const auto* f = findingOf(all, "cold-grid/");
            QVERIFY(f->fix && f->title.find(" V above its cold cathode") != std::string::npos);
            at = *apply(at, *f->fix);
            QVERIFY(++diodes < 5);
        }
        QCOMPARE(diodes, 2); // one a channel
        QVERIFY(std::abs(plan::solveFigures(at, catalogue).nominal->channels[0].output - before) < 0.01);
    }

    /// IEC 60127-2: a glass fuse is sure to break 35 A, or ten times its rating; a ceramic one 1500 A. A live conductor
    /// on the chassis of a usual house drives some 200 A.
    void aGlassFuseCannotBreakAFaultToTheChassis() {
        Build b = demoBuild();
        b.fuse.breaking = Breaking::Low;
        auto all = inspected(b, true);
        const auto* f = findingOf(all, "fuse-breaking");
        QVERIFY(f && f->text.find("35.0 A") != std::string::npos && f->text.find("1500 A") != std::string::npos);
        b.fuse.breaking = Breaking::Enhanced;
        QVERIFY2(findingOf(inspected(b, true), "fuse-breaking"), "150 A are not enough for 1 ohm");
        b.mains.loopOhms = 2;
        QVERIFY(!findingOf(inspected(b, true), "fuse-breaking"));
        b.mains.loopOhms = 0, b.fuse.breaking = Breaking::High;
        QVERIFY(!findingOf(inspected(b, true), "fuse-breaking") && !findingOf(inspected(b), "fuse-volts"));
        b.fuse.volts = 125;
        const auto low = inspected(b);
        const auto* volts = findingOf(low, "fuse-volts");
        QVERIFY(volts && volts->fix && !findingOf(inspected(*apply(b, *volts->fix)), "fuse-volts"));
    }
};

EMBER_TESTS(TestRatings)
#include "test_ratings.moc"
