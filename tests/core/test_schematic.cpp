// Circuits as parts on nets against the same circuits solved elsewhere (tests/data/stages.json), and what varies them.

#include "../support/suite.h"

#include "core/schematic/solve.h"

#include <QElapsedTimer>
#include <QFile>
#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::schematic;
using nlohmann::json;

namespace {

circuit::PortLaw lawFrom(const json& j) {
    const circuit::GridLaw grid{j.at("gridPerveance"), 0, 0};
    if (j.at("kind") == "triode")
        return circuit::TriodeLaw{j.at("mu"), j.at("exponent"), j.at("kp"), j.at("kvb"), j.at("kg"), grid};
    return circuit::PentodeLaw{j.at("mu"),    j.at("exponent"),  j.at("kp"),    j.at("kg"),
                               j.at("share"), j.at("kneeVolts"), j.at("slope"), grid};
}

/// A case's circuit; `input` drives the net "in".
Schematic circuitFrom(const json& c, const json& laws, const circuit::Waveform& input) {
    Schematic s;
    const auto net = [&](const json& name) { return s.net(name.get<std::string>()); };
    for (const auto& [name, volts] : c.at("supplies").items())
        s.add(voltage("supply " + name, s.net(name, NetKind::HighVoltage), Schematic::ground, {volts.get<double>()}));
    s.add(voltage("input", s.net("in"), Schematic::ground, input));
    for (const json& p : c.at("parts")) {
        const std::string kind = p.at("kind"), id = p.at("id");
        std::vector<NetId> nets;
        for (const json& n : p.at("nets")) nets.push_back(net(n));
        if (kind == "resistor") {
            s.add(resistor(id, nets[0], nets[1], p.at("ohm")));
        } else if (kind == "capacitor") {
            s.add(capacitor(id, nets[0], nets[1], p.at("farad")));
        } else if (kind == "inverter") {
            Part inverter;
            inverter.id = id;
            inverter.element = Inverter{};
            inverter.pins = {{"in", nets[0]}, {"out", nets[1]}};
            s.add(std::move(inverter));
        } else if (kind == "transformer") {
            Part t;
            t.id = id;
            Windings w;
            w.inductance = p.at("inductance");
            for (const json& coil : p.at("windings")) {
                const int at = static_cast<int>(t.pins.size());
                t.pins.push_back({std::to_string(at + 1), net(coil.at("a"))});
                t.pins.push_back({std::to_string(at + 2), net(coil.at("b"))});
                w.coils.push_back({at, at + 1, coil.at("turns"), coil.at("ohm"), coil.at("leakage")});
            }
            t.element = std::move(w);
            s.add(std::move(t));
        } else {
            s.add(valve(id, lawFrom(laws.at(p.at("law").get<std::string>())), nets));
        }
    }
    return s;
}

double decibels(double ratio) {
    return 20 * std::log10(ratio);
}

} // namespace

class TestSchematic : public QObject {
    Q_OBJECT
    json file;
    const json& theCase(const QString& name) {
        for (const json& c : file.at("cases"))
            if (c.at("name") == name.toStdString()) return c;
        qFatal("no case");
    }
    void everyCase() {
        QTest::addColumn<QString>("name");
        for (const json& c : file.at("cases")) {
            const auto name = QString::fromStdString(c.at("name").get<std::string>());
            QTest::newRow(qPrintable(name)) << name;
        }
    }
    static bool near(double got, double want, double share, double least, const char* what) {
        if (std::abs(got - want) <= share * std::abs(want) + least) return true;
        qWarning("%s: %.8g against %.8g", what, got, want);
        return false;
    }

  private Q_SLOTS:
    void initTestCase() {
        QFile f(TEST_DATA "/stages.json");
        QVERIFY(f.open(QIODevice::ReadOnly));
        file = json::parse(f.readAll().toStdString());
    }

    void voltsGainAndImpedanceAgree_data() { everyCase(); }
    void voltsGainAndImpedanceAgree() {
        QFETCH(QString, name);
        const json& c = theCase(name);
        const json& want = c.at("expected");
        const Schematic s = circuitFrom(c, file.at("laws"), {});
        QVERIFY2(s.defects().empty(), s.defects().empty() ? "" : s.defects()[0].text().c_str());
        Analysis a(s);
        const auto point = a.operatingPoint();
        QVERIFY2(point.ok(), point.ok() ? "" : point.problem().text().c_str());
        for (const auto& [net, volts] : want.at("volts").items())
            QVERIFY(near(point->volts(*s.findNet(net)), volts, 0.001, 0.02, net.c_str()));
        for (const auto& [net, amps] : want.at("drawn").items())
            QVERIFY(near(-point->amps(*s.pin("supply " + net, "+")), amps, 0.001, 1e-9, net.c_str()));
        const NetId out = *s.findNet(c.at("output").get<std::string>());
        const PartId in = *s.find("input");
        const auto at = [&](double hertz) { return a.gain(*point, in, out, hertz); };
        QVERIFY(near(std::abs(at(1000)), want.at("gain_1k"), 0.002, 0, "gain"));
        const double turned = std::remainder(
            std::arg(at(1000)) * 180 / std::numbers::pi - want.at("phase_1k_degrees").get<double>(), 360);
        QVERIFY2(std::abs(turned) < 0.2, qPrintable(QString::number(turned)));
        for (const auto& [hertz, level] : want.at("response_db_re_1k").items())
            QVERIFY(near(decibels(std::abs(at(std::stod(hertz)) / at(1000))), level, 0, 0.02, hertz.c_str()));
        QVERIFY(
            near(std::abs(a.impedance(*point, out, 1000)), want.at("output_impedance_1k_with_load"), 0.002, 0, "ohm"));
        // What the sources give, the parts take.
        double given = 0, most = 0;
        for (std::size_t k = 0; k < s.parts().size(); ++k) {
            given += point->watts({static_cast<int>(k)});
            most = std::max(most, std::abs(point->watts({static_cast<int>(k)})));
        }
        QVERIFY2(std::abs(given) < 1e-6 * most + 1e-9, qPrintable(QString::number(given)));
    }

    void theTonesAgree_data() { everyCase(); }
    void theTonesAgree() {
        QFETCH(QString, name);
        const json& c = theCase(name);
        if (!c.at("expected").contains("tone")) QSKIP("a network of resistors and capacitors");
        const json& want = c.at("expected").at("tone");
        const double hertz = want.at("hertz");
        const Schematic s =
            circuitFrom(c, file.at("laws"), {0, want.at("input_rms").get<double>() * std::numbers::sqrt2, hertz, 0});
        QElapsedTimer timer;
        timer.start();
        const auto t = steadyTone(s, hertz, *s.findNet(c.at("output").get<std::string>()));
        qInfo("%lld ms", static_cast<long long>(timer.elapsed()));
        QVERIFY2(t.ok(), t.ok() ? "" : t.problem().text().c_str());
        QVERIFY(near(t->outputRms, want.at("output_rms"), 0.002, 0, "output"));
        QVERIFY(near(t->thdPercent, want.at("thd_percent"), 0.02, 0, "THD"));
        for (std::size_t h = 0; h < want.at("harmonics_db").size(); ++h) {
            const double level = want.at("harmonics_db")[h];
            double strongest = -300;
            for (const json& other : want.at("harmonics_db")) strongest = std::max(strongest, other.get<double>());
            // A weak one beside a strong one is a difference of large numbers.
            if (level > -90 && level > strongest - 10)
                QVERIFY(near(decibels(t->harmonics[h + 1] / t->harmonics[0]), level, 0, 0.3, "harmonic"));
        }
    }

    /// The upper grid draws current from its divider: no trouble for the tone.
    void aCascodeWithALargePlateResistorIsSolved() {
        json c = theCase("cascode");
        for (json& p : c["parts"])
            if (p.at("id") == "ra") p["ohm"] = 33e3;
        for (const double volts : {0.005, 0.02, 0.1, 0.5}) {
            const Schematic s = circuitFrom(c, file.at("laws"), {0, volts * std::numbers::sqrt2, 1000, 0});
            const auto t = steadyTone(s, 1000, *s.findNet("out"));
            QVERIFY2(t.ok(), t.ok() ? "" : t.problem().text().c_str());
            if (volts > 0.01) continue;
            Analysis a(s);
            const auto point = a.operatingPoint();
            QVERIFY(near(t->outputRms / volts, std::abs(a.gain(*point, *s.find("input"), *s.findNet("out"), 1000)),
                         0.01, 0, "small tones have the small signal's gain"));
        }
    }
};

EMBER_TESTS(TestSchematic)
#include "test_schematic.moc"
