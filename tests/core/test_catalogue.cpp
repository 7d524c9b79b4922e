// Fitted models against published figures.

#include "core/catalogue/catalogue.h"
#include "core/circuit/operating_point.h"
#include "core/circuit/periodic.h"

#include <QFile>
#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>
#include <complex>
#include <numbers>

using namespace ember;
using namespace ember::circuit;
using nlohmann::json;

namespace {

struct Output {
    double watts = 0, thdPercent = 0;
};

/// A single-ended stage through a near-ideal transformer, as a circuit: 1 kHz on the grid, power in the load.
Output singleEnded(const ValveType& v, double plate, double screen, double grid, double load, double drive) {
    Netlist n;
    const Node supply = n.node("supply"), a = n.node("a"), g = n.node("g"), s = n.node("s"), out = n.node("out");
    n.add(VoltageSource{supply, ground, {plate}});
    n.add(VoltageSource{g, ground, {grid, drive, 1000, 0}});
    n.add(VoltageSource{s, ground, {screen}});
    n.add(Transformer{{{supply, a, 1, 0.01}, {out, ground, 1, 0.01}}, 30});
    n.add(Resistor{out, ground, load});
    if (v.pentode)
        n.add(NonlinearDevice{{g, s, a, ground}, v.law});
    else
        n.add(NonlinearDevice{{g, a, ground}, v.law});
    const System sys = assemble(n);
    const auto op = operatingPoint(sys);
    if (!op) return {};
    PeriodicOptions o;
    o.period = 1e-3;
    Recording r({nodeVolts(sys, out)});
    Stepper stepper = periodicStepper(sys, o);
    stepper.portSolver().volts() = op->portVolts;
    if (!periodicSteadyState(stepper, op->y, o, &r)) return {};
    const auto w = r.evenly(0, 0, 1e-3, 128);
    double fundamental = 0, rest = 0;
    for (int h = 1; h <= 10; ++h) {
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < w.size(); ++k)
            sum += w[k] * std::polar(2.0 / 128, -2 * std::numbers::pi * h * static_cast<double>(k) / 128);
        (h == 1 ? fundamental : rest) += std::norm(sum);
    }
    return {(fundamental + rest) / 2 / load, 100 * std::sqrt(rest / fundamental)};
}

} // namespace

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

    void initTestCase() {
        QFile f(TEST_DATA "/valve_points.json");
        QVERIFY(f.open(QIODevice::ReadOnly));
        points = json::parse(f.readAll().toStdString());
    }

    void meetsPublishedPoints_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<QString>("kind");
        QTest::addColumn<int>("index");
        for (const char* kind : {"triodes", "pentodes"})
            for (std::size_t k = 0; k < points[kind].size(); ++k) {
                const auto type = QString::fromStdString(points[kind][k]["type"]);
                QTest::newRow(qPrintable(type)) << type << QString(kind) << static_cast<int>(k);
            }
    }
    void meetsPublishedPoints() {
        QFETCH(QString, type);
        QFETCH(QString, kind);
        QFETCH(int, index);
        const json& p = points[kind.toStdString()][static_cast<std::size_t>(index)];
        for (const QString& name : type.section(' ', 0, 0).split('/')) {
            const ValveType* v = Catalogue::shipped().valve(name.toStdString());
            QVERIFY2(v, qPrintable(name));
            const double screen = p.value("screen", 0.0);
            const auto f = figuresAt(v->law, p["plate"], p["grid"], screen);
            const auto within = [&](double have, const char* key, double share) {
                if (!p.contains(key)) return true;
                const double off = have / p[key].get<double>() - 1;
                if (std::abs(off) > share) qWarning("%s: %g against %g", key, have, p[key].get<double>());
                return std::abs(off) <= share;
            };
            QVERIFY(within(f.plateAmps, "plate_current", 0.10));
            QVERIFY(within(f.screenAmps, "screen_current", 0.10));
            QVERIFY(within(f.gm, "gm", 0.15));
            QVERIFY(within(f.mu, "mu", 0.15));
            QVERIFY(within(f.rp, "rp", 0.15));
            if (!p.contains("power")) continue;
            double drive = p.value("drive", 0.0);
            if (drive == 0) { // where the published distortion is reached, at most to zero grid volts
                const double most = -p["grid"].get<double>();
                for (drive = 0.2 * most; drive < most; drive += 0.02 * most)
                    if (singleEnded(*v, p["plate"], screen, p["grid"], p["load"], drive).thdPercent >=
                        p["thd_percent"].get<double>())
                        break;
            }
            QVERIFY(within(singleEnded(*v, p["plate"], screen, p["grid"], p["load"], drive).watts, "power", 0.12));
        }
    }

    void rectifiersDropWhatIsPublished() {
        for (const json& p : points["rectifiers"])
            for (const QString& name : QString::fromStdString(p["type"]).split('/')) {
                const RectifierType* r = Catalogue::shipped().rectifier(name.toStdString());
                QVERIFY2(r, qPrintable(name));
                QVERIFY(std::abs(r->perveance * std::pow(p["drop"].get<double>(), 1.5) / p["at"].get<double>() - 1) <
                        0.001);
            }
    }

    /// A suffix that changes a rating is another type; one that changes nothing is a listed name.
    void aSuffixThatChangesARatingIsAnotherType() {
        const Catalogue& c = Catalogue::shipped();
        QCOMPARE(c.valve("6sn7"), c.valve("6SN7GT"));
        QVERIFY(c.valve("6SN7GTB") != c.valve("6SN7GT"));
        QVERIFY(c.valve("6SN7GTB")->limits.plateVolts > c.valve("6SN7GT")->limits.plateVolts);
        QCOMPARE(c.valve("6L6"), c.valve("6L6G"));
        QCOMPARE(c.valve("6L6G")->limits.plateWatts, 19.0);
        QCOMPARE(c.valve("6L6GC")->limits.plateWatts, 30.0);
        QCOMPARE(c.valve("6V6GT")->limits.plateVolts, 315.0);
        QVERIFY(c.rectifier("5U4G")->dcAmps < c.rectifier("5U4GB")->dcAmps);
        QVERIFY(!c.valve("6L6WX"));
        QVERIFY(!c.valve("no such"));
        QVERIFY(!c.valve(""));
        QVERIFY(c.rectifier("5v4"));
    }

    /// Published limits that already allow for the mains have a tenth of grace on plate volts; the others have none.
    void onlyDesignCentreLimitsHaveGrace() {
        const Catalogue& c = Catalogue::shipped();
        QCOMPARE(c.valve("EL84")->limits.mostPlateVolts(), 330.0);
        QCOMPARE(c.valve("6L6GC")->limits.mostPlateVolts(), 500.0);
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
                QVERIFY2(std::abs(w.volts * w.amps / (v.heater.volts * v.heater.amps) - 1) < 0.01 && w.one != w.other,
                         v.type.c_str());
        QCOMPARE(Catalogue::shipped().valve("EL84")->heater.wiredFor(12.6).volts, 6.3);
    }

    void aPentodeGivesItsCurrentToTheScreenWhenThePlateIsLow() {
        const ValveType* v = Catalogue::shipped().valve("EL84");
        const auto high = figuresAt(v->law, 250, -7.3, 250), low = figuresAt(v->law, 5, -7.3, 250);
        QVERIFY(low.plateAmps < 0.4 * high.plateAmps);
        QVERIFY(low.screenAmps > 3 * high.screenAmps);
    }

  private:
    json points;
};

QTEST_GUILESS_MAIN(TestCatalogue)
#include "test_catalogue.moc"
