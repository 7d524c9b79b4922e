// dim-ember-cli: the same core without a window. JSON on stdout, sentences on stderr.
// Exit code: 0 fine, 1 findings at stop level, 2 wrong input.

#include "bench_commands.h"
#include "drawing_commands.h"
#include "figures_json.h"
#include "measure_commands.h"
#include "output.h"
#include "sound_commands.h"
#include "valve_commands.h"
#include "vary_commands.h"
#include "wire_commands.h"

#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/build/starts.h"
#include "core/build/storage.h"
#include "core/plan/amplifier_netlist.h"
#include "core/plan/as_built.h"
#include "core/plan/solve.h"
#include "core/plan/supply_case.h"
#include "core/procedure/first_power.h"
#include "core/quantity/quantity.h"
#include "core/report/report.h"
#include "core/schematic/path_schematic.h"
#include "core/wires/hum.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <chrono>
#include <ctime>
#include <fstream>
#include <map>
#include <sstream>

using namespace ember;
using namespace ember::cli;

namespace {

bool anyStop(const std::vector<rules::Finding>& all) {
    return std::any_of(all.begin(), all.end(),
                       [](const auto& f) { return f.level == rules::Level::Stop && !f.waived; });
}

struct Solved {
    Build build;
    plan::Figures figures;
    std::vector<rules::Finding> findings;
};

Solved solvedBuild(const Build& build) {
    Solved s{build, plan::solveFigures(build, catalogueOf(build)), {}};
    plan::completeFigures(s.build, catalogueOf(s.build), s.figures);
    wires::addWires(s.build, catalogueOf(s.build), s.figures);
    s.findings = rules::inspect(s.build, catalogueOf(s.build), s.figures);
    rules::tryMends(s.build, catalogueOf(s.build), s.findings);
    for (const auto& f : s.figures.failures) fmt::print(stderr, "{}\n", f);
    for (const Problem& p : schematic::pathProblems(build, catalogueOf(build))) fmt::print(stderr, "{}\n", p.text());
    return s;
}

Json everything(const Solved& s) {
    Json all = figuresJson(s.build, s.figures);
    all.update(schematicJson(s.build, catalogueOf(s.build), s.figures));
    return all;
}

Expected<Solved> solved(const std::string& file) {
    auto build = loadBuild(file);
    if (!build) return build.problem();
    return solvedBuild(*build);
}

int supply(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return refuse({file, "the file could not be opened"});
    std::ostringstream text;
    text << in.rdbuf();
    const auto cases = plan::supplyCasesFromText(text.str());
    if (!cases) return refuse({file + cases.problem().where, cases.problem().sentence});
    Json out = {{"cases", Json::array()}};
    int code = fine;
    for (const auto& c : *cases) {
        const auto f = plan::solveCase(c);
        if (!f) {
            fmt::print(stderr, "{}\n", f.problem().text());
            out["cases"].push_back({{"name", c.name}, {"figures", nullptr}});
            code = wrongInput;
        } else {
            out["cases"].push_back(plan::toJson(c, *f));
        }
    }
    print(out);
    return code;
}

int netlist(const std::string& file, const std::vector<std::string>& what, const std::string& analysis) {
    static const std::map<std::string, plan::NetlistAnalysis> analyses{
        {"op", plan::NetlistAnalysis::Op}, {"ac", plan::NetlistAnalysis::Ac}, {"tran", plan::NetlistAnalysis::Tran}};
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    auto part = plan::NetlistPart::All;
    std::size_t channel = 0;
    if (what[0] == "supply") {
        part = plan::NetlistPart::Supply;
    } else if (what[0] == "channel") {
        part = plan::NetlistPart::Channel;
        std::string known;
        channel = build->channels.size();
        for (std::size_t k = 0; k < build->channels.size(); ++k) {
            known += (known.empty() ? "" : ", ") + build->channels[k].id;
            if (what.size() > 1 && build->channels[k].id == what[1]) channel = k;
        }
        if (channel == build->channels.size())
            return refuse({"--what", fmt::format("name a channel of this build: {}", known)});
    } else if (what[0] != "all") {
        return refuse({"--what", "supply, channel ID or all is expected, not " + what[0]});
    }
    const auto steady = plan::solveSteady(*build, catalogueOf(*build), {build->mains.volts});
    if (!steady) return refuse(steady.problem());
    const auto text =
        plan::amplifierNetlist(*build, catalogueOf(*build), *steady, part, analyses.at(analysis), channel);
    if (!text) return refuse(text.problem());
    fmt::print("{}", *text);
    return fine;
}

/// Every pin of every bottle, at each stage of First Power.
int chart(const std::string& file) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    Json stages = Json::array();
    for (int k = 1; k < procedure::stageCount; ++k) {
        const auto s =
            plan::solveSteady(*build, catalogueOf(*build), procedure::stageConditions(*build, k, build->mains.volts));
        Json stage = {{"stage", k}, {"name", std::string(procedure::stageName(k))}};
        const auto f =
            s ? plan::schematicFigures(*build, catalogueOf(*build), *s) : Expected<plan::SchematicFigures>(s.problem());
        stage["pins"] = f ? pinsJson(*f) : Json(nullptr);
        if (!f) stage["problem"] = f.problem().text();
        stages.push_back(std::move(stage));
    }
    print({{"build", build->name}, {"stages", stages}});
    return fine;
}

/// A build of any version that is read, in the present one.
int convert(const std::string& file, const std::string& to) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    if (auto done = saveBuild(*build, to); !done) return refuse(done.problem());
    print({{"build", to}});
    return fine;
}

/// The starting points, or a build begun from one.
int beginNew(const std::string& id, const std::string& to, bool list) {
    if (list) {
        Json all = Json::array();
        for (const Start& s : starts())
            all.push_back({{"id", s.id}, {"title", s.build.name}, {"about", s.build.notes}});
        print({{"starts", all}});
        return fine;
    }
    const Start* start = startOf(id);
    if (!start) return refuse({"", fmt::format("there is no start \"{}\"; \"new --list\" shows them", id)});
    if (to.empty()) return refuse({"", "name the file to write: -o FILE.ember.json"});
    if (auto done = saveBuild(begunFrom(*start), to); !done) return refuse(done.problem());
    print({{"build", to}, {"start", id}});
    return fine;
}

int writeReport(const std::string& file, const std::string& to) {
    const auto s = solved(file);
    if (!s) return refuse(s.problem());
    char when[32];
    const std::time_t now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
    std::strftime(when, sizeof when, "%Y-%m-%d %H:%M", std::localtime(&now));
    if (auto done = saveText(report::html(s->build, catalogueOf(s->build), s->figures, s->findings, when), to); !done)
        return refuse(done.problem());
    print({{"report", to}});
    return anyStop(s->findings) ? stopFindings : fine;
}

} // namespace

int main(int argc, char** argv) {
    CLI::App app{"Dim Ember without a window: figures, findings, reports and measurements of a valve amplifier."};
    app.require_subcommand(1);
    int code = fine;
    std::string file, out, fault;
    double fullScale = 1, load = 0;
    int channel = 1, stage = 1;
    std::uint64_t seed = 1;

    auto* figures = app.add_subcommand("figures", "Everything that is computed from a build");
    figures->add_option("BUILD", file, "a build, *.ember.json")->required();
    int spreadOf = 0;
    figures->add_option("--spread", spreadOf, "also 5, 50 and 95 % of so many builds within their tolerances")
        ->check(CLI::Range(10, 100000));
    figures->callback([&] {
        const auto s = solved(file);
        if (!s) {
            code = refuse(s.problem());
            return;
        }
        Json all = everything(*s);
        if (spreadOf > 0) {
            plan::ToleranceOptions o;
            o.builds = spreadOf;
            const auto run = plan::toleranceRun(s->build, catalogueOf(s->build), plan::asBuiltOnRealMains, o);
            if (!run) {
                code = refuse(run.problem());
                return;
            }
            all["spread"] = spreadJson(*run);
        }
        print(all);
        code = anyStop(s->findings) ? stopFindings : fine;
    });
    auto* findings = app.add_subcommand("findings", "What is wrong or nearly so");
    findings->add_option("BUILD", file)->required();
    findings->callback([&] {
        const auto s = solved(file);
        if (!s) {
            code = refuse(s.problem());
            return;
        }
        print({{"findings", findingsJson(s->findings)}});
        code = anyStop(s->findings) ? stopFindings : fine;
    });
    auto* reports = app.add_subcommand("report", "The record as one HTML file");
    reports->add_option("BUILD", file)->required();
    reports->add_option("-o,--output", out, "FILE.html")->required();
    reports->callback([&] { code = writeReport(file, out); });
    auto* news = app.add_subcommand("new", "A build to begin from: a whole amplifier with sensible values");
    std::string start;
    bool list = false;
    news->add_option("START", start, "id of a starting point");
    news->add_option("-o,--output", out, "FILE.ember.json");
    news->add_flag("--list", list, "the starting points");
    news->callback([&] { code = beginNew(start, out, list); });
    auto* faulty =
        app.add_subcommand("faults", "Every fault that the build can have, or which ones explain some readings");
    faulty->add_option("BUILD", file)->required();
    const auto step = [](const std::string& said) {
        const auto known = procedure::stageNamed(said);
        return known ? std::to_string(*known) : said;
    };
    faulty->add_option("--stage", stage, "of First Power, 1 to 6 or its name")->transform(step);
    std::vector<std::string> reads, sets;
    faulty->add_option("--read", reads, "POINT=VALUE, as often as there are readings");
    faulty->callback([&] { code = faults(file, stage, reads); });
    auto* varies = app.add_subcommand("vary", "Figures with parts of other values");
    varies->add_option("BUILD", file)->required();
    varies->add_option("--set", sets, "PART=VALUE or PART.KEY=VALUE, as often as there are parts")->required();
    varies->callback([&] {
        const auto build = loadBuild(file);
        const auto other = build ? varied(*build, sets) : build;
        if (!other) {
            code = refuse(other.problem());
            return;
        }
        const Solved s = solvedBuild(*other);
        Json all = everything(s);
        print(all);
        code = anyStop(s.findings) ? stopFindings : fine;
    });
    auto* converts = app.add_subcommand("convert", "A build of an older version, written in the present one");
    converts->add_option("BUILD", file)->required();
    converts->add_option("-o,--output", out, "FILE.ember.json")->required();
    converts->callback([&] { code = convert(file, out); });
    auto* netlists = app.add_subcommand("netlist", "The amplifier as text for general circuit simulators");
    netlists->add_option("BUILD", file)->required();
    std::vector<std::string> what{"all"};
    std::string analysis = "op";
    netlists->add_option("--what", what, "supply, channel ID, or all")->expected(1, 2);
    netlists->add_option("--analysis", analysis, "operating point, small signals, or through time")
        ->check(CLI::IsMember({"op", "ac", "tran"}));
    netlists->callback([&] { code = netlist(file, what, analysis); });
    auto* charts =
        app.add_subcommand("chart", "The voltage chart: every pin of every valve, at each stage of First Power");
    charts->add_option("BUILD", file)->required();
    charts->callback([&] { code = chart(file); });
    struct WireCommand {
        const char *name, *about;
        int (*run)(const std::string&);
    };
    for (const WireCommand& c :
         {WireCommand{"wires", "Every wire: ends, length, gauge, colour, joints", tellWires},
          {"heaters", "Heater volts at every socket, at low, nominal and high mains", tellHeaters},
          {"grounds", "The return network: bonds, loops, and what it makes at the inputs", tellGrounds},
          {"hum", "Hum and noise at the outputs by source, and what would help most", tellHum}}) {
        auto* wireCommand = app.add_subcommand(c.name, c.about);
        wireCommand->add_option("BUILD", file)->required();
        wireCommand->callback([&code, &file, run = c.run] { code = run(file); });
    }
    addDrawingCommand(app, code);
    addFindCommand(app, code);
    addMeasureCommands(app, code);
    addSoundCommands(app, code);
    auto* supplies = app.add_subcommand("supply", "Rectifier supplies from a file of cases");
    supplies->add_option("FILE", file)->required();
    supplies->callback([&] { code = supply(file); });
    auto* valves = app.add_subcommand("valve", "A valve of the catalogue, or its current and slopes at a point");
    ValveAsked asked;
    valves->add_option("TYPE", asked.type)->required();
    valves->add_option("--section", asked.section, "1 is the first");
    valves->add_option("--plate", asked.plate, "[V] to the cathode");
    valves->add_option("--grid", asked.grid, "[V] to the cathode");
    valves->add_option("--screen", asked.screen, "[V] to the cathode");
    valves->callback([&] { code = valve(asked); });
    auto* fits = app.add_subcommand("fit", "A valve's law from points of a sheet or a curve tracer");
    fits->add_option("FILE", file, "JSON or a table with heads")->required();
    fits->callback([&] { code = fit(file); });
    auto* tones = app.add_subcommand("analyse", "Level, power, distortion of a captured tone");
    tones->add_option("FILE", file, "WAV or FLAC")->required();
    tones->add_option("--channel", channel, "1 is the first");
    tones->add_option("--full-scale", fullScale, "volts of a full-scale sample")->check(CLI::Range(1e-9, 1e6));
    auto* loadOption = tones->add_option("--load", load, "[ohm]")->check(CLI::Range(1e-3, 1e9));
    tones->callback(
        [&] { code = analyse(file, channel, fullScale, loadOption->count() ? std::optional(load) : std::nullopt); });
    auto* benches = app.add_subcommand("bench", "The virtual amplifier's readings at a stage of First Power");
    benches->add_option("BUILD", file)->required();
    benches->add_option("--seed", seed, "0: exactly as planned");
    benches->add_option("--fault", fault, "id of a hidden fault");
    benches->add_option("--stage", stage, "0 to 6, or its name")->transform(step)->required();
    std::string readings;
    benches->add_option("--readings", readings, "all: resistances with the plug out too")
        ->check(CLI::IsMember({"all"}));
    benches->callback([&] { code = practice(file, seed, fault, stage, !readings.empty()); });
    auto* plans = app.add_subcommand("plan", "The steps of First Power: what to do, where the leads go, ranges, stops");
    plans->add_option("BUILD", file)->required();
    plans->callback([&] { code = tellPlan(file); });
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? fine : wrongInput;
    }
    return code;
}
