// What stands between a heater winding and its heaters: windings in series, resistors, strings, the reference; hum.

#include "../support/heated.h"
#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/wires/heater_hum.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

} // namespace

class TestHeaterSupply : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Two heaters of 0.435 A through a resistor in each lead: R = (V - Vh) / 2 I.
    void aResistorInEachLegTakesWhatIsTooMuch() {
        Build b = ownWinding(7.2);
        const plan::Steady high = steadyOf(b, 230);
        const double excess = small(high).volts - 6.3, ohms = excess / (2 * 2 * 0.435);
        QVERIFY2(excess > 0.5, qPrintable(QString::number(excess)));
        third(b).legResistance = ohms;
        const plan::Steady s = steadyOf(b, 230);
        QVERIFY2(std::abs(small(s).volts - 6.3) < 0.02, qPrintable(QString::number(small(s).volts)));
        QVERIFY(std::abs(s.heaterFeeds.at("h3").legWatts / (0.87 * 0.87 * ohms) - 1) < 0.01);
    }
    /// The finding finds that resistor by itself.
    void tooManyVoltsAreMendedByAResistorInEachLead() {
        Build b = ownWinding(7.4);
        const auto all = inspected(b);
        const auto* f = findingOf(all, "heater-volts/h3");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY2(mended && mended->transformer.heaters.back().legResistance > 0.1, f->fix->name.c_str());
        const auto now = inspected(*mended);
        const auto* left = findingOf(now, "heater-volts/h3");
        QVERIFY2(!left, left ? (f->fix->name + ": " + left->title + left->text).c_str() : "");
        QVERIFY(!findingOf(inspected(*mended), "heater-leg-watts"));
    }

    /// Without load the volts of two windings add or are taken off; loaded, both carry the same current.
    void aWindingAgainstAnotherIsTakenOffAndTheWrongWayAdded() {
        Build b = ownWinding(9);
        HeaterWinding buck;
        buck.id = "h4", buck.volts = 2.4, buck.resistance = 0.05, buck.amps = 2, buck.feeds = "h3";
        b.transformer.heaters.push_back(buck);
        for (Valve& v : b.bottles) v.heater.clear(); // nothing hangs on it
        plan::Steady s = steadyOf(b, 230);
        const double share = s.primaryVolts / 230;
        QVERIFY(std::abs(s.heaterFeeds.at("h3").out / ((9 - 2.4) * share) - 1) < 0.02);
        b.transformer.heaters.back().opposed = false;
        s = steadyOf(b, 230);
        QVERIFY(std::abs(s.heaterFeeds.at("h3").out / ((9 + 2.4) * share) - 1) < 0.02);
        b.transformer.heaters.back().opposed = true;
        for (Valve& v : b.bottles)
            if (v.id == "v2" || v.id == "v5") v.heater = "h3";
        s = steadyOf(b, 230);
        const double drop = small(s).amps * 0.15; // both windings' copper
        QVERIFY2(std::abs(small(s).volts - ((9 - 2.4) * s.primaryVolts / 230 - drop)) < 0.12,
                 qPrintable(QString::number(small(s).volts)));
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const wires::WireFigures w = wires::wireFigures(b, catalogue, f);
        QVERIFY(w.heaters.windings[3].partOfAnother);
        QVERIFY(std::abs(w.heaters.windings[3].nominal.amps / w.heaters.windings[2].nominal.amps - 1) < 0.01);
    }

    /// Two heaters of 6.3 V on 12.6 V: the same current through both; unlike ones share by their hot resistance.
    void heatersInAStringCarryTheSameCurrent() {
        Build b = ownWinding(13.1);
        for (Valve& v : b.bottles)
            if (v.heater == "h3") v.heaterString = "s1";
        const plan::Steady s = steadyOf(b, 230);
        std::vector<plan::HeaterFigures> string;
        for (const auto& h : s.heaters)
            if (h.string == "s1") string.push_back(h);
        QCOMPARE(string.size(), 2U);
        QVERIFY(std::abs(string[0].volts - string[1].volts) < 1e-9 && std::abs(string[0].volts - 6.4) < 0.25);
        QVERIFY(std::abs(s.heaterFeeds.at("h3").windingAmps / string[0].amps - 1) < 1e-3);
        // One of them another type, of more amperes: it is colder than it is made for, the other hotter.
        for (Valve& v : b.bottles)
            if (v.id == "v5") v.type = "EL84";
        const plan::Steady unlike = steadyOf(b, 230);
        std::map<std::string, plan::HeaterFigures> by;
        for (const auto& h : unlike.heaters)
            if (h.string == "s1") by[h.valve] = h;
        QVERIFY(std::abs(by["EL84"].amps / by["ECC85"].amps - 1) < 1e-3);
        QVERIFY(by["EL84"].volts < 5.5 && by["ECC85"].volts > 7);
        // Pulling one darkens the other.
        plan::Conditions c;
        c.mainsVolts = 230;
        c.pulled = {"v5"};
        const auto dark = plan::solveSteady(b, catalogue, c, {});
        QVERIFY(dark);
        for (const auto& h : dark->heaters) QVERIFY(h.string.empty());
    }
    void theWiresOfAStringJoinItsHeatersOneBehindTheOther() {
        Build b = ownWinding(13.1);
        for (Valve& v : b.bottles)
            if (v.heater == "h3") v.heaterString = "s1";
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const wires::WireFigures w = wires::wireFigures(b, catalogue, f);
        int joints = 0;
        for (const wires::Run& r : w.harness.runs) joints += r.net == "heater string s1 1";
        QCOMPARE(joints, 1);
        const wires::HeatedWinding& x = w.heaters.windings[2];
        QCOMPARE(x.sockets.size(), 2U);
        // What the winding gives is at the two heaters and in the wires between.
        double lost = 0;
        for (const wires::Run& r : w.harness.runs)
            if (const auto amps = w.heaters.runAmps.find(r.wire.id);
                amps != w.heaters.runAmps.end() && (r.heater == "h3" || r.net.starts_with("heater string")))
                lost += amps->second * (r.ohms + 2 * wires::jointOhms);
        QVERIFY2(std::abs(x.nominal.volts - x.sockets[0].nominal - x.sockets[1].nominal - lost) < 1e-3,
                 qPrintable(QString("%1 %2").arg(x.nominal.volts).arg(lost)));
    }

    /// With a divider from B+ the reference stands at its share, and the heaters' limit counts from there.
    void aDividerRaisesTheReference() {
        Build b = unwired();
        HeaterWinding& w = b.transformer.heaters[0];
        w.referenceNode = 2;
        w.lift = {{}, 220e3, 47e3, 10e-6};
        const plan::Steady s = steadyOf(b, 230);
        QVERIFY(std::abs(s.heaterReference(w) / (s.nodes[1].mean * 47 / 267) - 1) < 1e-6);
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const auto x = wires::wireFigures(b, catalogue, f).heaters.windings[0];
        // Before the valves draw, the supply stands higher and every cathode at ground.
        QVERIFY(std::abs(x.sockets[0].heaterCathode / (f.cold->nodes[1].mean * 47 / 267) - 1) < 1e-3);
    }

    /// Ripple of regulated direct current is far below 6.3 V AC.
    void directCurrentTakesTheHeatersHumAway() {
        const auto heaters = [](const Build& b) {
            const plan::Figures f = plan::solveFigures(b, catalogue);
            return wires::wireFigures(b, catalogue, f).hum.channels[0].by[std::size_t(wires::HumSource::Heaters)];
        };
        const double ac = heaters(ownWinding(6.6)), dc = heaters(regulated(HeaterRegulator::LowDropout));
        QVERIFY2(dc < 0.5 * ac, qPrintable(QString("%1 %2").arg(ac).arg(dc)));
    }
    /// A filament heated by AC: the mean current along it, followed through a cycle, against the closed form.
    void aFilamentHumsAtTwiceTheMainsEvenWhenBalanced() {
        const ValveType& type = *catalogue.valve("300B");
        const circuit::PortLaw& law = type.section(1).law;
        plan::ValvePoint p;
        p.plate = 300, p.cathode = 0, p.grid = -60;
        const double volts = 5; // RMS
        constexpr int count = 256, along = 200;
        std::vector<double> amps;
        double slope = 0;
        for (int k = 0; k < count; ++k) {
            const double v = volts * sqrt2 * std::sin(2 * pi * k / count);
            double sum = 0;
            for (int x = 0; x < along; ++x) {
                const double here = v * ((x + 0.5) / along - 0.5), at[2] = {p.grid - here, p.plate - here};
                double i[2], g[4];
                circuit::evaluate(law, 1, at, i, g);
                sum += i[1] / along;
                if (k == 0) slope += g[2] / along;
            }
            amps.push_back(sum);
        }
        double second = 0;
        for (int k = 0; k < count; ++k) second += 2 * amps[std::size_t(k)] * std::cos(4 * pi * k / count) / count;
        const double asGrid = std::abs(second) / sqrt2 / slope, closed = wires::filamentSecondHarmonic(law, p, volts);
        QVERIFY2(closed > 1e-3 && std::abs(asGrid / closed - 1) < 0.15,
                 qPrintable(QString("%1 %2").arg(asGrid).arg(closed)));
    }
};

EMBER_TESTS(TestHeaterSupply)
#include "test_heater_supply.moc"
