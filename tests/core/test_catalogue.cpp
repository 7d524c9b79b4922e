// Fitted models against published figures.

#include "../support/published.h"
#include "../support/suite.h"

#include "core/catalogue/catalogue.h"
#include "core/plan/supply_case.h"

#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace ember;
using nlohmann::json;

class TestCatalogue : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyTypeIsFoundByWhatItIsCalled() {
        const Catalogue& c = Catalogue::shipped();
        for (const ValveType& v : c.valves) {
            QVERIFY2(c.valve(v.type) == &v, v.type.c_str());
            for (const std::string& name : v.names) QVERIFY2(c.valve(name) == &v, name.c_str());
        }
        for (const RectifierType& r : c.rectifiers) {
            QVERIFY2(c.rectifier(r.type) == &r, r.type.c_str()); // as menus offer them
            for (const std::string& name : r.names) QVERIFY2(c.rectifier(name) == &r, name.c_str());
        }
    }

    /// Pins, heater and limits of every type of the reference.
    void everyTypeOfTheReferenceIsThere() {
        for (const json& t : files[1]["types"]) {
            const auto name = QString::fromStdString(t["type"]);
            for (const QString& designation : bareOf(name).split('/')) {
                const ValveType* v = Catalogue::shipped().valve(designation.toStdString());
                QVERIFY2(v, qPrintable(designation));
                const TypeSection& s = v->section(sectionOf(name));
                QCOMPARE(s.pentode, t["kind"] == "pentode");
                QCOMPARE(v->heater.directlyHeated, t["heater"]["directlyHeated"].get<bool>());
                if (t["heater"].contains("amps"))
                    QVERIFY2(std::abs(v->heater.volts * v->heater.amps /
                                          (t["heater"]["volts"].get<double>() * t["heater"]["amps"].get<double>()) -
                                      1) < 0.02,
                             qPrintable(name));
                if (!t.contains("pins") || !t["pins"].contains("plate")) continue;
                const json& plate = t["pins"]["plate"][0];
                QCOMPARE(s.pins.plate.at(0), plate.is_string() ? topCap : plate.get<int>());
                QCOMPARE(s.pins.grid.at(0), t["pins"]["grid"][0].get<int>());
            }
        }
        for (const json& r : files[1]["rectifiers"])
            for (const QString& designation : QString::fromStdString(r["type"]).split('/'))
                QVERIFY2(Catalogue::shipped().rectifier(designation.toStdString()), qPrintable(designation));
        QVERIFY(Catalogue::shipped().valves.size() >= 90);
    }

    void rectifiersDropWhatIsPublished() {
        for (const json& p : files[0]["rectifiers"])
            for (const QString& name : QString::fromStdString(p["type"]).split('/')) {
                const RectifierType* r = Catalogue::shipped().rectifier(name.toStdString());
                QVERIFY2(r, qPrintable(name));
                QVERIFY(std::abs(r->law.perveance * std::pow(p["drop"].get<double>(), 1.5) / p["at"].get<double>() -
                                 1) < 0.001);
            }
    }

    /// A suffix that changes a rating is another type; one that changes nothing is a listed name.
    void aSuffixThatChangesARatingIsAnotherType() {
        const Catalogue& c = Catalogue::shipped();
        QCOMPARE(c.valve("6sn7"), c.valve("6SN7GT"));
        QVERIFY(c.valve("6SN7GTB") != c.valve("6SN7GT"));
        QVERIFY(c.valve("6SN7GTB")->section(1).limits.plateVolts > c.valve("6SN7GT")->section(1).limits.plateVolts);
        QCOMPARE(c.valve("6L6"), c.valve("6L6G"));
        QCOMPARE(c.valve("6L6G")->section(1).limits.plateWatts, 19.0);
        QCOMPARE(c.valve("6L6GC")->section(1).limits.plateWatts, 30.0);
        QCOMPARE(c.valve("6V6GT")->section(1).limits.plateVolts, 315.0);
        QVERIFY(c.rectifier("5U4G")->dcAmps < c.rectifier("5U4GB")->dcAmps);
        QVERIFY(!c.valve("6L6WX"));
        QVERIFY(!c.valve("no such"));
        QVERIFY(!c.valve(""));
        QVERIFY(c.rectifier("5v4"));
    }

    /// Published limits that already allow for the mains have a tenth of grace on plate volts; the others have none.
    void onlyDesignCentreLimitsHaveGrace() {
        const Catalogue& c = Catalogue::shipped();
        QCOMPARE(c.valve("EL84")->section(1).limits.mostPlateVolts(), 330.0);
        QCOMPARE(c.valve("6L6GC")->section(1).limits.mostPlateVolts(), 500.0);
    }

    /// Two published minima, and the straight line between them.
    void theLeastSourceResistanceRisesWithTheVolts() {
        const RectifierType* r = Catalogue::shipped().rectifier("5U4GB");
        QCOMPARE(r->leastSourceOhms(250), 21.0);
        QCOMPARE(r->leastSourceOhms(450), 67.0);
        QCOMPARE(r->leastSourceOhms(375), 44.0);
        QCOMPARE(r->leastSourceOhms(700), 97.0);
        QCOMPARE(Catalogue::shipped().rectifier("silicon")->leastSourceOhms(300), 0.0);
    }

    void aTappedHeaterIsWiredForTheWindingThatIsThere() {
        const Heater& h = Catalogue::shipped().valve("ECC83")->heater;
        QCOMPARE(h.wiredFor(6.5).volts, 6.3);
        QCOMPARE(h.wiredFor(12.9).volts, 12.6);
        QCOMPARE(h.wiredFor(12.9).amps, 0.15);
        for (const ValveType& v : Catalogue::shipped().valves)
            for (const HeaterWiring& w : v.heater.wirings) // the same watts, and no pin at both ends
                QVERIFY2(std::abs(w.volts * w.amps / (v.heater.volts * v.heater.amps) - 1) < 0.01 &&
                             (w.one.empty() || w.one != w.other),
                         v.type.c_str());
        QCOMPARE(Catalogue::shipped().valve("EL84")->heater.wiredFor(12.6).volts, 6.3);
    }

    void aPentodeGivesItsCurrentToTheScreenWhenThePlateIsLow() {
        const ValveType* v = Catalogue::shipped().valve("EL84");
        const auto high = figuresAt(v->section(1).law, 250, -7.3, 250),
                   low = figuresAt(v->section(1).law, 5, -7.3, 250);
        QVERIFY(low.plateAmps < 0.4 * high.plateAmps);
        QVERIFY(low.screenAmps > 3 * high.screenAmps);
    }

  private:
    const std::vector<json> files = publishedFiles();

    /// Capacitor input, as the types' data sheets give it: DC volts at the filter for volts and impedance a plate.
    void publishedRegulationIsMet_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<double>("volts");
        QTest::addColumn<double>("ohms");
        QTest::addColumn<double>("farads");
        QTest::addColumn<double>("amps");
        QTest::addColumn<double>("dc");
        QTest::newRow("5U4GB, 450 V, 275 mA") << "5U4GB" << 450.0 << 67.0 << 40e-6 << 0.275 << 460.0;
        QTest::newRow("5U4GB, 450 V, 137.5 mA") << "5U4GB" << 450.0 << 67.0 << 40e-6 << 0.1375 << 520.0;
        QTest::newRow("5U4GB, 300 V, 300 mA") << "5U4GB" << 300.0 << 21.0 << 40e-6 << 0.3 << 290.0;
        QTest::newRow("5Y3GT, 350 V, 125 mA") << "5Y3GT" << 350.0 << 50.0 << 20e-6 << 0.125 << 350.0;
        QTest::newRow("5Y3GT, 350 V, 62.5 mA") << "5Y3GT" << 350.0 << 50.0 << 20e-6 << 0.0625 << 390.0;
    }
    void publishedRegulationIsMet() {
        QFETCH(QString, type);
        QFETCH(double, volts);
        QFETCH(double, ohms);
        QFETCH(double, farads);
        QFETCH(double, amps);
        QFETCH(double, dc);
        plan::SupplyCase c;
        c.frequency = 60;
        c.emf = volts;
        c.sourceOhms = ohms;
        c.rectifier = *Catalogue::shipped().rectifier(type.toStdString());
        Section reservoir;
        reservoir.id = "c1";
        reservoir.kind = SectionKind::Capacitor;
        reservoir.capacitance = farads;
        c.supply.sections = {reservoir};
        c.loads = {{1, 0, amps}};
        const auto f = plan::solveCase(c);
        QVERIFY(f.ok());
        QVERIFY2(std::abs(f->nodes[0].mean / dc - 1) < 0.04,
                 qPrintable(QString("%1 against %2").arg(f->nodes[0].mean).arg(dc)));
    }
};

EMBER_TESTS(TestCatalogue)
#include "test_catalogue.moc"
