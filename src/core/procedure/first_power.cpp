#include "first_power.h"

#include "core/bench/faults.h"
#include "core/build/build_json.h"
#include "core/plan/solve.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::procedure {

using namespace plan;

namespace {

struct Script {
    std::string_view name, title, instruction, stopIf;
};

constexpr std::array<Script, stageCount> scripts{{
    {"cold", "Cold and unplugged",
     "Plug out, every capacitor read at 0 V first. A load on each output. Check the fuse's value and every "
     "electrolytic's polarity by eye.",
     "anything is outside its band: find out before mains comes near"},
    {"no valves", "Mains, lamp in series, no valves",
     "Lamp limiter in the mains lead, every socket empty. Switch on from the wall, hands off, read, switch off.",
     "the lamp stays bright, anything hums loudly, smells or smokes"},
    {"rectifier", "Rectifier in, nothing else, behind the lamp",
     "Power off, plug out, capacitors read. Put the rectifier in. The first high voltage: one hand, common clipped on "
     "before switching on.",
     "the lamp stays bright after 5 s, a capacitor warms or ticks"},
    {"small valves", "Small valves in, behind the lamp",
     "Power off, plug out, wait, measure. Put the small valves in. Let them warm for a minute before reading.",
     "the lamp grows brighter by itself"},
    {"output valves", "Output valves in, adjusters at their cold end",
     "Power off, plug out, wait, measure. Turn every adjuster fully cold, put the output valves in, load on.",
     "a plate shows colour, a current climbs by itself"},
    {"full mains", "Lamp out, full mains, adjusters still cold",
     "Power off, plug out, wait, measure. Take the lamp out of the mains lead. Read the whole chart again.",
     "a plate shows colour, a current climbs by itself, smoke or arcing"},
    {"handover", "Over to Bias",
     "Full mains, adjusters as the build says. Set each output valve at the Bias station, then read again after twenty "
     "minutes.",
     "a current climbs by itself"},
}};

/// A reading beyond which the stage ends at once.
std::optional<double> stopLimit(const Build& b, const Catalogue& catalogue, const TestPoint& p, const Steady& s,
                                const Band& band) {
    if (p.id.rfind("B+", 0) == 0) {
        const int node = std::atoi(p.id.c_str() + 2);
        double rating = 1e9;
        for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
            if (b.supply.sections[k].kind == SectionKind::Capacitor && nodeOfSection(b.supply, k) == node)
                rating = std::min(rating, b.supply.sections[k].volts);
        return std::max(band.high * 1.02, std::min(rating, band.nominal * 1.2));
    }
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const OutputPair& pair = b.channels[k].pair;
        for (const bool first : {true, false}) {
            const Valve& v = first ? pair.a : pair.b;
            if (p.id == "sense-" + v.id && k < s.channels.size()) {
                const double plate = first ? s.channels[k].plateA : s.channels[k].plateB;
                const double ohms = first ? pair.senseA.resistance : pair.senseB.resistance;
                return std::max(band.high * 1.02,
                                catalogue.valve(v.type)->limits.plateWatts / std::max(50.0, plate) * 1.1 * ohms);
            }
            if (p.id == "bias-" + v.id && band.nominal < 0)
                return band.nominal * 0.6; // less negative: bias is being lost
        }
    }
    if (p.id.rfind("heater-", 0) == 0) return std::max(band.high * 1.02, band.nominal * 1.15);
    return std::nullopt;
}

void pointAtCauses(const Build& b, const Catalogue& catalogue, Stage& stage, const WarmStart& warm,
                   std::stop_token stop) {
    for (const bench::Fault& fault : bench::faultsOf(b)) {
        if (stop.stop_requested()) return;
        Build faulty = b;
        fault.inflict(faulty);
        WarmStart start = warm;
        std::optional<Steady> s;
        if (stage.powered) {
            auto solved = solveSteady(faulty, catalogue, stage.conditions, {false, 1e-3, stop}, &start);
            if (!solved) continue;
            s = std::move(*solved);
        }
        for (Expectation& e : stage.expectations) {
            const double value = s ? valueAt(faulty, *s, e.point.id) : coldResistance(faulty, e.point.id);
            if (value < e.band.low) e.ifLow.push_back({fault.sentence, value});
            if (value > e.band.high) e.ifHigh.push_back({fault.sentence, value});
        }
    }
    // The fault that moves a reading farthest is the likeliest to be noticed there.
    for (Expectation& e : stage.expectations) {
        const auto farther = [&](const Expectation::Cause& x, const Expectation::Cause& y) {
            return std::abs(x.value - e.band.nominal) > std::abs(y.value - e.band.nominal);
        };
        std::sort(e.ifLow.begin(), e.ifLow.end(), farther);
        std::sort(e.ifHigh.begin(), e.ifHigh.end(), farther);
    }
}

} // namespace

Conditions stageConditions(const Build& b, int stage, double mainsVolts) {
    (void)b;
    return {mainsVolts, stage >= 1 && stage <= 4, stage >= 2, stage >= 3, stage >= 4, stage <= 5};
}

std::string_view stageName(int stage) {
    return scripts[static_cast<std::size_t>(stage)].name;
}

std::string glow(double kelvin) {
    if (kelvin < 800) return "dark";
    if (kelvin < 1050) return "barely red, seen in the dark";
    if (kelvin < 1400) return "dim red";
    if (kelvin < 1800) return "dim orange";
    if (kelvin < 2150) return "orange";
    return kelvin < 2450 ? "yellow" : "white";
}

Stage firstPowerStage(const Build& b, const Catalogue& catalogue, int index, double mainsVolts, bool withFaults,
                      std::stop_token stop) {
    Stage stage;
    const Script& script = scripts[static_cast<std::size_t>(index)];
    stage.index = index;
    stage.name = script.name;
    stage.title = script.title;
    stage.instruction = script.instruction;
    stage.stopIf = script.stopIf;
    stage.powered = index > 0;
    stage.conditions = stageConditions(b, index, mainsVolts);
    const auto points = pointsOfStage(b, index);
    if (!stage.powered) {
        stage.caution = "Lethal voltages may remain: read every capacitor before touching anything.";
        for (const TestPoint& p : points) {
            Expectation e{p, {coldResistance(b, p.id), 0, 0}, {}, {}, {}};
            const double share = meterShare(b, p.mode);
            e.band.low = e.band.nominal * (0.85 - share);
            e.band.high = e.band.nominal * (1.15 + share);
            if (p.id == "earth") e.band = {e.band.nominal, 0, 0.1};
            if (p.id == "b+-ohms")
                e.band = {e.band.nominal, e.band.nominal * 0.5, INFINITY};          // better capacitors leak less
            if (p.id.rfind("load-", 0) == 0) e.band.low *= 0.8, e.band.high *= 1.3; // leads and contact
            stage.expectations.push_back(std::move(e));
        }
        if (withFaults) pointAtCauses(b, catalogue, stage, {}, stop);
        return stage;
    }
    WarmStart warm;
    const auto steady = solveSteady(b, catalogue, stage.conditions, {false, 2e-5, stop}, &warm);
    if (!steady) {
        stage.failure = steady.problem().text();
        return stage;
    }
    stage.steady = *steady;
    stage.lamp = steady->lamp;
    const auto all = bands(b, catalogue, stage.conditions, points, *steady, warm, stop);
    for (std::size_t k = 0; k < points.size(); ++k)
        stage.expectations.push_back({points[k], all[k], stopLimit(b, catalogue, points[k], *steady, all[k]), {}, {}});
    const double most = steady->nodes.empty() ? 0 : steady->nodes[0].most;
    stage.caution =
        most > 60 ? fmt::format("Lethal: {} on the first capacitor. One hand, common clipped on first, never alone.",
                                format(most, Unit::Volt))
                  : fmt::format("Lethal: {} RMS on the plate winding's pins. Hands off while it is plugged in.",
                                format(steady->legVolts, Unit::Volt));
    if (stage.conditions.limiter && withFaults) {
        auto curve = lampSwitchOn(b, catalogue, *steady, 40, stop);
        if (curve) stage.lampCurve = std::move(*curve);
    }
    if (most > 10) {
        auto curve = switchOff(b, catalogue, *steady, true, 900, stop);
        if (curve) stage.discharge = std::move(*curve);
    }
    if (withFaults) pointAtCauses(b, catalogue, stage, warm, stop);
    return stage;
}

Verdict judge(const Expectation& e, double reading) {
    if (e.stopAbove && reading > *e.stopAbove) return Verdict::Stop;
    if (reading < e.band.low) return Verdict::Low;
    return reading > e.band.high ? Verdict::High : Verdict::InRange;
}

std::string_view word(Verdict v) {
    static constexpr std::array<std::string_view, 4> words{"in range", "low", "high", "stop"};
    return words[static_cast<std::size_t>(v)];
}

std::string sentence(const Expectation& e, double reading) {
    const Unit unit = e.point.unit();
    const std::string expected =
        std::isinf(e.band.high) ? fmt::format("expected {} or more", format(e.band.low, unit))
                                : fmt::format("expected {} to {}", format(e.band.low, unit), format(e.band.high, unit));
    const Verdict v = judge(e, reading);
    if (v == Verdict::Stop)
        return fmt::format("stop: {} is past {}. Switch off at the wall, wait, measure.", format(reading, unit),
                           format(*e.stopAbove, unit));
    return fmt::format("{}: {}, {}", word(v), format(reading, unit), expected);
}

LogEntry readingEntry(const Expectation& x, int stage, double value, const std::string& source) {
    LogEntry e;
    e.kind = "reading";
    e.point = x.point.id;
    e.stage = stage;
    e.value = value;
    e.low = x.band.low;
    e.high = std::isinf(x.band.high) ? 1e12 : x.band.high; // JSON knows no infinity
    e.unit = x.point.unit() == Unit::Ohm ? "ohm" : "V";
    e.source = source;
    e.verdict = word(judge(x, value));
    return e;
}

int currentStage(const Build& b) {
    std::array<bool, stageCount> passed{};
    for (const LogEntry& e : b.log)
        if (e.kind == "stage" && !e.struck && e.stage >= 0 && e.stage < stageCount)
            passed[static_cast<std::size_t>(e.stage)] = true;
    const auto first = std::find(passed.begin(), passed.end(), false);
    return static_cast<int>(first - passed.begin());
}

} // namespace ember::procedure
