// Laws of valves against all that is published of them, and laws of one's own.

#include "../support/published.h"
#include "../support/suite.h"

#include "core/catalogue/catalogue.h"
#include "core/catalogue/fit.h"
#include "core/catalogue/points_text.h"
#include "core/circuit/operating_point.h"
#include "core/circuit/periodic.h"

#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace ember;
using namespace ember::circuit;
using nlohmann::json;

namespace {

/// The figures of one published row beside the catalogue's.
struct Row {
    QString valve;
    QString figure;
    double published, computed, allowed;
    [[nodiscard]] bool met() const { return std::abs(computed / published - 1) <= allowed; }
};

PublishedPoint pointFrom(const json& p, bool strapped) {
    const double half = QString::fromStdString(p.value("note", "")).contains("both halves") ? 0.5 : 1;
    PublishedPoint x{p["plate"],
                     p.value("screen", 0.0),
                     p["grid"],
                     half * p["plate_current"].get<double>(),
                     p.value("screen_current", 0.0),
                     half * p.value("gm", 0.0),
                     p.value("mu", 0.0),
                     p.value("rp", 0.0) / half,
                     strapped,
                     false,
                     {}};
    return x;
}

PublishedOperation operationFrom(const json& p, bool pushPull) {
    PublishedOperation o;
    o.pushPull = pushPull;
    const std::string connection = p.value("connection", "");
    o.strapped = connection == "triode";
    o.plate = p.value("plate", 0.0), o.screen = p.value("screen", 0.0), o.grid = p.value("grid", 0.0);
    o.supply = p.value("supply", 0.0), o.screenSupply = p.value("screen_supply", 0.0);
    if (pushPull) o.cathodeOhms = p.value("cathode_resistor", p.value("cathode_resistor_each", 0.0) / 2);
    o.screenOhms = p.value("screen_resistor", 0.0), o.screenTap = p.value("screen_tap", 0.0);
    o.together = o.screenTap > 0;
    o.load = p["load"], o.drive = p.value("drive", 0.0), o.power = p["power"],
    o.thdPercent = p.value("thd_percent", 0.0);
    return o;
}

/// Every figure of the two files of published data.
std::vector<Row> everyFigure(const std::vector<json>& files) {
    std::vector<Row> out;
    const auto law = [](const json& p) -> const circuit::PortLaw* {
        const auto name = QString::fromStdString(p["type"]);
        const ValveType* v = Catalogue::shipped().valve(bareOf(name).section('/', 0, 0).toStdString());
        return v ? &v->section(sectionOf(name)).law : nullptr;
    };
    const auto add = [&](const json& p, const char* figure, double published, double computed, double allowed) {
        if (published != 0) out.push_back({QString::fromStdString(p["type"]), figure, published, computed, allowed});
    };
    const auto full = [&](const json& p, const Operation& done, bool both) {
        add(p, "power", p["power"], done.power, 0.12);
        add(p, "plate at full signal", p.value("plate_current_max_signal", 0.0), done.plateAmpsFull, 0.12);
        add(p, "screen at full signal", p.value("screen_current_max_signal", 0.0), done.screenAmpsFull, 0.12);
        if (!both) return;
        add(p, "plate at rest", p.value("plate_current_zero_signal", 0.0), done.plateAmpsRest, 0.10);
        add(p, "screen at rest", p.value("screen_current_zero_signal", 0.0), done.screenAmpsRest, 0.10);
    };
    for (const json& f : files) {
        for (const char* list : {"triodes", "pentodes", "triode_connected"})
            for (const json& p : f.value(list, json::array())) {
                const bool strapped = list == std::string("triode_connected");
                const circuit::PortLaw& l = *law(p);
                const PublishedPoint x = pointFrom(p, strapped);
                const ValveFigures v = figuresAt(l, x);
                add(p, "plate", x.plateAmps, v.plateAmps, 0.10);
                add(p, "screen", x.screenAmps, v.screenAmps, 0.10);
                add(p, "gm", x.gm, v.gm, 0.15);
                add(p, "mu", x.mu, v.mu, 0.15);
                add(p, "rp", x.rp, v.rp, 0.15);
                if (!p.contains("power")) continue;
                PublishedOperation o = operationFrom(p, false);
                o.strapped = strapped;
                full(p, operate(l, o), false);
            }
        for (const json& p : f.value("cutoff", json::array())) {
            PublishedPoint x = pointFrom(p, p.value("connection", "") == "triode");
            x.cutoff = true;
            add(p, "cut-off", x.grid, gridForCurrent(*law(p), x), 0.20);
        }
        for (const json& p : f.value("push_pull", json::array()))
            full(p, operate(*law(p), operationFrom(p, true)), true);
        for (const json& p : f.value("stages", json::array())) {
            const Amplified g = amplify(*law(p), {p["supply"],
                                                  p["plate_load"],
                                                  p["cathode_resistor"],
                                                  p["next_grid_leak"],
                                                  p["plate_current"],
                                                  p["gain"],
                                                  {}});
            add(p, "plate", p["plate_current"], g.plateAmps, 0.10);
            add(p, "gain", p["gain"], g.gain, 0.08);
        }
    }
    return out;
}

/// A published operation as a circuit: the solver, a near-ideal transformer, 1 kHz at the grids.
Operation asACircuit(const circuit::PortLaw& law, const PublishedOperation& o) {
    const bool pentode = std::holds_alternative<circuit::PentodeLaw>(law);
    Netlist n;
    const Node supply = n.node("supply"), screen = n.node("screen"), out = n.node("out");
    n.add(VoltageSource{supply, ground, {o.plate}});
    n.add(VoltageSource{screen, ground, {o.screen}});
    std::vector<Winding> windings;
    const auto valve = [&](const char* name, double drive) {
        const Node a = n.node(std::string("plate ") + name), g = n.node(std::string("grid ") + name);
        n.add(VoltageSource{g, ground, {o.grid, drive, 1000, 0}});
        if (pentode)
            n.add(NonlinearDevice{{g, screen, a, ground}, law});
        else
            n.add(NonlinearDevice{{g, a, ground}, law});
        return a;
    };
    const Node a = valve("a", o.pushPull ? o.drive / 2 : o.drive);
    if (o.pushPull) {
        const Node b = valve("b", -o.drive / 2);
        n.add(Transformer{{{supply, a, 1, 0.01}, {b, supply, 1, 0.01}, {out, ground, 2, 0.01}}, 30});
    } else {
        n.add(Transformer{{{supply, a, 1, 0.01}, {out, ground, 1, 0.01}}, 30});
    }
    n.add(Resistor{out, ground, o.load});
    const System sys = assemble(n);
    const auto op = operatingPoint(sys);
    if (!op) return {};
    PeriodicOptions options;
    options.period = 1e-3;
    Recording r({nodeVolts(sys, out)});
    Stepper stepper = periodicStepper(sys, options);
    stepper.portSolver().volts() = op->portVolts;
    if (!periodicSteadyState(stepper, op->y, options, &r)) return {};
    double sum = 0;
    for (const double v : r.evenly(0, 0, 1e-3, 128)) sum += v * v;
    Operation done;
    done.power = sum / 128 / o.load;
    return done;
}

} // namespace

class TestValveFits : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// At least 95 of 100 published figures: currents within 10 %, slopes 15 %, cut-off 20 %, gains 8 %, powers and
    /// currents of operations 12 %.
    void meetsPublishedFigures() {
        const auto rows = everyFigure(files);
        QVERIFY(rows.size() > 700);
        qsizetype met = 0;
        for (const Row& r : rows) {
            met += r.met();
            QVERIFY2(std::isfinite(r.computed) && r.computed / r.published > 0.5 && r.computed / r.published < 2,
                     qPrintable(QString("%1 %2: %3 for %4").arg(r.valve, r.figure).arg(r.computed).arg(r.published)));
        }
        QVERIFY2(100 * met >= 95 * static_cast<qsizetype>(rows.size()),
                 qPrintable(QString("%1 of %2").arg(met).arg(rows.size())));
    }

    /// What everybody builds with is met in every figure.
    void theUsualTypesAreMetThroughout_data() {
        QTest::addColumn<QString>("type");
        for (const char* t : {"ECC83/12AX7", "ECC82/12AU7", "ECC81/12AT7", "ECC85/6AQ8", "ECC88/6DJ8", "EL84/6BQ5",
                              "6SN7GT", "EF86/6267", "300B", "2A3", "ECL86 pentode", "ECL82/6BM8 triode"})
            QTest::newRow(t) << QString(t);
    }
    void theUsualTypesAreMetThroughout() {
        QFETCH(QString, type);
        int rows = 0;
        for (const Row& r : everyFigure(files))
            if (r.valve == type) {
                ++rows;
                QVERIFY2(r.met(), qPrintable(QString("%1: %2 for %3").arg(r.figure).arg(r.computed).arg(r.published)));
            }
        QVERIFY(rows > 0);
    }

    /// The quick way of the fits against the solver on the circuit: the same powers.
    void operationsAreWhatTheSolverFinds_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<PublishedOperation>("as");
        PublishedOperation o;
        o.plate = 250, o.screen = 250, o.grid = -7.3, o.load = 5200, o.drive = 6;
        QTest::newRow("single pentode") << "EL84" << o;
        o.pushPull = true, o.grid = -11.6, o.load = 8000, o.drive = 20;
        QTest::newRow("push-pull, class AB") << "EL84" << o;
        PublishedOperation t;
        t.plate = 250, t.grid = -45, t.load = 2500, t.drive = 40;
        QTest::newRow("single triode") << "2A3" << t;
    }
    void operationsAreWhatTheSolverFinds() {
        QFETCH(QString, type);
        QFETCH(PublishedOperation, as);
        const auto& law = Catalogue::shipped().valve(type.toStdString())->section(1).law;
        const double quick = operate(law, as).power, solved = asACircuit(law, as).power;
        QVERIFY2(std::abs(quick / solved - 1) < 0.01, qPrintable(QString("%1 against %2").arg(quick).arg(solved)));
    }

    /// A law's own currents as points give the law's figures back, and a point that is wrong is named.
    void aValveOfOnesOwnIsFittedFromATable() {
        const auto& law = Catalogue::shipped().valve("ECC85")->section(1).law;
        std::string table = "Va [V];Vg;Ia (mA)\n";
        for (double plate = 60; plate <= 260; plate += 40)
            for (double grid = -3; grid <= -0.5; grid += 0.5)
                table += QString("%1;%2;%3\n")
                             .arg(plate)
                             .arg(grid)
                             .arg(1e3 * figuresAt(law, plate, grid, 0).plateAmps)
                             .replace('.', ',')
                             .toStdString();
        const auto read = pointsFromText(table);
        QVERIFY2(read.ok(), read ? "" : read.problem().text().c_str());
        const auto fitted = fitLaw(circuit::TriodeLaw{}, read->data);
        for (const auto& [plate, grid] : {std::pair{100.0, -1.0}, {200.0, -2.0}, {250.0, -2.5}}) {
            const auto own = figuresAt(law, plate, grid, 0), f = figuresAt(fitted, plate, grid, 0);
            QVERIFY2(std::abs(f.plateAmps / own.plateAmps - 1) < 0.05 && std::abs(f.gm / own.gm - 1) < 0.08,
                     qPrintable(QString("%1 for %2").arg(f.plateAmps).arg(own.plateAmps)));
        }
        QVERIFY(misfits(fitted, read->data).empty());
        PublishedData wrong = read->data;
        wrong.points[10].plateAmps *= 4;
        const auto named = misfits(fitLaw(circuit::TriodeLaw{}, wrong), wrong);
        QVERIFY(!named.empty() &&
                QString::fromStdString(named[0]).contains(QString("plate %1 V").arg(wrong.points[10].plate)));
    }

    /// A law for any points, however odd, is finite.
    void oddPointsGiveASentenceOrAFiniteLaw() {
        for (const char* text : {"", "Va,Vg\n1,2", "Va,Vg,Ia\n100,-1,x", "Va,Vg,Ia\n0,0,0", "{\"points\": []}", "{",
                                 "{\"points\": [{\"plate\": 1e99, \"grid\": 0, \"plate_current\": 1}]}",
                                 "{\"points\": [{\"plate\": 100, \"grid\": -1, \"plate_current\": -1}]}"}) {
            const auto read = pointsFromText(text);
            QVERIFY2(!read && !read.problem().sentence.empty(), text);
        }
        for (const char* text :
             {"Va,Vg,Ia\n100,-1,1\n100,-1,4", "Va,Vg,Ia\n1,-900,9000", "Va,Vs,Vg,Ia,Is\n300,1,0,1,9"}) {
            const auto read = pointsFromText(text);
            QVERIFY2(read.ok(), text);
            const auto law =
                fitLaw(read->pentode ? circuit::PortLaw(circuit::PentodeLaw{}) : circuit::TriodeLaw{}, read->data);
            for (const double grid : {-50.0, -1.0, 0.0, 5.0})
                QVERIFY(std::isfinite(figuresAt(law, 200, grid, 200).plateAmps));
        }
    }

    /// Grid current begins below the cathode's volts and has no corner.
    void gridCurrentBeginsAtTheContactPotential() {
        for (const ValveType& v : Catalogue::shipped().valves) {
            const auto& law = v.section(1).law;
            const auto amps = [&](double grid) {
                const double volts[3] = {grid, 200, 200};
                double i[3], g[9];
                circuit::evaluate(law, 1, volts, i, g);
                return i[0];
            };
            // Along a filament the volts differ by its own; its half that is more negative is reached first.
            const double along = v.heater.directlyHeated ? v.heater.volts : 0;
            QVERIFY2(amps(-3 - 2 * along) < 1e-9 && amps(0) > 1e-7, v.type.c_str());
            QVERIFY2(amps(1 + along) > 20 * amps(-0.5 - along), v.type.c_str());
            double before = 0;
            for (double grid = -2; grid < 1; grid += 0.01) {
                const double now = amps(grid);
                QVERIFY2(now >= before && (grid == -2 || now - before < 3e-5), v.type.c_str());
                before = now;
            }
        }
    }

  private:
    const std::vector<json> files = publishedFiles();

    /// The catalogue's laws are what its own tool makes of the published figures: fitted again they stay.
    void theCatalogueIsWhatItsToolFits_data() {
        QTest::addColumn<QString>("type");
        for (const char* type : {"EL84", "ECC85", "ECC83"}) QTest::newRow(type) << type;
    }
    void theCatalogueIsWhatItsToolFits() {
        QFETCH(QString, type);
        const TypeSection& s = Catalogue::shipped().valve(type.toStdString())->section(1);
        const nlohmann::json kept = lawToJson(s.law), again = lawToJson(fitLaw(s.law, s.published));
        for (const auto& [key, value] : kept.items()) {
            const double a = value.get<double>(), z = again[key].get<double>();
            QVERIFY2(std::abs(z - a) <= 0.005 * std::abs(a),
                     qPrintable(QString("%1: %2, fitted again %3").arg(QString::fromStdString(key)).arg(a).arg(z)));
        }
    }

    /// What a reader of the catalogue cannot use it names by type and key.
    void aWrongEntryIsNamed() {
        const auto read = [](const char* heater) {
            return Catalogue::read(QString(R"({"valves":[{"type":"V9","names":["V9"],"heater":%1,"sections":[]}]})")
                                       .arg(heater)
                                       .toStdString(),
                                   R"({"rectifiers":[],"silicon":[]})",
                                   R"({"lamps":[{"volts":1,"watts":1,"kelvin":1,"timeConstant":1}]})");
        };
        QVERIFY(read(R"({"volts":6.3,"amps":0.3,"directlyHeated":false,"warmUp":11})"));
        const auto missing = read(R"({"volts":6.3,"directlyHeated":false,"warmUp":11})"),
                   wrong = read(R"({"volts":null,"amps":0.3,"directlyHeated":false,"warmUp":11})");
        QVERIFY(!missing && missing.problem().text() == "V9: \"amps\" is missing");
        QVERIFY(!wrong && wrong.problem().text() == "V9: \"volts\" is null, which it cannot be");
    }
};

EMBER_TESTS(TestValveFits)
#include "test_valve_fits.moc"
