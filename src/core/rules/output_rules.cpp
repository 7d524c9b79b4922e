#include "findings.h"

#include "remedies.h"

#include "core/build/path.h"
#include "core/plan/bias_range.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/schematic/channel_parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

Finding finding(std::string id, Level level, std::string title, std::string text) {
    return rules::finding("bias", std::move(id), level, std::move(title), std::move(text));
}

/// The connections under which a plate winding's end swings below ground by itself; behind a bridge or a doubler it
/// never does, and only a capacitor can feed a negative rail from it.
bool endSwingsNegative(Connection c) {
    return c == Connection::CentreTapped || c == Connection::HalfWave;
}

void valveLimits(const Build& b, const Catalogue& catalogue, const plan::ValvePoint& v, std::vector<Finding>& out) {
    const Valve& bottle = b.bottles[v.bottle];
    const std::string tail = fmt::format(" with mains at {}.", format(b.mains.high, Unit::Volt));
    const ValveLimits& own = catalogue.valve(bottle.type)->section(v.section).limits;
    const std::string name = upper(bottle.id);
    againstValveLimit(
        out, "plate-watts/" + bottle.id, name + " plate", v.plateWatts(), own.plateWatts, Unit::Watt,
        tail + (v.adjuster >= 0 ? " Turn its adjuster colder." : " A larger cathode resistor holds it down."));
    againstValveLimit(
        out, "plate-volts/" + bottle.id, name + " plate volts", v.plate - v.cathode, own.mostPlateVolts(), Unit::Volt,
        tail + (own.system == RatingSystem::DesignCentre ? " A design-centre limit, with a tenth of grace."
                                                         : " A limit without grace."));
    if (std::isfinite(v.screen) && v.screen != v.plate) {
        againstValveLimit(out, "screen-watts/" + bottle.id, name + " screen", v.screenWatts(), own.screenWatts,
                          Unit::Watt, tail);
        againstValveLimit(out, "screen-volts/" + bottle.id, name + " screen volts", v.screen - v.cathode,
                          own.mostScreenVolts(), Unit::Volt, tail);
    }
    againstValveLimit(out, "cathode-amps/" + bottle.id, name + " cathode current", v.cathodeAmps(), own.cathodeAmps,
                      Unit::Ampere, tail);
}

/// What the screens' node gives beyond rest at full power, the valves alike.
void screenPowerRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::size_t k,
                     std::vector<Finding>& out) {
    if (k >= f.power.size() || !f.nominal || k >= f.nominal->channels.size()) return;
    const double more = f.power[k].clipScreens();
    const plan::ValvePoint* one = nullptr;
    int count = 0;
    for (const plan::ValvePoint& v : f.nominal->channels[k].valves)
        if (v.duty == schematic::Duty::Output && std::isfinite(v.screen) && v.screen != v.plate) {
            if (!one) one = &v;
            ++count;
        }
    if (!one || !(more != 0) || !std::isfinite(more)) return;
    const ValveLimits& limits = catalogue.valve(b.bottles[one->bottle].type)->section(one->section).limits;
    const double watts = (one->screen - one->cathode) * (one->screenAmps + more / count);
    againstValveLimit(out, "screen-power/" + b.channels[k].id, b.channels[k].name + " screens at full power", watts,
                      limits.screenWattsSignal > 0 ? limits.screenWattsSignal : limits.screenWatts, Unit::Watt,
                      " each, with a steady tone at clipping. Larger screen resistors hold it down.");
}

/// Between the two sides of a push-pull transformer.
void balanceRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    if (k >= f.nominal->channels.size()) return;
    double a = 0, c = 0;
    bool adjusted = false;
    for (const plan::ValvePoint& v : f.nominal->channels[k].valves) {
        if (v.duty != schematic::Duty::Output || v.at.empty()) continue;
        (v.at[0] == 'a' ? a : c) += v.plateAmps;
        adjusted = adjusted || v.adjuster >= 0;
    }
    const Stage* stage = schematic::outputStage(b.channels[k]);
    const schematic::StageKind* kind = stage ? schematic::stageKind(stage->kind) : nullptr;
    if (!kind || kind->in != schematic::Phases::Two) return;
    if ((a + c) / 2 > 1e-3 && std::abs(a - c) > 0.05 * (a + c))
        out.push_back(finding(
            "balance/" + b.channels[k].id, Level::Warn,
            fmt::format("{}: output currents unbalanced", b.channels[k].name),
            fmt::format("{} and {}: the difference magnetises the output transformer. Bring them within 5 % with "
                        "{}.",
                        format(a, Unit::Ampere), format(c, Unit::Ampere),
                        adjusted ? "the adjusters" : "valves that were measured alike")));
}

/// Direct current beyond what the core's gap is for takes flux that the lowest notes need.
void coreRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    if (k >= f.nominal->channels.size()) return;
    const Stage* stage = schematic::outputStage(b.channels[k]);
    const StagePart* iron = stage ? stage->part("transformer") : nullptr;
    const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
    const schematic::StageKind* kind = stage ? schematic::stageKind(stage->kind) : nullptr;
    if (!t || !kind || !(t->lowestHertz > 0)) return;
    const bool pair = kind->in == schematic::Phases::Two;
    double a = 0, c = 0;
    for (const plan::ValvePoint& v : f.nominal->channels[k].valves)
        if (v.duty == schematic::Duty::Output) (pair && !v.at.empty() && v.at[0] == 'b' ? c : a) += v.plateAmps;
    const double beyond = pair ? std::abs(a - c) / 2 : std::max(0.0, a - t->dcAmps); // through the whole primary
    const double signal = std::sqrt(2 * t->watts * t->primaryImpedance) / (2 * std::numbers::pi * t->lowestHertz);
    const double share = t->primaryInductance * beyond / signal;
    if (!(share > 0.2)) return;
    out.push_back(finding(
        "core-current/" + t->id, Level::Warn, fmt::format("Direct current magnetises {}", upper(t->id)),
        fmt::format(
            "{} more than its core is made for takes {:.0f} % of the flux that {} at {} need: the bass distorts "
            "sooner. {}",
            format(beyond, Unit::Ampere), 100 * share, format(t->watts, Unit::Watt),
            format(t->lowestHertz, Unit::Hertz),
            pair ? "Bring the two sides together."
                 : fmt::format("A transformer with a gap for {}, or less current.", format(a, Unit::Ampere)))));
}

void gridRules(const Build& b, const Catalogue& catalogue, std::size_t channel, std::size_t index,
               std::vector<Finding>& out) {
    const Stage& stage = b.channels[channel].stages[index];
    for (std::size_t p = 0; p < stage.parts.size(); ++p) {
        const StagePart& leakPart = stage.parts[p];
        const auto* leak = std::get_if<ResistorPart>(&leakPart.part);
        if (leakPart.slot != "grid leak" || !leak) continue;
        const auto valve = std::find_if(stage.valves.begin(), stage.valves.end(),
                                        [&](const StageValve& v) { return v.at.rfind(leakPart.at, 0) == 0; });
        const Valve* bottle = valve == stage.valves.end() ? nullptr : bottleOf(b, valve->bottle);
        const ValveType* type = bottle ? catalogue.valve(bottle->type) : nullptr;
        const bool fixed = stage.part("adjuster", leakPart.at) || stage.part("adjuster", leakPart.at.substr(0, 1)) ||
                           stage.part("adjuster");
        const ValveLimits limits = type ? type->section(valve->section).limits : ValveLimits{};
        const double most = fixed ? limits.gridLeakOhms : limits.gridLeakOhmsSelfBias;
        if (most > 0 && leak->resistance > most) {
            const char* kind = fixed ? "fixed bias" : "cathode bias";
            auto x = finding(
                "grid-leak/" + leak->id, Level::Warn, fmt::format("{} is high for {}", upper(leak->id), kind),
                fmt::format("{}; the type allows {} with {}: grid current in an old valve would shift its bias and run "
                            "away.",
                            format(leak->resistance, Unit::Ohm), format(most, Unit::Ohm), kind));
            const double better = nextDown(most * 1.001, Series::E12);
            x.fix = setValue(fmt::format("use {}", formatExact(better, Unit::Ohm)),
                             fmt::format("/channels/{}/stages/{}/parts/{}/resistance", channel, index, p), better);
            out.push_back(std::move(x));
        }
        const StagePart* couplingPart = stage.part("coupling", leakPart.at);
        const auto* coupling = couplingPart ? std::get_if<CapacitorPart>(&couplingPart->part) : nullptr;
        if (!coupling) continue;
        const double corner = 1 / (2 * std::numbers::pi * leak->resistance * coupling->capacitance);
        if (corner > 20)
            out.push_back(finding("coupling/" + coupling->id, Level::Warn,
                                  fmt::format("{} limits the low frequencies", upper(coupling->id)),
                                  fmt::format("{} into {} is -3 dB at {}.", format(coupling->capacitance, Unit::Farad),
                                              format(leak->resistance, Unit::Ohm), format(corner, Unit::Hertz))));
    }
}

/// Direct volts at the output's terminals: a voice coil's or the next amplifier's.
void dcRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    constexpr double allowed = 0.1, most = 1; // [V] heard as a thump; harms what is connected
    const double volts = std::abs(f.high->channels[k].output);
    if (!(volts > allowed)) return;
    out.push_back(rules::finding(
        "stages", "output-dc/" + b.channels[k].id, volts > most ? Level::Stop : Level::Warn,
        fmt::format("{} has {} DC at its output", b.channels[k].name, format(volts, Unit::Volt)),
        "Whatever is connected there gets it. A coupling capacitor with a resistor to ground behind it, or a "
        "transformer, keeps it back."));
}

} // namespace

void outputRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high || !f.nominal) return;
    for (std::size_t k = 0; k < b.channels.size() && k < f.high->channels.size(); ++k) {
        for (const plan::ValvePoint& v : f.high->channels[k].valves)
            if (v.duty == schematic::Duty::Output) valveLimits(b, catalogue, v, out);
        screenPowerRule(b, catalogue, f, k, out);
        balanceRule(b, f, k, out);
        dcRule(b, f, k, out);
        coreRule(b, f, k, out);
        for (std::size_t s = 0; s < b.channels[k].stages.size(); ++s)
            if (schematic::isOutput(b.channels[k].stages[s])) gridRules(b, catalogue, k, s, out);
    }
}

namespace {

/// Volts at the screens (a triode's plate) of the adjusted output valves.
double screensOf(const plan::Steady& s) {
    for (const plan::ChannelPoint& c : s.channels)
        for (const plan::ValvePoint& v : c.valves)
            if (v.adjuster >= 0 && v.duty == schematic::Duty::Output)
                return std::isfinite(v.screen) ? v.screen : v.plate;
    return plan::unknown;
}

} // namespace

void biasRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.nominal || adjustersOf(b).empty()) return; // cathode bias wants none
    if (!biasIsFed(b.bias, b.transformer)) {
        Finding x = finding("no-bias", Level::Stop, "There is no bias supply",
                            "The output grids sit at 0 V: each valve draws all it can. Give the transformer a bias "
                            "winding, or feed it from the plate winding.");
        x.fix = endSwingsNegative(b.supply.connection)
                    ? setText("feed it from the plate winding through a resistor", "/bias/from", "plate-resistor")
                    : setText("feed it from the plate winding through a capacitor", "/bias/from", "plate-capacitor");
        out.push_back(std::move(x));
        return;
    }
    if (b.bias.failSafe <= 0) {
        auto x = finding("adjuster-open", Level::Warn, "An open wiper removes the bias",
                         "When a potentiometer's wiper lifts, its grid floats. A resistor from wiper to the rail lets "
                         "it fall to its coldest instead.");
        x.fix = setValue("add 100 kΩ from each wiper to the rail", "/bias/failSafe", 100e3);
        out.push_back(std::move(x));
    }
    // At the end of the mains where it is farthest from reaching.
    const plan::Steady* worst = &*f.nominal;
    const auto wanting = [&](const plan::Steady& s) {
        return plan::coldEnough(b, catalogue, s) / plan::biasRange(b.bias, s).coldest;
    };
    for (const auto* s : {&f.low, &f.high})
        if (*s && wanting(**s) > wanting(*worst)) worst = &**s;
    const double needed = -plan::coldEnough(b, catalogue, *worst), reached = -plan::biasRange(b.bias, *worst).coldest;
    if (reached < needed) {
        Finding x = finding(
            "bias-cold", Level::Stop, "The bias is not negative enough for a cold start",
            fmt::format("{} at the cold end with mains at {}; {} on the screens want {} to start at a quarter of the "
                        "plates' watts. {}",
                        format(-reached, Unit::Volt), format(worst->conditions.mainsVolts, Unit::Volt),
                        format(screensOf(*worst), Unit::Volt), format(-needed, Unit::Volt),
                        b.bias.from == BiasSource::Winding         ? "Raise the bias winding's volts."
                        : b.bias.from == BiasSource::PlateResistor ? "A smaller feeding resistor gives more."
                                                                   : "A larger feeding capacitor gives more."));
        const double more = 1.1 * needed / std::max(0.1, reached);
        if (b.bias.from == BiasSource::Winding)
            x.fix = setValue(fmt::format("a bias winding of {}", format(more * b.transformer.biasVolts, Unit::Volt)),
                             "/transformer/biasVolts", more * b.transformer.biasVolts);
        else if (b.bias.from == BiasSource::PlateResistor)
            x.fix = setValue(
                fmt::format("feed it through {}", format(nextDown(b.bias.feed / more, Series::E12), Unit::Ohm)),
                "/bias/feed", nextDown(b.bias.feed / more, Series::E12));
        else
            x.fix = setValue(fmt::format("feed it through {}",
                                         format(nextUp(b.bias.feedCapacitance * more, Series::E6), Unit::Farad)),
                             "/bias/feedCapacitance", nextUp(b.bias.feedCapacitance * more, Series::E6));
        out.push_back(std::move(x));
    }
}

} // namespace ember::rules
