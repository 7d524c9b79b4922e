// What valves and jacks meet before any valve draws current, and an output valve's plate at the crest of a full signal.
#include "findings.h"

#include "core/build/path.h"
#include "core/build/structure.h"
#include "core/plan/channel_point.h"
#include "core/plan/pin_figures.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/stage_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

std::string coldVolts(double volts) {
    return format(volts, Unit::Volt);
}

/// Where nothing is published for a valve without current: so many times what it may stand at while it works. A choice.
constexpr double coldFactor = 1.5;
/// From so much on a grid above its cold cathode draws sparks from it: a choice on the safe side [V].
constexpr double sparkVolts = 60;

struct ColdValve {
    const Build& b;
    const Catalogue& catalogue;
    std::size_t channel;
    const plan::ValvePoint& p;
    [[nodiscard]] const Valve& bottle() const { return b.bottles[p.bottle]; }
    [[nodiscard]] const ValveType* type() const { return catalogue.valve(bottle().type); }
    [[nodiscard]] std::string id(const char* what) const {
        return fmt::format("{}/{}/{}", what, bottle().id, p.section);
    }
    [[nodiscard]] std::string name() const {
        return type()->sections() > 1 ? fmt::format("{} section {}", upper(bottle().id), p.section)
                                      : upper(bottle().id);
    }
};

void coldElectrode(const ColdValve& at, const char* electrode, double volts, double cold, double working,
                   std::vector<Finding>& out) {
    const std::string when = fmt::format(" at every switch-on, with mains at {} and no valve drawing yet.",
                                         coldVolts(at.b.mains.high)),
                      id = at.id(fmt::format("cold-{}", electrode).c_str());
    if (cold > 0)
        return againstValveLimit(out, id, fmt::format("{} {} without current", at.name(), electrode), volts, cold,
                                 Unit::Volt, when + " A standby delay, or a rectifier that warms slowly, spares it.");
    if (working > 0 && volts > coldFactor * working)
        out.push_back(finding("bias", id, Level::Note,
                              fmt::format("{}'s {} stands high while it is cold", at.name(), electrode),
                              fmt::format("{}{} For this type {} at work is published, and nothing without current.",
                                          coldVolts(volts), when, coldVolts(working))));
}

/// What rectifies the volts of a supply node: the last tap's rectifier before it, else the first.
const std::string& rectifierTypeOf(const Supply& supply, int node) {
    const std::string* type = &supply.rectifier.type;
    int count = 1;
    for (const Section& s : supply.sections) {
        if (s.kind == SectionKind::Capacitor) continue;
        if (++count > node) break;
        if (s.kind == SectionKind::Tap) type = &s.type;
    }
    return *type;
}

/// Whether the supply of a stage is there before its valve emits: silicon, or a rectifier that warms faster.
bool supplyComesFirst(const ColdValve& at) {
    const RectifierType* r =
        at.catalogue.rectifier(rectifierTypeOf(at.b.supply, at.b.channels[at.channel].stages[at.p.stage].node));
    constexpr double alike = 0.9;
    return !r || !r->vacuum || r->heater.warmUp < alike * at.type()->heater.warmUp;
}

/// A grid that hangs on a plate stands at the supply's volts while its own cathode is cold and at ground.
void coldGrid(const ColdValve& at, const plan::SchematicFigures& cold, std::vector<Finding>& out) {
    const double volts = at.p.grid - at.p.cathode;
    if (!(volts > sparkVolts) || !supplyComesFirst(at)) return;
    Finding x = finding("bias", at.id("cold-grid"), Level::Warn,
                        fmt::format("{}'s grid stands {} above its cold cathode", at.name(), coldVolts(volts)),
                        "Until it warms up sparks from grid to cathode strip the coating. A diode from grid to cathode "
                        "carries that current past it and does nothing once the valve works.");
    const auto net = [&](const char* electrode) {
        const std::string own = at.type()->sections() > 1 ? fmt::format("{} {}", electrode, at.p.section) : electrode;
        const auto pin = std::find_if(cold.pins.begin(), cold.pins.end(), [&](const plan::PinFigure& f) {
            return f.part == at.bottle().id && f.electrode == own;
        });
        return pin == cold.pins.end() ? std::string() : pin->net;
    };
    const std::string grid = net("grid"), cathode = net("cathode");
    if (!grid.empty() && !cathode.empty()) {
        DiodePart diode;
        diode.id = freshId(at.b, "d1");
        x.fix = insertAt("a silicon diode from grid to cathode", "/loose/-",
                         LoosePart{{}, grid, cathode, "spares the grid while it is cold", diode});
    }
    out.push_back(std::move(x));
}

void coldHeater(const ColdValve& at, const plan::Steady& cold, std::vector<Finding>& out) {
    if (at.type()->heater.directlyHeated) return;
    const auto winding = heaterWindingOf(at.b, at.bottle());
    if (!winding) return;
    const double apart = at.p.cathode - cold.heaterReference(at.b.transformer.heaters[*winding]);
    againstValveLimit(out, at.id("cold-heater"), fmt::format("{} heater to cathode while cold", at.name()),
                      std::abs(apart), at.type()->section(at.p.section).limits.heaterCathodeVolts, Unit::Volt,
                      " before any valve draws, with mains at the high end. Another reference for its heaters, or a "
                      "winding of its own.");
}

void coldRules(const Build& b, const Catalogue& catalogue, const plan::Steady& cold, const plan::SchematicFigures& nets,
               std::vector<Finding>& out) {
    const plan::ChannelSupply supply = plan::supplyOf(b, cold);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const auto point = plan::ChannelDc(b, catalogue, k).at(supply);
        if (!point) continue;
        for (const plan::ValvePoint& p : point->valves) {
            const ColdValve at{b, catalogue, k, p};
            if (!at.type()) continue;
            const TypeSection& section = at.type()->section(p.section);
            const ValveLimits& l = section.limits;
            coldElectrode(at, "plate", p.plate - p.cathode, l.coldPlateVolts, l.mostPlateVolts(), out);
            if (section.pentode && p.screen != p.plate)
                coldElectrode(at, "screen", p.screen - p.cathode, l.coldScreenVolts, l.mostScreenVolts(), out);
            coldGrid(at, nets, out);
            coldHeater(at, cold, out);
        }
    }
}

/// A plate that works into iron swings above the supply by as much as below. At its crest hardly any current flows, so
/// that the cold rating holds; a transformer's load at the rated volts, which every sheet shows, reaches twice those.
void crestRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.channels.size() && k < f.power.size() && k < f.high->channels.size(); ++k) {
        const Stage* stage = schematic::outputStage(b.channels[k]);
        const StagePart* iron = stage ? stage->part("transformer") : nullptr;
        const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
        if (!t || !(f.power[k].clipOutput > 0)) continue;
        const bool pair = schematic::stageKind(stage->kind)->in == schematic::Phases::Two;
        const double swing = std::numbers::sqrt2 * f.power[k].clipOutput *
                             std::sqrt(t->primaryImpedance / t->loadImpedance) / (pair ? 2 : 1);
        for (const plan::ValvePoint& p : f.high->channels[k].valves) {
            const ColdValve at{b, catalogue, k, p};
            if (p.duty != schematic::Duty::Output || !at.type()) continue;
            const ValveLimits& l = at.type()->section(p.section).limits;
            if (!(l.plateVolts > 0)) continue;
            againstValveLimit(out, at.id("plate-crest"), at.name() + " plate at the peak of a full signal",
                              p.plate - p.cathode + swing, std::max(l.coldPlateVolts, 2 * l.mostPlateVolts()),
                              Unit::Volt, " with mains at the high end. A lower supply, or a lower load impedance.");
        }
    }
}

/// What a line output's jack stands at through its coupling capacitor.
void jackRule(const Build& b, const plan::SchematicFigures& at, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        for (std::size_t s = 0; s < b.channels[k].stages.size(); ++s) {
            const Stage& stage = b.channels[k].stages[s];
            const StagePart* coupling = stage.part("coupling");
            if (schematic::dutyOf(stage) != schematic::Duty::LineOut || !coupling || stage.part("fail-safe") ||
                stage.part("control") || stage.part("transformer"))
                continue;
            const auto figure = std::find_if(at.parts.begin(), at.parts.end(),
                                             [&](const plan::PartFigure& p) { return p.part == idOf(coupling->part); });
            if (figure == at.parts.end() || !(std::abs(figure->volts) > 10)) continue;
            Finding x = finding(
                "stages", "jack-volts/" + b.channels[k].id, Level::Warn,
                fmt::format("{}'s output jack has no resistor to ground", b.channels[k].name),
                fmt::format(
                    "With nothing plugged in, {}'s leakage brings it to up to {}; a plug put in then sends that "
                    "into what follows, and into a hand.",
                    upper(idOf(coupling->part)), coldVolts(std::abs(figure->volts))));
            for (const schematic::EmptySlot& empty : schematic::emptySlots(stage))
                if (empty.slot->name == "fail-safe") {
                    x.fix = schematic::addPart(b, k, s, *empty.slot, empty.at, schematic::Fill::Resistor);
                    x.fix->name = "a resistor from the jack to ground";
                }
            out.push_back(std::move(x));
        }
}

} // namespace

void coldMomentRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    const auto cold = plan::coldestMoment(b, f);
    const auto nets = cold ? plan::schematicFigures(b, catalogue, *cold)
                           : Expected<plan::SchematicFigures>(Problem{"", "not solved"});
    if (nets) {
        coldRules(b, catalogue, *cold, *nets, out);
        jackRule(b, *nets, out);
    }
    if (f.high) crestRule(b, catalogue, f, out);
}

} // namespace ember::rules
