#include "first_power.h"

#include "core/build/build_json.h"
#include "core/diagnose/faults.h"
#include "core/plan/solve.h"
#include "core/quantity/letters.h"

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
     "Power off, plug out, capacitors read. Put the rectifier in. The first high voltage.",
     "the lamp stays bright after 5 s, a capacitor warms or ticks"},
    {"small valves", "Small valves in, behind the lamp",
     "Power off, plug out, wait, measure. Put the small valves in. Let them warm for a minute before reading. The "
     "output sockets stay empty until their grids read right.",
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

/// The stages' words where no valve rectifies: B+ is there from the first switch-on.
constexpr Script siliconFirst{"no valves", "Mains, lamp in series, no valves: B+ is there at once",
                              "Lamp limiter in the mains lead, every socket empty. The silicon rectifier raises B+ as "
                              "soon as the mains is on.",
                              "the lamp stays bright, a capacitor warms or ticks, anything smells or smokes"};
constexpr Script siliconAgain{"rectifier", "The supply once more, behind the lamp",
                              "There is no rectifier valve to put in. Switch on again and read every node and the "
                              "ripple after a minute.",
                              "the lamp stays bright after 5 s, a capacitor warms or ticks"};

bool valveRectifies(const Build& b, const Catalogue& catalogue) {
    const auto vacuum = [&](const std::string& type) {
        const RectifierType* r = catalogue.rectifier(type);
        return r && r->vacuum;
    };
    return vacuum(b.supply.rectifier.type) ||
           std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                       [&](const Section& s) { return s.kind == SectionKind::Tap && vacuum(s.type); });
}

const Script& scriptOf(const Build& b, const Catalogue& catalogue, int index) {
    if (index == 1 && siliconFeedsRail(b) && b.supply.connection != Connection::HybridBridge) return siliconFirst;
    if (index == 2 && !valveRectifies(b, catalogue)) return siliconAgain;
    return scripts[static_cast<std::size_t>(index)];
}

/// "Plus to ground: C4, C5. Plus to B+: C1, C2, C3."
std::string polarities(const Build& b) {
    std::string rail, bias;
    for (const Section& s : b.supply.sections)
        if (s.kind == SectionKind::Capacitor) rail += (rail.empty() ? "" : ", ") + upper(s.id);
    if (biasIsFed(b.bias, b.transformer)) bias = upper(b.bias.reservoir.id) + ", " + upper(b.bias.second.id);
    std::string out = " Minus to ground: " + rail + ".";
    if (!bias.empty()) out += " Plus to ground: " + bias + ".";
    return out;
}

void pointAtCauses(const Build& b, const Catalogue& catalogue, PowerStage& stage, const WarmStart& warm,
                   std::stop_token stop) {
    std::vector<TestPoint> points;
    for (const Expectation& e : stage.expectations) points.push_back(e.point);
    for (const diagnose::Fault& fault : diagnose::faultsOf(b, catalogue)) {
        if (stop.stop_requested()) return;
        if (!fault.common) continue; // the rest are ranked when a reading asks for them
        Build faulty = b;
        fault.inflict(faulty);
        WarmStart start = warm;
        std::vector<double> read;
        if (stage.powered) {
            const auto solved = solveSteady(faulty, catalogue, stage.conditions,
                                            {.tolerance = 1e-3, .stop = stop, .wiring = fault.wiring}, &start);
            if (!solved) continue;
            read = readings(faulty, catalogue, *solved, points);
        } else {
            for (const TestPoint& p : points) read.push_back(coldReading(faulty, catalogue, p));
        }
        for (std::size_t k = 0; k < points.size(); ++k) {
            Expectation& e = stage.expectations[k];
            if (read[k] < e.band.low) e.ifLow.push_back({fault.sentence, read[k]});
            if (read[k] > e.band.high) e.ifHigh.push_back({fault.sentence, read[k]});
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

/// Less is as good; the budget is trusted to a factor of three, and a meter shows its own millivolt or so.
void expectHum(const Build& b, const Catalogue& catalogue, PowerStage& stage, const std::stop_token& stop) {
    constexpr double trust = 3, meterFloor = 1e-3;
    const auto asks = [](const Expectation& e) { return e.point.kind == PointKind::Hum; };
    if (std::none_of(stage.expectations.begin(), stage.expectations.end(), asks)) return;
    const std::vector<double> hum = humReadings(b, catalogue, stage.conditions, {.stop = stop});
    for (Expectation& e : stage.expectations)
        if (asks(e) && e.point.index < hum.size() && std::isfinite(hum[e.point.index]))
            e.band = {hum[e.point.index], 0, trust * hum[e.point.index] + meterFloor};
}

} // namespace

Conditions stageConditions(const Build&, int stage, double mainsVolts) {
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

PowerStage firstPowerStage(const Build& b, const Catalogue& catalogue, int index, double mainsVolts,
                           const StageOptions& options) {
    const std::stop_token& stop = options.stop;
    PowerStage stage;
    const Script& script = scriptOf(b, catalogue, index);
    stage.index = index;
    stage.name = script.name;
    stage.title = script.title;
    stage.instruction = script.instruction;
    stage.stopIf = script.stopIf;
    stage.powered = index > 0;
    stage.conditions = stageConditions(b, index, mainsVolts);
    const auto points = pointsOfStage(b, index);
    if (!stage.powered) {
        stage.instruction += polarities(b);
        for (const TestPoint& p : points) {
            const double cold = coldReading(b, catalogue, p);
            stage.expectations.push_back({p, {cold, cold, cold}, {}, {}, {}, {}, {}});
        }
        setStopLimits(b, catalogue, stage);
        stage.cautions = cautionsOf(b, catalogue, stage);
        if (options.withFaults) pointAtCauses(b, catalogue, stage, {}, stop);
        return stage;
    }
    WarmStart warm;
    const auto steady = solveSteady(b, catalogue, stage.conditions, {.stop = stop}, &warm);
    if (!steady) {
        // Each point stays, without a prediction: what is read is kept and not judged.
        stage.failure = steady.problem().text();
        for (const TestPoint& p : points) stage.expectations.push_back({p, {}, {}, {}, {}, {}, {}});
        return stage;
    }
    stage.steady = *steady;
    stage.lamp = steady->lamp;
    const auto all = bands(b, catalogue, stage.conditions, points, *steady, warm, {options.samples, 1, stop});
    for (std::size_t k = 0; k < points.size(); ++k)
        stage.expectations.push_back({points[k], all[k], {}, {}, {}, {}, {}});
    expectHum(b, catalogue, stage, stop);
    setStopLimits(b, catalogue, stage);
    if (stage.conditions.limiter && options.withFaults) {
        auto curve = lampSwitchOn(b, catalogue, *steady, 40, stop);
        if (curve) stage.lampCurve = std::move(*curve);
    }
    if (auto held = dischargeOf(b, *steady, stop)) stage.discharge = std::move(*held);
    if (steady->nodes[0].most > 10 && stage.conditions.smallIn) {
        auto curve = switchOff(b, catalogue, *steady, true, 900, stop);
        if (curve) stage.dischargeHot = std::move(*curve);
    }
    stage.cautions = cautionsOf(b, catalogue, stage);
    if (options.withFaults) pointAtCauses(b, catalogue, stage, warm, stop);
    return stage;
}

} // namespace ember::procedure
