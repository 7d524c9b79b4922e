#include "first_power.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/diagnose/faults.h"
#include "core/plan/solve.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace ember::procedure {

using namespace plan;

namespace {

/// What of a step's words depends on what this amplifier has.
struct Has {
    bool outputs = false, adjusters = false, standby = false, valveRectifier = false;
    int firstRail = 2; ///< the step at which B+ first comes
};

bool valveRectifies(const Build& b, const Catalogue& catalogue) {
    const auto vacuum = [&](const std::string& type) {
        const RectifierType* r = catalogue.rectifier(type);
        return r && r->vacuum;
    };
    return vacuum(b.supply.rectifier.type) ||
           std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                       [&](const Section& s) { return s.kind == SectionKind::Tap && vacuum(s.type); });
}

Has whatIsThere(const Build& b, const Catalogue& catalogue) {
    Has out;
    for (const Channel& ch : b.channels)
        out.outputs = out.outputs || std::any_of(ch.stages.begin(), ch.stages.end(), schematic::isOutput);
    out.adjusters = !adjustersOf(b).empty();
    out.standby = std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                              [](const Section& s) { return s.kind == SectionKind::Switch; });
    out.valveRectifier = valveRectifies(b, catalogue);
    out.firstRail = siliconFeedsRail(b) ? 1 : 2;
    return out;
}

constexpr std::array<std::string_view, stageCount> names{"cold",          "no valves",  "rectifier", "small valves",
                                                         "output valves", "full mains", "handover"};

std::string titleOf(const Has& has, int index) {
    switch (index) {
    case 0: return "Cold and unplugged";
    case 1:
        return has.firstRail == 1 ? "Mains, lamp in series, no valves: B+ is there at once"
                                  : "Mains, lamp in series, no valves";
    case 2:
        return has.valveRectifier ? "Rectifier in, nothing else, lamp in series"
                                  : "The supply once more, lamp in series";
    case 3: return "Small valves in, lamp in series";
    case 4:
        return !has.outputs    ? "The same once more: there are no output valves"
               : has.adjusters ? "Output valves in, bias pots at their most negative end"
                               : "Output valves in, lamp in series";
    case 5: return has.adjusters ? "Lamp out, full mains, bias pots still most negative" : "Lamp out, full mains";
    default: return has.outputs ? "Over to Bias" : "Over to Measure";
    }
}

std::string instructionOf(const Has& has, int index) {
    const std::string open = "Pull the plug and read every capacitor below 10 V. ";
    std::string out;
    switch (index) {
    case 0:
        out = "Pull the plug and keep it in sight. Read every capacitor first, then the ohms";
        out += has.outputs ? ", with every socket empty and a load on each output. " : ", with every socket empty. ";
        return out + "Check the fuse's value and every electrolytic's polarity by eye.";
    case 1:
        out = open + "Put the lamp limiter in the mains lead and leave every socket empty. ";
        if (has.adjusters) out += "Turn every bias pot to its most negative end. ";
        if (has.standby) out += "Close the standby switch. ";
        if (has.firstRail == 1) out += "The silicon rectifier raises B+ as soon as the mains is on. ";
        break;
    case 2:
        out = open;
        out += has.valveRectifier
                   ? "Put the rectifier in: the first high voltage. "
                   : "There is no rectifier valve to put in: read every node and the ripple after a minute. ";
        break;
    case 3:
        out = open + "Put the small valves in and let them warm for a minute before you read. ";
        if (has.outputs) out += "Leave the output sockets empty until their grids read right. ";
        break;
    case 4:
        if (!has.outputs) return open + "There is no output valve to put in. Read again, then go on.";
        out = open;
        if (has.adjusters) out += "Check that every bias pot is at its most negative end. ";
        out += "Connect the load, then put the output valves in. Read their currents first. ";
        break;
    case 5: out = open + "Take the lamp out of the mains lead. Read the whole chart again. "; break;
    default:
        if (has.adjusters)
            return open +
                   "Leave the bias pots where they are. Set each output valve at Bias, then read again after twenty "
                   "minutes.";
        return open + "Read everything again after twenty minutes at full mains.";
    }
    if (index == has.firstRail) out += "Put eye protection on: a reversed capacitor bursts. ";
    return out + "Switch on at the outlet, hands off, read, switch off.";
}

std::string stopIfOf(const Has& has, int index) {
    switch (index) {
    case 0: return "anything is out of range: find out before mains comes near";
    case 1:
        return has.firstRail == 1 ? "the lamp stays bright, a capacitor bulges, hisses or smells, anything smokes"
                                  : "the lamp stays bright, anything hums loudly, smells or smokes";
    case 2: return "the lamp stays bright after 5 s, a capacitor bulges, hisses or smells";
    case 3: return "the lamp grows brighter by itself";
    case 5: return "a plate shows colour, a current climbs by itself, smoke or arcing";
    default:
        return has.outputs ? "a plate shows colour, a current climbs by itself"
                           : "the lamp or a reading climbs by itself";
    }
}

/// How every electrolytic is to stand, one by one.
std::string polarities(const Build& b) {
    std::map<std::string, std::string> by; // how they stand: which
    const auto add = [&](const std::string& how, const std::string& id) {
        std::string& list = by[how];
        list += (list.empty() ? "" : ", ") + upper(id);
    };
    bool first = true;
    for (const Section& s : b.supply.sections) {
        if (s.kind != SectionKind::Capacitor) continue;
        if (first && b.supply.connection == Connection::Doubler && s.inSeries == 2)
            add("Upper minus and lower plus at the winding, lower minus to ground", s.id);
        else
            add(s.inSeries > 1 ? "Each minus to the plus of the next one down, the lowest to ground"
                               : "Minus to ground",
                s.id);
        first = false;
    }
    if (biasIsFed(b.bias, b.transformer))
        for (const CapacitorPart* c : {&b.bias.reservoir, &b.bias.second}) add("Plus to ground", c->id);
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages)
            for (const StagePart& p : s.parts)
                if (const auto* c = std::get_if<CapacitorPart>(&p.part); c && p.slot == "bypass")
                    add("Plus to the cathode", c->id);
    for (const HeaterWinding& h : b.transformer.heaters)
        if (h.rectified()) add("Plus to the heaters' plus", "reservoir of " + h.id);
    std::string out;
    for (const auto& [how, which] : by) out += fmt::format(" {}: {}.", how, which);
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
    return names[static_cast<std::size_t>(stage)];
}

std::optional<int> stageNamed(std::string_view said) {
    for (int k = 0; k < stageCount; ++k)
        if (said == stageName(k) || said == std::to_string(k)) return k;
    return std::nullopt;
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
    const Has has = whatIsThere(b, catalogue);
    stage.index = index;
    stage.name = stageName(index);
    stage.title = titleOf(has, index);
    stage.instruction = instructionOf(has, index);
    stage.stopIf = stopIfOf(has, index);
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
    if (auto cold = solveSteady(b, catalogue, worstCharged(b, stage.conditions), {.stop = stop})) {
        if (auto held = dischargeOf(b, *cold, stop)) stage.discharge = std::move(*held);
        stage.cold = std::move(*cold);
    }
    WarmStart warm;
    const auto steady = solveSteady(b, catalogue, stage.conditions, {.stop = stop}, &warm);
    if (!steady) {
        // Each point stays, without a prediction: what is read is kept and judged by its rating alone.
        stage.failure = steady.problem().text();
        for (const TestPoint& p : points) stage.expectations.push_back({p, {}, {}, {}, {}, {}, {}});
        setStopLimits(b, catalogue, stage);
        stage.cautions = cautionsOf(b, catalogue, stage);
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
    stage.refusals = refusalsOf(b, stage);
    if (steady->nodes[0].most > 10 && stage.conditions.smallIn) {
        auto curve = switchOff(b, catalogue, *steady, true, 900, stop);
        if (curve) stage.dischargeHot = std::move(*curve);
    }
    stage.cautions = cautionsOf(b, catalogue, stage);
    if (options.withFaults) pointAtCauses(b, catalogue, stage, warm, stop);
    return stage;
}

} // namespace ember::procedure
