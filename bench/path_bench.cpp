// Paths of stages: operating point and tone of every start against a general circuit simulator as a whole process on
// the same netlist, process start included on both sides; the bands' and the ranking's time; a path of 40 stages.
#include "core/bench/virtual_amplifier.h"
#include "core/build/starts.h"
#include "core/plan/amplifier_netlist.h"
#include "core/plan/solve.h"
#include "core/plan/tone.h"
#include "core/procedure/suspects.h"
#include "core/schematic/solve.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <sys/wait.h>

using namespace ember;
using namespace ember::plan;

namespace {

const Catalogue& catalogue = Catalogue::shipped();

double milliseconds(const auto& work) {
    const auto from = std::chrono::steady_clock::now();
    work();
    return 1e3 * std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

double best(int times, const auto& work) {
    double least = 1e12;
    for (int k = 0; k < times; ++k) least = std::min(least, milliseconds(work));
    return least;
}

double median(int times, const auto& work) {
    std::vector<double> all;
    for (int k = 0; k < times; ++k) all.push_back(milliseconds(work));
    std::nth_element(all.begin(), all.begin() + times / 2, all.end());
    return all[static_cast<std::size_t>(times / 2)];
}

/// The simulator in batch mode on this text [ms], the best of so many runs. 0: it did not run; one that has not ended
/// after a minute counts as a minute.
double spice(const std::string& text, int times) {
    const auto file = std::filesystem::temp_directory_path() / "path-bench.cir";
    std::ofstream(file) << text;
    const std::string command = "timeout 60 ngspice -b " + file.string() + " > /dev/null 2>&1";
    int code = 0;
    const double ms = best(times, [&] { code = std::system(command.c_str()); });
    return code == 0 || WEXITSTATUS(code) == 124 ? ms : 0;
}

} // namespace

int main() {
    double logs = 0, toneLogs = 0;
    int count = 0, tones = 0;
    for (const Start& s : starts()) {
        if (s.build.channels.empty() || s.build.bottles.empty()) continue;
        const auto steady = solveSteady(s.build, catalogue, {s.build.mains.volts});
        if (!steady) continue;
        const auto text = amplifierNetlist(s.build, catalogue, *steady, NetlistPart::Channel, NetlistAnalysis::Op, 0);
        const HeldChannel held = heldChannel(s.build, catalogue, 0, supplyOf(s.build, *steady));
        const double own = best(20, [&] {
            schematic::Analysis a(held.schematic);
            (void)a.operatingPoint();
        });
        const double peer = spice(*text, 3);
        // A tone: 200 periods at a 400th of the period each, as its coupling capacitors want at least.
        std::string tran =
            *amplifierNetlist(s.build, catalogue, *steady, NetlistPart::Channel, NetlistAnalysis::Tran, 0);
        ToneRun run;
        const double tone = best(5, [&] {
            run = {};
            (void)solveTone(s.build, catalogue, 0, supplyOf(s.build, *steady), {0.05 / std::sqrt(2.0), 1000}, run);
        });
        const double toneSpice = spice(tran, 1); // tens of seconds each
        fmt::print("{:26} point {:7.3f} ms, {:5.0f} times faster; tone {:7.2f} ms, {:5.0f} times faster\n", s.id, own,
                   peer / own, tone, toneSpice / tone);
        std::fflush(stdout);
        if (peer > 0) logs += std::log(peer / own), ++count;
        if (toneSpice > 0) toneLogs += std::log(toneSpice / tone), ++tones;
    }
    fmt::print("geometric means: operating point {:.0f} times (3 wanted), tone {:.0f} times (300 wanted)\n",
               std::exp(logs / std::max(1, count)), std::exp(toneLogs / std::max(1, tones)));

    const Build demo = startOf("push-pull-pentode")->build, four = startOf("four-output-valves")->build;
    for (const auto& [name, b] : {std::pair{"demo", &demo}, std::pair{"four valves", &four}}) {
        WarmStart warm;
        (void)solveFigures(*b, catalogue, {}, &warm);
        const double edit = median(11, [&, &of = *b] {
            WarmStart own = warm;
            (void)solveFigures(of, catalogue, {}, &own);
        });
        Figures figures = solveFigures(*b, catalogue, {}, &warm);
        const double all = median(11, [&, &of = *b] { completeFigures(of, catalogue, figures); });
        fmt::print(
            "{}: an edit's steady figures {:.1f} ms (30 allowed), all curves and power {:.0f} ms (300 allowed)\n", name,
            edit, all);
    }
    const double stage = best(2, [&] { (void)procedure::firstPowerStage(demo, catalogue, 5, 230); });
    fmt::print("bands of a stage from {} amplifiers: {:.0f} ms (1000 allowed)\n", procedure::honestSamples, stage);
    auto amplifier = bench::VirtualAmplifier::make(demo, catalogue, 3, "leaky/c11");
    if (amplifier && amplifier->power(4, 230)) {
        const auto expected = procedure::firstPowerStage(demo, catalogue, 4, 230, {false, procedure::roughSamples});
        std::vector<std::pair<procedure::TestPoint, double>> read;
        for (const auto& e : expected.expectations)
            if (const auto v = amplifier->read(e.point.id)) read.emplace_back(e.point, *v);
        Expected<procedure::FaultTable> table = Problem{};
        const double once = milliseconds([&] { table = procedure::faultTable(demo, catalogue, expected); });
        const double ms = table ? milliseconds([&] { (void)procedure::suspects(*table, read); }) : plan::unknown;
        fmt::print("{} faults solved in {:.0f} ms, ranked by {} readings with the next best in {:.1f} ms\n",
                   diagnose::faultsOf(demo, catalogue).size(), once, read.size(), ms);
    }
    // Healthy amplifiers with every reading of a stage inside.
    int inside = 0;
    const auto five = procedure::firstPowerStage(demo, catalogue, 5, 230);
    for (std::uint64_t seed = 1; seed <= 100; ++seed) {
        auto one = bench::VirtualAmplifier::make(demo, catalogue, 5000 + seed, "");
        bool in = one && one->power(5, 230).ok();
        for (const auto& e : five.expectations)
            if (const auto v = in ? one->read(e.point.id) : Expected<double>(0.0))
                in = in && procedure::judge(e, *v) == procedure::Verdict::InRange;
        inside += in;
    }
    fmt::print("{} of 100 healthy amplifiers have every reading of stage 5 inside (95 wanted)\n", inside);

    Build longPath = demo;
    auto& stages = longPath.channels[0].stages;
    const Stage first = stages[0];
    while (stages.size() < 40) {
        Stage s = first;
        s.id = fmt::format("x{}", stages.size());
        longPath.bottles.push_back(longPath.bottles[0]);
        longPath.bottles.back().id = fmt::format("vx{}", stages.size());
        s.valves[0].bottle = longPath.bottles.back().id;
        for (StagePart& p : s.parts) idOf(p.part) += s.id;
        s.parts.push_back(
            {{}, "coupling", "", "", CapacitorPart{{}, fmt::format("cx{}", stages.size()), 1e-7, 630, 0.1, 0, 0}});
        stages.insert(stages.begin() + 1, s);
    }
    const double forty = best(3, [&] {
        const HeldChannel h = heldChannel(longPath, catalogue, 0, {{300, 280, 240}, std::vector<double>(4, -11), {}});
        schematic::Analysis a(h.schematic);
        (void)a.operatingPoint();
    });
    fmt::print("operating point of a path of {} stages: {:.1f} ms\n", stages.size(), forty);
}
