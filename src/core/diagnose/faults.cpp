#include "faults.h"

#include "core/base/overloaded.h"
#include "core/build/build_json.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::diagnose {

namespace {

constexpr double openOhms = 1e9, shortOhms = 1, openFarads = 1e-12;
constexpr double gassy = 6e-5; // of the cathode's current: six times what a sound valve has at most

/// Whether one goes into the other's socket and works there: the same pins, the same kinds of section.
bool fitsTheSocketOf(const ValveType& a, const ValveType& b) {
    return a.base == b.base && a.heaterPins == b.heaterPins && !a.heaterPins.empty() && a.sections() == b.sections() &&
           std::equal(a.halves.begin(), a.halves.end(), b.halves.begin(),
                      [](const TypeSection& x, const TypeSection& y) {
                          return x.pentode == y.pentode && x.pins.grid == y.pins.grid && x.pins.plate == y.pins.plate &&
                                 !x.pins.plate.empty();
                      });
}

/// "an EL86", "a KT88", "an 845": as the type is spoken.
std::string withArticle(const std::string& type) {
    const bool vowel = type.find_first_of("AEFHILMNORSX8") == 0;
    return (vowel ? "an " : "a ") + type;
}

class Collector {
  public:
    Collector(const Build& build, const Catalogue& all) : b(build), catalogue(all) {}

    void add(std::string id, std::string sentence, double weight, bool common, std::function<void(Build&)> inflict,
             plan::Miswiring wiring = {}) {
        out.push_back({std::move(id), std::move(sentence), weight, common, std::move(inflict), std::move(wiring)});
    }

    void supply() {
        const auto& sections = b.supply.sections;
        bool reservoir = true;
        for (std::size_t k = 0; k < sections.size(); ++k) {
            const Section& s = sections[k];
            const std::string tag = upper(s.id);
            if (s.kind == SectionKind::Capacitor) {
                add("leaky/" + s.id, fmt::format("{} leaks: 4 kΩ across it", tag), 3, reservoir,
                    [k](Build& x) { x.supply.sections[k].leakageResistance = 4e3; });
                add("open/" + s.id, fmt::format("{} is open or not connected", tag), 2, reservoir,
                    [k](Build& x) { x.supply.sections[k].capacitance = 2e-9; });
                add("short/" + s.id, fmt::format("{} is shorted", tag), 1, false,
                    [k](Build& x) { x.supply.sections[k].leakageResistance = 20; });
                add("low/" + s.id, fmt::format("{} has a tenth of its capacitance", tag), 2, false,
                    [k](Build& x) { x.supply.sections[k].capacitance *= 0.1; });
                reservoir = false;
            } else if (s.kind == SectionKind::Tap) {
                add("low/" + s.id, fmt::format("{} gives half its volts", tag), 0.5, false,
                    [k](Build& x) { x.supply.sections[k].volts *= 0.5; });
            } else {
                add("open/" + s.id, fmt::format("{} is open or not connected", tag), 1, false,
                    [k](Build& x) { x.supply.sections[k].resistance = 1e7; });
                if (s.kind != SectionKind::Fuse)
                    add("short/" + s.id, fmt::format("{} is bridged", tag), 0.5, false, [k](Build& x) {
                        x.supply.sections[k].resistance = 1;
                        x.supply.sections[k].inductance = 1e-3;
                    });
                if (s.kind == SectionKind::Resistor)
                    for (const auto& [word, factor] :
                         {std::pair{"ten times too large", 10.0}, {"a tenth of its value", 0.1}})
                        add(fmt::format("{}/{}", factor > 1 ? "high" : "low", s.id), fmt::format("{} is {}", tag, word),
                            1, false, [k, f = factor](Build& x) { x.supply.sections[k].resistance *= f; });
            }
        }
        for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k)
            add("open/" + b.supply.bleeders[k].resistor.id,
                fmt::format("{} is open", upper(b.supply.bleeders[k].resistor.id)), 1, false,
                [k](Build& x) { x.supply.bleeders[k].resistor.resistance = openOhms; });
        const std::string rectifier = upper(b.supply.rectifier.id);
        add("weak/" + b.supply.rectifier.id, fmt::format("{} is worn out", rectifier), 2, true,
            [](Build& x) { x.supply.rectifier.emission = 0.2; });
        add("low/" + b.transformer.id, fmt::format("{}'s plate winding gives half its volts", upper(b.transformer.id)),
            0.3, false, [](Build& x) { x.transformer.plateVolts *= 0.5; });
        add("high-ohms/" + b.transformer.id,
            fmt::format("a bad joint in {}'s plate winding: 1 kΩ", upper(b.transformer.id)), 0.5, false,
            [](Build& x) { x.transformer.plateResistance += 1e3; });
        for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
            const std::string id = b.transformer.heaters[k].id;
            add("bad-joint/" + id, fmt::format("a bad joint in heater winding {}: 0.5 Ω", upper(id)), 1, false,
                [k](Build& x) { x.transformer.heaters[k].resistance += 0.5; });
        }
        if (!biasIsFed(b.bias, b.transformer)) return;
        add("open/" + b.bias.series.id, fmt::format("the bias supply is open at {}", upper(b.bias.series.id)), 1, true,
            [](Build& x) { x.bias.series.resistance = openOhms; });
        for (const auto& [member, name] :
             {std::pair{&BiasSupply::reservoir, &b.bias.reservoir}, {&BiasSupply::second, &b.bias.second}}) {
            add("open/" + name->id, fmt::format("{} is open or not connected", upper(name->id)), 1, false,
                [m = member](Build& x) { (x.bias.*m).capacitance = 1e-9; });
            add("leaky/" + name->id, fmt::format("{} leaks: 2 kΩ across it", upper(name->id)), 2, false,
                [m = member](Build& x) { (x.bias.*m).leakageResistance = 2e3; });
        }
        add("low-bias", "the bias winding gives half its volts", 0.3, false, [](Build& x) {
            x.transformer.biasVolts *= 0.5;
            x.bias.feed *= 2;
        });
    }

    void part(const std::string& id, const PartValue& value, const std::string& role, bool common,
              const std::function<PartValue&(Build&)>& at) {
        const std::string tag = upper(id);
        const auto set = [&](const char* what, std::string words, double weight, bool first, auto change) {
            add(fmt::format("{}/{}", what, id),
                fmt::format("{}{} {}", tag, role.empty() ? "" : ", " + role + ",", words), weight, first,
                [at, change](Build& x) { change(at(x)); });
        };
        std::visit(
            Overloaded{[&](const ResistorPart&) {
                           const auto times = [](double factor) {
                               return [factor](PartValue& p) { std::get<ResistorPart>(p).resistance *= factor; };
                           };
                           set("open", "is open or not connected", 1, common,
                               [](PartValue& p) { std::get<ResistorPart>(p).resistance = openOhms; });
                           set("short", "is bridged", 0.3, false,
                               [](PartValue& p) { std::get<ResistorPart>(p).resistance = shortOhms; });
                           set("high", "is ten times too large", 1, false, times(10));
                           set("low", "is a tenth of its value", 1, false, times(0.1));
                       },
                       [&](const CapacitorPart&) {
                           const auto leak = [](double ohms) {
                               return [ohms](PartValue& p) { std::get<CapacitorPart>(p).leakageResistance = ohms; };
                           };
                           set("open", "is open or not connected", 1, false,
                               [](PartValue& p) { std::get<CapacitorPart>(p).capacitance = openFarads; });
                           set("leaky", "leaks: 4 MΩ across it", 3, common, leak(4e6));
                           set("very-leaky", "leaks: 100 kΩ across it", 1, false, leak(100e3));
                           set("short", "is shorted", 0.5, false, leak(shortOhms));
                       },
                       [&](const ChokePart&) {
                           set("open", "is open", 1, common,
                               [](PartValue& p) { std::get<ChokePart>(p).resistance = openOhms; });
                       },
                       [&](const PotentiometerPart&) {
                           set("open", "has an open track", 1, common,
                               [](PartValue& p) { std::get<PotentiometerPart>(p).resistance = openOhms; });
                       },
                       [&](const OutputTransformer&) {
                           set("half-open-a", "has an open winding half A", 1, common,
                               [](PartValue& p) { std::get<OutputTransformer>(p).primaryResistanceA = openOhms; });
                           set("half-open-b", "has an open winding half B", 1, false,
                               [](PartValue& p) { std::get<OutputTransformer>(p).primaryResistanceB = openOhms; });
                           set("half-short-a", "has half A shorted to a third of its copper", 0.3, false,
                               [](PartValue& p) { std::get<OutputTransformer>(p).primaryResistanceA *= 0.33; });
                           set("half-short-b", "has half B shorted to a third of its copper", 0.3, false,
                               [](PartValue& p) { std::get<OutputTransformer>(p).primaryResistanceB *= 0.33; });
                       },
                       [&](const CurrentSourcePart&) {
                           set("open", "is open", 1, common,
                               [](PartValue& p) { std::get<CurrentSourcePart>(p).amps = 1e-9; });
                           set("high", "gives twice its current", 1, false,
                               [](PartValue& p) { std::get<CurrentSourcePart>(p).amps *= 2; });
                       },
                       [&](const DiodePart&) {
                           set("more", "has a diode too many", 0.5, false,
                               [](PartValue& p) { std::get<DiodePart>(p).inSeries += 1; });
                       },
                       [&](const ZenerPart&) {
                           set("low", "holds half its volts", 0.5, false,
                               [](PartValue& p) { std::get<ZenerPart>(p).volts *= 0.5; });
                       },
                       [&](const AdjusterPart&) {
                           set("hot", "stands at its hot end", 0.5, false,
                               [](PartValue& p) { std::get<AdjusterPart>(p).position = 0; });
                       }},
            value);
    }

    void channels() {
        for (std::size_t c = 0; c < b.channels.size(); ++c)
            for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s) {
                const Stage& stage = b.channels[c].stages[s];
                for (std::size_t p = 0; p < stage.parts.size(); ++p) {
                    const StagePart& x = stage.parts[p];
                    const std::string& id = idOf(x.part);
                    if (x.slot == "load") continue;
                    const bool common =
                        x.slot == "transformer" || x.slot == "coupling" || x.slot == "plate" || x.slot == "cathode";
                    part(id.empty() ? fmt::format("{}-{}-{}{}", b.channels[c].id, stage.id, x.slot, x.at) : id, x.part,
                         x.slot, common,
                         [c, s, p](Build& y) -> PartValue& { return y.channels[c].stages[s].parts[p].part; });
                }
                for (const StageValve& v : stage.valves) leads(v);
            }
        for (std::size_t k = 0; k < b.loose.size(); ++k)
            part(idOf(b.loose[k].part), b.loose[k].part, "", false,
                 [k](Build& y) -> PartValue& { return y.loose[k].part; });
    }

    /// Two leads of a valve exchanged, or one that was forgotten.
    void leads(const StageValve& v) {
        const Valve* bottle = nullptr;
        for (const Valve& x : b.bottles)
            if (x.id == v.bottle) bottle = &x;
        const ValveType* type = bottle ? catalogue.valve(bottle->type) : nullptr;
        if (!type) return;
        const auto pin = [&](const char* electrode) {
            return type->sections() > 1 ? fmt::format("{} {}", electrode, v.section) : std::string(electrode);
        };
        std::vector<const char*> electrodes{"grid", "plate", "cathode"};
        if (type->section(v.section).pentode) electrodes.insert(electrodes.begin() + 1, "screen");
        using Kind = schematic::NamedVariation::Kind;
        const auto name = [&](const char* e) { return fmt::format("{} {}", upper(v.bottle), pin(e)); };
        const auto id = [&](const char* e) {
            return fmt::format("{}{}", e, type->sections() > 1 ? std::to_string(v.section) : "");
        };
        for (std::size_t k = 0; k < electrodes.size(); ++k) {
            add(fmt::format("off/{}-{}", v.bottle, id(electrodes[k])),
                fmt::format("nothing is connected to {}", name(electrodes[k])), 1, false, [](Build&) {},
                {{Kind::Open, v.bottle, pin(electrodes[k]), "", "", 0}});
            for (std::size_t n = k + 1; n < electrodes.size(); ++n)
                add(fmt::format("swapped/{}-{}-{}", v.bottle, id(electrodes[k]), id(electrodes[n])),
                    fmt::format("the leads of {} and {} are exchanged", name(electrodes[k]), name(electrodes[n])), 0.7,
                    false, [](Build&) {},
                    {{Kind::Swapped, v.bottle, pin(electrodes[k]), v.bottle, pin(electrodes[n]), 0}});
        }
    }

    void bottles() {
        using Kind = schematic::NamedVariation::Kind;
        for (std::size_t k = 0; k < b.bottles.size(); ++k) {
            const Valve& v = b.bottles[k];
            const ValveType* type = catalogue.valve(v.type);
            if (!type) continue;
            const std::string tag = upper(v.id);
            add("dead/" + v.id, fmt::format("{} is dead or its heater is open", tag), 2, true,
                [k](Build& x) { x.bottles[k].emission = 0; });
            add("weak/" + v.id, fmt::format("{} is worn: half its current", tag), 2, false,
                [k](Build& x) { x.bottles[k].emission *= 0.5; });
            add("gas/" + v.id, fmt::format("{} has gas: ions make its grid positive", tag), 1, false,
                [k](Build& x) { x.bottles[k].gas = gassy; });
            if (std::any_of(type->halves.begin(), type->halves.end(), [](const TypeSection& s) { return s.pentode; }))
                add("screen/" + v.id, fmt::format("{} gives three times the current to its screen", tag), 0.3, false,
                    [k](Build& x) { x.bottles[k].screen = std::min(5.0, 3 * x.bottles[k].screen); });
            for (int section = 1; section <= type->sections(); ++section) {
                const auto pin = [&](const char* electrode) {
                    return type->sections() > 1 ? fmt::format("{} {}", electrode, section) : std::string(electrode);
                };
                const std::string which = type->sections() > 1 ? fmt::format("{}-{}", v.id, section) : v.id;
                add("gassy/" + which, fmt::format("{} is gassy: its {} is pulled up", tag, pin("grid")), 1, false,
                    [](Build&) {}, {{Kind::Leak, v.id, pin("plate"), v.id, pin("grid"), 50e6}});
                add("heater-leak/" + which,
                    fmt::format("{} leaks from its {} to its heater: 50 kΩ", tag, pin("cathode")), 1, false,
                    [](Build&) {}, {{Kind::Leak, v.id, pin("cathode"), "", "ground", 50e3}});
                add("touching/" + which, fmt::format("{} and {} touch in {}", pin("grid"), pin("cathode"), tag), 0.5,
                    false, [](Build&) {}, {{Kind::Leak, v.id, pin("grid"), v.id, pin("cathode"), 10}});
            }
            // A likely mix-up: the type that the catalogue names, else the first that works in this socket.
            const ValveType* other = catalogue.valve(type->mistakenFor);
            for (const ValveType& t : catalogue.valves)
                if (&t != type && !other && fitsTheSocketOf(t, *type)) other = &t;
            if (other)
                add("other-type/" + v.id, fmt::format("{} is {}", tag, withArticle(other->type)), 0.5, false,
                    [k, name = other->type](Build& x) { x.bottles[k].type = name; });
        }
    }

    const Build& b;
    const Catalogue& catalogue;
    std::vector<Fault> out;
};

} // namespace

std::vector<Fault> faultsOf(const Build& b, const Catalogue& catalogue) {
    Collector all(b, catalogue);
    all.supply();
    all.bottles();
    all.channels();
    return std::move(all.out);
}

} // namespace ember::diagnose
