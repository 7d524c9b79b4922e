// The command line as its users call it.

#include "../support/suite.h"
#include "../support/wait.h"

#include "core/build/build.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>

using ember::Json;

namespace {

struct Outcome {
    int code;
    Json out;
    QString err;
};

Outcome cli(const QStringList& arguments) {
    QProcess p;
    p.start(BIN_DIR "/dim-ember-cli", arguments);
    p.waitForFinished(ember::tests::longest());
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1,
            Json::parse(p.readAllStandardOutput().toStdString(), nullptr, false),
            QString::fromUtf8(p.readAllStandardError())};
}

const QString demo = PROJECT_DIR "/data/demo/larkfield.ember.json";

/// The demo's figures, asked once.
const Outcome& figuresOfDemo() {
    static const Outcome r = cli({"figures", demo});
    return r;
}

} // namespace

class TestCommandLine : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void theReadmeNamesEveryCommandAndEveryPicture() {
        QProcess p;
        p.start(BIN_DIR "/dim-ember-cli", {"--help"});
        QVERIFY(p.waitForFinished(ember::tests::longest()));
        const QString help = QString::fromUtf8(p.readAllStandardOutput()).section("Subcommands:", 1);
        QFile file(PROJECT_DIR "/README.md");
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QString readme = QString::fromUtf8(file.readAll());
        int commands = 0;
        for (const QString& line : help.split('\n')) {
            const QString name = line.startsWith("  ") ? line.mid(2).section(' ', 0, 0) : QString();
            if (name.isEmpty()) continue;
            ++commands;
            QVERIFY2(readme.contains("`" + name + "`"), qPrintable(name));
        }
        QVERIFY(commands > 20);
        for (const QString& picture : QDir(PROJECT_DIR "/docs/screenshots").entryList({"*.png"}))
            QVERIFY2(readme.contains("docs/screenshots/" + picture), qPrintable(picture));
    }
    /// The drawing as others can check it: every body once, every wire on a net, no two boxes on each other.
    void aDrawingIsWritten() {
        QTemporaryDir folder;
        const QString json = folder.filePath("left.json"), svg = folder.filePath("left.svg");
        QCOMPARE(cli({"drawing", demo, "-o", json}).code, 0);
        QFile file(json);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const Json d = Json::parse(file.readAll().toStdString());
        const auto& boxes = d["boxes"];
        QVERIFY(boxes.size() > 60 && d["wires"].size() > 30 && d["pins"].size() > 60);
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (std::size_t k = 0; k < i; ++k) {
                const auto apart = [&](const char* at, const char* size) {
                    const double a = boxes[i][at], b = boxes[k][at];
                    return a + boxes[i][size].get<double>() < b + 0.01 || b + boxes[k][size].get<double>() < a + 0.01;
                };
                QVERIFY2(apart("x", "width") || apart("y", "height"),
                         (boxes[i]["id"].get<std::string>() + " on " + boxes[k]["id"].get<std::string>()).c_str());
            }
        QCOMPARE(cli({"drawing", demo, "--channel", "right", "--volts", "-o", svg}).code, 0);
        QVERIFY(QFileInfo(svg).size() > 5000);
        const Outcome other = cli({"drawing", demo, "--channel", "middle", "-o", svg});
        QVERIFY(other.code == 2 && other.err.contains("left, right"));
        QCOMPARE(cli({"drawing", demo, "-o", folder.filePath("left.gif")}).code, 2);
    }
    void figuresCoverTheBuild() {
        const Outcome& r = figuresOfDemo();
        QCOMPARE(r.code, 0);
        QVERIFY(r.out["mains_nominal"]["nodes"].size() == 3);
        QVERIFY(r.out["power"][0]["watts_at_3_percent"].get<double>() > 5);
        QVERIFY(r.out["failures"].empty());
    }
    void figuresSayAllThatTheSupplyDoes() {
        const Outcome& r = figuresOfDemo();
        const Json& n = r.out["mains_nominal"];
        for (const char* key : {"rectifier_peak_current", "rectifier_mean_current", "rectifier_inverse_volts",
                                "winding_rms_current_per_leg", "mains_rms_current", "mains_watts", "power_factor",
                                "transformer_copper_watts", "bias_rail"})
            QVERIFY2(n.contains(key) && n[key].is_number(), key);
        QVERIFY(n["leg_resistor_watts"].is_null()); // the demo has none
        const Json& bias = n["bias_range"];
        QVERIFY(bias["coldest"] < bias["hottest"] && bias["hottest"] < 0);
        for (const Json& grid : n["bias_at_grids"]) QVERIFY(grid >= bias["coldest"] && grid <= bias["hottest"]);
        for (const Json& node : n["nodes"]) QVERIFY(node["ripple_harmonics"].size() >= 10);
        // Through time: the highest is above what it settles at, and it falls to 10 V after it falls to 50 V.
        QVERIFY(r.out["switch_on"]["highest"][0] > n["nodes"][0]["mean"]);
        for (const Json& fall : r.out["switch_off_seconds"]) {
            QVERIFY(fall["to_10_v"] > fall["to_50_v"]);
            QVERIFY(fall.contains("to_10_v_valves_cold"));
        }
        QVERIFY(r.out["bass_note"]["more_amps"] > 0.01);
        QVERIFY(r.out["bass_note"]["lowest"][1] < n["nodes"][1]["mean"]);
        const Json& draws = r.out["power"][0]["more_from_supply_at_clipping"];
        double screens = 0, others = 0;
        for (const Json& d : draws) (d["screens"].get<bool>() ? screens : others) += d["amps"].get<double>();
        QVERIFY(others > 0.005 && screens > 0);
        QVERIFY(r.out["fuse"]["amps"] > n["mains_rms_current"]);
        QVERIFY(r.out["impedance"]["ohms"].size() == 3 && r.out["impedance"]["source_ohms"] > 10);
        QVERIFY(r.out["within_by_winding"]["b1.mean"] > 1);
    }
    void aFindingsPatchMendsTheFile() {
        // A script may take the fixes as they are printed: each is a JSON Patch (RFC 6902) on the file.
        QFile f(demo);
        QVERIFY(f.open(QIODevice::ReadOnly));
        Json build = Json::parse(f.readAll().toStdString());
        build["supply"]["sections"][0]["volts"] = 250;
        build["supply"]["rectifier"]["legResistance"] = 100;
        build["supply"]["rectifier"]["legWatts"] = 0.5;
        QTemporaryDir dir;
        const auto inspected = [&] {
            QFile out(dir.filePath("b.ember.json"));
            if (!out.open(QIODevice::WriteOnly)) qFatal("not written");
            out.write(QByteArray::fromStdString(build.dump()));
            out.close();
            return cli({"findings", out.fileName()}).out["findings"];
        };
        const auto holds = [](const Json& all, const std::string& id) {
            return std::any_of(all.begin(), all.end(), [&](const Json& x) { return x["id"] == id; });
        };
        const Json before = inspected();
        for (const char* id : {"capacitor-volts/c1", "leg-watts"}) {
            QVERIFY2(holds(before, id), id);
            for (const Json& x : before)
                if (x["id"] == id) build = build.patch(x["fix"]["patch"]);
        }
        const Json after = inspected();
        for (const char* id : {"capacitor-volts/c1", "leg-watts"}) QVERIFY2(!holds(after, id), id);
    }
    void findingsAtStopLevelAreExitCodeOne() {
        QCOMPARE(cli({"findings", demo}).code, 0);
        QTemporaryDir dir;
        QFile f(demo);
        QVERIFY(f.open(QIODevice::ReadOnly));
        Json j = Json::parse(f.readAll().toStdString());
        j["supply"]["sections"][0]["volts"] = 250;
        QFile bad(dir.filePath("bad.ember.json"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write(QByteArray::fromStdString(j.dump()));
        bad.close();
        const Outcome r = cli({"findings", bad.fileName()});
        QCOMPARE(r.code, 1);
        QCOMPARE(r.out["findings"][0]["level"].get<std::string>(), std::string("stop"));
    }
    void aSupplyFileGivesTheKeysOfItsExpected() {
        const Outcome r = cli({"supply", TEST_DATA "/rectifier_supplies.json"});
        QCOMPARE(r.code, 0);
        QCOMPARE(r.out["cases"].size(), std::size_t(6));
        QVERIFY(r.out["cases"][1]["figures"]["choke_mean_current"].size() == 1);
        QVERIFY(std::abs(r.out["cases"][0]["figures"]["nodes"][0]["mean"].get<double>() / 313.1378 - 1) < 0.0005);
    }
    void valvesByAnyDesignation() {
        const Outcome r = cli({"valve", "6BQ5", "--plate", "250", "--grid", "-7.3", "--screen", "250"});
        QCOMPARE(r.code, 0);
        QVERIFY(std::abs(r.out["plate_current"].get<double>() / 0.048 - 1) < 0.1);
        QCOMPARE(cli({"valve", "6BQ5", "--plate", "250", "--grid", "-7.3"}).code, 2);
        QCOMPARE(cli({"valve", "nonsense", "--plate", "250", "--grid", "-1"}).code, 2);
        QVERIFY(cli({"valve", "ECC85", "--plate", "250", "--grid", "-2.3"}).out["screen_current"].is_null());
    }
    void practiceReadingsRepeatBySeed() {
        const Outcome a = cli({"bench", demo, "--stage", "2", "--seed", "4"}),
                      b = cli({"bench", demo, "--stage", "2", "--seed", "4"});
        QCOMPARE(a.code, 0);
        QVERIFY(a.out == b.out);
        QVERIFY(!(cli({"bench", demo, "--stage", "2", "--seed", "5"}).out == a.out));
        const Outcome bad = cli({"bench", demo, "--stage", "2", "--fault", "gremlins"});
        QCOMPARE(bad.code, 2);
        QVERIFY(bad.err.contains("leaky/c1"));
    }
    void aBuildBeginsFromAStartAndIsVaried() {
        QTemporaryDir dir;
        const Outcome list = cli({"new", "--list"});
        QCOMPARE(list.code, 0);
        QVERIFY(list.out["starts"].size() >= 10 && list.out["starts"][0].contains("title"));
        const QString file = dir.filePath("a.ember.json");
        QCOMPARE(cli({"new", "line-stage", "-o", file}).code, 0);
        QCOMPARE(cli({"new", "nobody", "-o", file}).code, 2);
        const Outcome plain = cli({"figures", file}),
                      other = cli({"vary", file, "--set", "r12=100k", "--set", "c1.volts=400"});
        QVERIFY(other.out["pins"]["v2"]["1"]["volts"] < plain.out["pins"]["v2"]["1"]["volts"]);
        QCOMPARE(cli({"vary", file, "--set", "r999=1"}).code, 2);
        // The other way round: the same part, to the figure that it had.
        const auto names = cli({"find", demo});
        QVERIFY(names.out["figures"].size() > 50);
        const auto found = cli({"find", demo, "--part", "r1", "--figure", "b3.mean", "--target", "240V"});
        QVERIFY2(found.code == 0, qPrintable(found.err));
        QVERIFY(found.out["below"]["value"] < found.out["exact"] && found.out["exact"] < found.out["above"]["value"]);
        QVERIFY(found.out["below"]["figure"] > 240.0);
        QVERIFY(cli({"find", demo, "--part", "r1", "--figure", "loudness", "--target", "1"}).err.contains("loudness"));
        QCOMPARE(cli({"find", demo, "--part", "r1", "--figure", "b3.mean", "--target", "lots"}).code, 2);
        QVERIFY(cli({"vary", file, "--set", "r12=lots"}).err.contains("r12"));
        QCOMPARE(
            cli({"convert", PROJECT_DIR "/tests/data/version-1.ember.json", "-o", dir.filePath("b.ember.json")}).code,
            0);
        QVERIFY(cli({"findings", dir.filePath("b.ember.json")}).out.contains("findings"));
    }
    void faultsAreListedAndRanked() {
        const Outcome all = cli({"faults", demo});
        QCOMPARE(all.code, 0);
        QVERIFY(all.out["faults"].size() > 250);
        const Outcome ranked =
            cli({"faults", demo, "--stage", "3", "--read", "plate1-v2=240", "--read", "cathode1-v2=0"});
        QCOMPARE(ranked.code, 0);
        QVERIFY(ranked.out["healthy_share"] < 0.05 && ranked.out["faults"][0]["share"] > 0.02);
        QCOMPARE(ranked.out["faults"][0]["probability"], ranked.out["faults"][0]["share"]);
        const Outcome one = cli({"faults", demo, "--stage", "3", "--read", "plate1-v2=30"});
        const Json& next = one.out["next"];
        QVERIFY(next.is_object());
        QVERIFY(next["bits"] > 0.05 && (next["power"] == "on" || next["power"] == "off"));
        QVERIFY(!next["why"].get<std::string>().empty() && next["point"] != "plate1-v2");
        // The step by its name, and a resistance among the readings.
        const Outcome named = cli({"faults", demo, "--stage", "small valves", "--read", "plate1-v2=240", "--read",
                                   "cathode1-v2=0", "--read", "cathode-ohms-1-v2=OL"});
        QVERIFY2(named.code == 0 && named.out["stage"] == 3, qPrintable(named.err));
        QCOMPARE(cli({"faults", demo, "--stage", "3", "--read", "plate9-v2=240"}).code, 2);
        QCOMPARE(cli({"faults", demo, "--stage", "soaking", "--read", "plate1-v2=240"}).code, 2);
    }
    void thePlanOfThePowerUpIsPrinted() {
        const Outcome p = cli({"plan", demo});
        QVERIFY2(p.code == 0, qPrintable(p.err));
        QCOMPARE(p.out["steps"].size(), std::size_t(7));
        const Json& rectifier = p.out["steps"][2];
        QCOMPARE(rectifier["name"], Json("rectifier"));
        QVERIFY(rectifier["lamp"]["watts"] == 100.0 && rectifier["discharge_seconds"] > 30.0);
        for (const Json& step : p.out["steps"])
            for (const Json& r : step["readings"])
                for (const char* key : {"point", "label", "black", "red", "meter", "low", "high", "stop_above"})
                    QVERIFY2(r.contains(key), key);
        // Without a valve in, nothing is read at its plate.
        for (const Json& r : rectifier["readings"]) QVERIFY(r["point"] != "output-plate-v3");
    }
    void everyResistanceIsReadOnThePracticeBench() {
        const Outcome few = cli({"bench", demo, "--stage", "4", "--seed", "3"}),
                      all = cli({"bench", demo, "--stage", "output valves", "--seed", "3", "--readings", "all"});
        QVERIFY2(all.code == 0, qPrintable(all.err));
        QVERIFY(all.out["readings"].size() > few.out["readings"].size() + 20);
        // Within 10 %: the first stage's grid leak of 1 Mohm with nothing plugged in, its cathode's 1.8 kohm and 100
        // ohm, a sense resistor of 10 ohm.
        int read = 0;
        for (const Json& r : all.out["readings"]) {
            if (r["point"] == "grid-ohms-1-v2") read += r["value"] > 0.9e6 && r["value"] < 1.1e6;
            if (r["point"] == "cathode-ohms-1-v2") read += r["value"] > 1710.0 && r["value"] < 2090.0;
            if (r["point"] == "cathode-ohms-v3") read += r["value"] > 9.0 && r["value"] < 11.0;
        }
        QCOMPARE(read, 3);
    }
    void aReportIsWritten() {
        QTemporaryDir dir;
        QCOMPARE(cli({"report", demo, "-o", dir.filePath("r.html")}).code, 0);
        QVERIFY(QFile(dir.filePath("r.html")).size() > 3000);
        QCOMPARE(cli({"report", demo, "-o", "/nowhere/r.html"}).code, 2);
    }
    void wiresHeatersGroundsAndHumAreToldAsJson() {
        const Outcome w = cli({"wires", demo});
        QVERIFY(w.code == 0 && w.out["wires"].size() > 50);
        for (const Json& wire : w.out["wires"])
            for (const char* key : {"id", "from", "to", "net", "length", "area_m2", "colour", "twisted_with", "state"})
                QVERIFY2(wire.contains(key), key);
        const Outcome h = cli({"heaters", demo});
        const Json& first = h.out["windings"][0];
        QVERIFY(first["low"]["volts"] < first["nominal"]["volts"] &&
                first["nominal"]["volts"] < first["high"]["volts"]);
        QVERIFY(first["sockets"].size() == 6 && first["sockets"][5]["heater_cathode_volts"] < -70);
        const Outcome g = cli({"grounds", demo});
        QVERIFY(g.out["bonds"].size() == 1 && g.out["loops"].empty() && g.out["inputs"].size() == 2 &&
                g.out["inputs"][0]["rms"] > 0);
        const Outcome hum = cli({"hum", demo});
        QVERIFY(hum.code == 0 && hum.out["channels"].size() == 2);
        const Json& left = hum.out["channels"][0];
        double square = std::pow(left["sources"]["noise"].get<double>(), 2);
        for (const Json& line : left["lines"]) square += std::pow(line["rms"].get<double>(), 2);
        QVERIFY(std::abs(std::sqrt(square) / left["rms"].get<double>() - 1) < 1e-6);
        QVERIFY(left["below_rated_db"] > 60 && left["a_weighted"] < left["rms"]);
        QVERIFY(!hum.out["helps"].empty() && hum.out["helps"][0]["db"] > 6 && hum.out["helps"][0]["patch"].is_array());
    }
    void aStimulusIsPlayedAndMeasured() {
        QTemporaryDir dir;
        const QString sweep = dir.filePath("sweep.wav"), two = dir.filePath("two.wav");
        QCOMPARE(cli({"stimulus", "sweep", "--seconds", "3", "-o", sweep}).code, 0);
        const Outcome r = cli({"measure", "response", sweep, "--stimulus", sweep});
        QVERIFY(r.code == 0 && r.out["minus3_low_hz"].is_null() && r.out["trust"].empty());
        for (const Json& p : r.out["response"]) QVERIFY(std::abs(p["db"].get<double>()) < 0.02);
        QCOMPARE(cli({"stimulus", "imd", "--seconds", "3", "-o", two}).code, 0);
        QVERIFY(cli({"measure", "imd", two}).out["percent"] < 1e-3);
        const Outcome noise = cli({"measure", "noise", two, "--full-scale", "10", "--rated", "10"});
        QVERIFY(noise.out["rms"] > 1 && noise.out["below_rated_db"].is_number());
        QCOMPARE(cli({"measure", "square", dir.filePath("none.wav")}).code, 2);
        const Outcome wrong = cli({"stimulus", "wobble", "-o", two});
        QVERIFY(wrong.code == 2 && wrong.err.contains("sweep, tone, square"));
    }
    void wrongInputIsExitCodeTwoAndASentence() {
        for (const QStringList& a : {QStringList{"figures", "/none"},
                                     {"supply", "/none"},
                                     {"analyse", demo},
                                     {"figures", TEST_DATA "/valve_points.json"},
                                     {"nonsense"},
                                     {},
                                     {"valve"}}) {
            const Outcome r = cli(a);
            QCOMPARE(r.code, 2);
            QVERIFY(!r.err.isEmpty());
        }
        QCOMPARE(cli({"--help"}).code, 0);
        QCOMPARE(cli({"analyse", "--help"}).code, 0);
    }
};

EMBER_TESTS(TestCommandLine)
#include "test_command_line.moc"
