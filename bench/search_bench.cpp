// Faulty amplifiers, searched by the readings that the program itself asks for: how many are found, with how many
// readings, how many of them under power. search-bench [AMPLIFIERS] [START]
#include "core/bench/virtual_amplifier.h"
#include "core/build/own_types.h"
#include "core/build/starts.h"
#include "core/diagnose/faults.h"
#include "core/procedure/suspects.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <map>
#include <random>

using namespace ember;
using namespace ember::procedure;

namespace {

struct Outcome {
    bool shows = false, first = false, three = false;
    int readings = 0, underPower = 0; ///< after the first that was out of its range
};

/// Readings as First Power asks for them until one is out of its range; from then on what the search asks for.
Outcome search(const Build& build, const Catalogue& catalogue, const std::string& fault, std::uint64_t seed, int step,
               const PowerStage& stage, const FaultTable& table) {
    Outcome out;
    auto hot = bench::VirtualAmplifier::make(build, catalogue, seed, fault),
         cold = bench::VirtualAmplifier::make(build, catalogue, seed, fault);
    if (!hot || !cold || !hot->power(step, build.mains.volts) || !cold->power(0, build.mains.volts)) return out;
    std::vector<std::pair<TestPoint, double>> read;
    bool stopped = false;
    for (const Expectation& e : stage.expectations) {
        if (e.point.kind == PointKind::Held || e.point.mode == MeterMode::Ohms) continue;
        const auto value = hot->read(e.point.id);
        if (!value) continue;
        read.emplace_back(e.point, *value);
        const Verdict v = judge(e, *value);
        stopped = v == Verdict::Stop;
        out.shows = v != Verdict::InRange && v != Verdict::NotJudged;
        if (out.shows) break;
    }
    if (!out.shows) return out;
    constexpr int most = 12;
    for (;;) {
        const auto s = suspects(table, read, !stopped);
        if (!s) return out;
        std::size_t before = 0;
        const auto& all = s->ranking.suspects;
        const auto at = std::find_if(all.begin(), all.end(), [&](const auto& x) { return x.fault.id == fault; });
        if (at == all.end()) return out;
        // Faults that read the same everywhere are one: what is named first is as good.
        for (auto x = all.begin(); x != at; ++x) before += x->logLikelihood > at->logLikelihood + 0.7;
        out.first = before == 0;
        out.three = before < 3;
        if (!s->next || all.front().share > 0.97 || out.readings == most) {
            out.shows = s->ranking.healthyShare < all.front().share; // else it passes the step as sound
            return out;
        }
        const auto value = (s->next->powerOff ? cold : hot)->read(s->next->point.id);
        ++out.readings;
        out.underPower += !s->next->powerOff;
        read.emplace_back(s->next->point, value ? *value : overloadOhms);
    }
}

} // namespace

int main(int argc, char** argv) {
    const int wanted = argc > 1 ? std::atoi(argv[1]) : 400;
    std::vector<const Start*> of;
    for (const Start& s : starts())
        if (!s.build.channels.empty() && s.id != "nothing" && (argc < 3 || s.id == argv[2])) of.push_back(&s);
    if (of.size() > 8) of.resize(8);
    const int each = std::max(1, wanted / static_cast<int>(of.size()));
    fmt::print("{:<26} faulty  shows  first  of three  readings  under power   table\n", "");
    int tried = 0, shown = 0, first = 0, three = 0, readings = 0, power = 0;
    for (const Start* start : of) {
        const Build& build = start->build;
        const Catalogue& catalogue = catalogueOf(build);
        const auto faults = diagnose::faultsOf(build, catalogue);
        std::vector<double> weights;
        for (const auto& f : faults) weights.push_back(f.weight);
        std::mt19937_64 chance(7);
        std::discrete_distribution<std::size_t> which(weights.begin(), weights.end());
        std::map<int, std::pair<PowerStage, FaultTable>> steps;
        const auto clock = std::chrono::steady_clock::now();
        for (int k = 1; k < stageCount; ++k) {
            PowerStage s = firstPowerStage(build, catalogue, k, build.mains.volts, {false, honestSamples});
            if (auto t = faultTable(build, catalogue, s)) steps.emplace(k, std::pair{std::move(s), std::move(*t)});
        }
        const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - clock).count();
        int hereShown = 0, hereFirst = 0, hereThree = 0, hereReadings = 0, herePower = 0;
        for (int n = 0; n < each; ++n) {
            const auto& fault = faults[which(chance)];
            for (const auto& [k, step] : steps) { // the first step at which it shows
                const Outcome o = search(build, catalogue, fault.id, 1000 + static_cast<std::uint64_t>(n), k,
                                         step.first, step.second);
                if (!o.shows) continue;
                ++hereShown;
                hereFirst += o.first;
                hereThree += o.three;
                hereReadings += o.readings;
                herePower += o.underPower;
                if (!o.three) fmt::print("  not found: {} at step {}\n", fault.id, k);
                break;
            }
        }
        fmt::print("{:<26} {:6} {:6} {:6} {:9} {:9.1f} {:12} {:6.1f} s\n", start->id, each, hereShown, hereFirst,
                   hereThree, hereShown ? static_cast<double>(hereReadings) / hereShown : 0, herePower, seconds);
        tried += each, shown += hereShown, first += hereFirst, three += hereThree, readings += hereReadings,
            power += herePower;
    }
    fmt::print("{:<26} {:6} {:6} {:6} {:9} {:9.1f} {:12}\n", "all", tried, shown, first, three,
               shown ? static_cast<double>(readings) / shown : 0, power);
}
