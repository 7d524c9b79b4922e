#include "parts_list.h"

#include "core/chassis/bodies.h"
#include "core/chassis/finishes.h"
#include "core/chassis/fixings.h"
#include "core/chassis/layout_figures.h"
#include "core/quantity/letters.h"
#include "core/schematic/stages/stage_kind.h"
#include "core/wires/clips.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

namespace ember::report {

namespace {

constexpr std::array<const char*, 8> groups{"valves", "iron",     "capacitors", "resistors",
                                            "other",  "fittings", "chassis",    "wire"};
constexpr const char *valves = groups[0], *ironware = groups[1], *capacitors = groups[2], *resistors = groups[3],
                     *others = groups[4], *fittings = groups[5], *chassisware = groups[6], *wire = groups[7];

std::string ohms(double v) {
    return formatExact(v, Unit::Ohm);
}
/// As ratings are called: half a watt is 0.5 W.
std::string watts(double v) {
    return fmt::format("{:g} W", v);
}
std::string resistorWords(double resistance, double rated) {
    return fmt::format("resistor {} {}", ohms(resistance), watts(rated));
}
std::string capacitorWords(double farads, double volts) {
    return fmt::format("capacitor {} {}", formatExact(farads, Unit::Farad), formatExact(volts, Unit::Volt));
}
std::string chokeWords(double henry, double amps) {
    return fmt::format("choke {} {}", formatExact(henry, Unit::Henry), formatExact(amps, Unit::Ampere));
}

/// Loudspeaker and cable, or what follows a line output: in the plan, and not in the amplifier.
bool beyondTheOutput(const Stage& s, const StagePart& p) {
    const schematic::StageKind* kind = schematic::stageKind(s.kind);
    return kind && (kind->duty == schematic::Duty::Output || kind->duty == schematic::Duty::LineOut) &&
           (p.slot == "load" || p.slot == "cable");
}

class Lines {
  public:
    Lines(const Build& build, const Catalogue& types, const plan::Figures& f) : b(build), catalogue(types), figures(f) {
        for (const PlacedPart& p : b.chassis.parts)
            if (p.kind != "socket" && p.kind != "board" && !p.of.empty()) placed.emplace(p.of, &p);
    }

    void mains() {
        const PowerTransformer& t = b.transformer;
        add(ironware,
            fmt::format("power transformer {}, {} a leg, {:.0f} VA", formatExact(t.primaryVolts, Unit::Volt),
                        formatExact(t.plateVolts, Unit::Volt), ratedVoltAmperes(t, b.supply.connection)),
            t.id);
        static constexpr std::array breaking{"glass", "enhanced breaking capacity 150 A",
                                             "ceramic, high breaking capacity 1500 A"};
        add(others,
            fmt::format("fuse {} {}, {}, {}", formatExact(b.fuse.amps, Unit::Ampere),
                        b.fuse.slow ? "time-lag" : "quick", formatExact(b.fuse.volts, Unit::Volt),
                        breaking[static_cast<std::size_t>(b.fuse.breaking)]),
            b.fuse.id);
        if (b.thermistor.cold > 0)
            add(others, fmt::format("thermistor {} cold", ohms(b.thermistor.cold)), b.thermistor.id);
        for (const HeaterWinding& w : t.heaters) heater(w);
    }
    void supply() {
        const Supply& s = b.supply;
        rectifier(s.rectifier.type, s.rectifier.id, silicon(s.connection) * s.rectifier.inSeries);
        if (s.connection == Connection::HybridBridge)
            add(others, "diode for the ground side of the bridge", s.rectifier.id, 2);
        if (s.rectifier.legResistance > 0)
            add(resistors, resistorWords(s.rectifier.legResistance, s.rectifier.legWatts), s.rectifier.id,
                s.connection == Connection::HalfWave || s.connection == Connection::Doubler ? 1 : 2);
        for (const Section& section : s.sections) this->section(section);
        for (const Bleeder& x : s.bleeders)
            add(resistors, resistorWords(x.resistor.resistance, x.resistor.watts), x.resistor.id, x.inSeries);
    }
    void bias() {
        const BiasSupply& x = b.bias;
        if (!biasIsFed(x, b.transformer)) return;
        add(others, x.diode + " diode", "bias", x.from == BiasSource::PlateCapacitor ? 2 : 1);
        if (x.from != BiasSource::Winding) add(resistors, resistorWords(x.feed, x.feedWatts), "bias");
        if (x.from == BiasSource::PlateCapacitor)
            add(capacitors, capacitorWords(x.feedCapacitance, x.feedVolts), "bias");
        add(capacitors, capacitorWords(x.reservoir.capacitance, x.reservoir.volts), x.reservoir.id);
        add(resistors, resistorWords(x.series.resistance, x.series.watts), x.series.id);
        add(capacitors, capacitorWords(x.second.capacitance, x.second.volts), x.second.id);
    }
    void stages() {
        for (const Valve& v : b.bottles) add(valves, v.type, v.id);
        for (const Channel& ch : b.channels)
            for (const Stage& s : ch.stages)
                for (const StagePart& p : s.parts)
                    if (!beyondTheOutput(s, p)) part(p.part);
        for (const LoosePart& p : b.loose) part(p.part);
    }
    void chassis() {
        for (const PlacedPart& p : b.chassis.parts) {
            if (taken.contains(&p)) continue;
            const auto& kinds = chassis::bodyKinds();
            const auto kind = std::find_if(kinds.begin(), kinds.end(), [&](const auto& k) { return k.id == p.body; });
            ListedPart& line = at(fittings, kind == kinds.end() ? p.kind : lower(kind->label));
            line.count += 1;
            line.ids.push_back(p.of.empty() ? p.id : p.of);
            line.mass = (std::isfinite(line.mass) ? line.mass : 0) + p.mass;
        }
        for (const chassis::Fixing& f : chassis::fixingsOf(b.chassis)) {
            ListedPart& line = at(fittings, f.words);
            line.count += f.count;
            line.ids = f.parts;
        }
        for (const chassis::FinishPart& f : chassis::finishesOf(b.chassis, chassis::assemble(b.chassis))) {
            ListedPart& line = at(chassisware, f.words);
            line.count += f.count;
            line.mass = (std::isfinite(line.mass) ? line.mass : 0) + f.mass;
        }
    }
    void wires() {
        if (!figures.wires) return;
        for (const wires::WireMetres& w : wires::wireToBuy(figures.wires->harness)) {
            ListedPart& line = at(wire, fmt::format("wire {:g} mm\u00b2 {}", w.area * 1e6, w.colour));
            line.count = w.metres, line.metres = true;
            line.mass = w.metres * w.area * 8960; // its copper
        }
        const wires::Clips clips = wires::clipsOf(b.chassis, figures.wires->harness);
        if (clips.count > 0)
            at(wire, fmt::format("clip, sleeved for {}", formatExact(clips.rated, Unit::Volt))).count = clips.count;
    }
    [[nodiscard]] PartsList result() {
        PartsList out;
        for (const char* group : groups)
            for (ListedPart& line : lines)
                if (line.group == group) out.lines.push_back(std::move(line));
        for (ListedPart& line : out.lines) {
            const auto price =
                std::find_if(b.prices.begin(), b.prices.end(), [&](const Price& p) { return p.of == line.words; });
            if (price != b.prices.end()) line.each = price->each;
            if (std::isfinite(line.mass)) out.mass += line.mass;
            if (std::isfinite(line.each))
                out.price += line.price();
            else
                ++out.unpriced;
        }
        return out;
    }

  private:
    ListedPart& at(const char* group, const std::string& words) {
        const auto known =
            std::find_if(lines.begin(), lines.end(), [&](const ListedPart& l) { return l.words == words; });
        if (known != lines.end()) return *known;
        return lines.emplace_back(ListedPart{group, words, {}, 0, false});
    }
    void add(const char* group, const std::string& words, const std::string& id, int count = 1) {
        if (count <= 0) return;
        ListedPart& line = at(group, words);
        line.count += count;
        if (!id.empty() && (line.ids.empty() || line.ids.back() != id)) line.ids.push_back(id);
        const auto here = placed.find(id);
        if (here == placed.end() || !taken.insert(here->second).second) return;
        line.mass = (std::isfinite(line.mass) ? line.mass : 0) + here->second->mass;
    }
    [[nodiscard]] static int silicon(Connection c) {
        switch (c) {
        case Connection::Bridge: return 4;
        case Connection::HalfWave: return 1;
        case Connection::CentreTapped:
        case Connection::HybridBridge:
        case Connection::Doubler: break;
        }
        return 2;
    }
    void rectifier(const std::string& type, const std::string& id, int diodes) {
        const RectifierType* r = catalogue.rectifier(type);
        if (r && r->vacuum)
            add(valves, type, id);
        else
            add(others, type + " diode", id, diodes);
    }
    void heater(const HeaterWinding& w) {
        const std::string of = "heaters " + upper(w.id);
        if (w.legResistance > 0) add(resistors, resistorWords(w.legResistance, w.legWatts), of, 2);
        if (w.feeds == "signal" && w.reference == HeaterReference::Resistors && w.referenceOhms > 0)
            add(resistors, resistorWords(w.referenceOhms, 0.5), of, 2);
        if (w.referenceNode > 0) {
            add(resistors, resistorWords(w.lift.top, 0.5), of);
            add(resistors, resistorWords(w.lift.bottom, 0.5), of);
            add(capacitors, capacitorWords(w.lift.capacitance, 100), of);
        }
        if (!w.rectified()) return;
        add(others, w.dc.diode + " diode", of, w.rectifier == HeaterRectifier::FullWave ? 2 : 4);
        add(capacitors, capacitorWords(w.dc.reservoir, w.dc.capacitorVolts), of);
        if (w.dc.second > 0) add(capacitors, capacitorWords(w.dc.second, w.dc.capacitorVolts), of);
        if (w.dc.series > 0) add(resistors, fmt::format("resistor {}", ohms(w.dc.series)), of);
        if (w.dc.regulator != HeaterRegulator::None)
            add(others,
                fmt::format("regulator {} {}", formatExact(w.dc.volts, Unit::Volt),
                            formatExact(w.dc.mostAmps, Unit::Ampere)),
                of);
    }
    void section(const Section& s) {
        const int n = std::max(1, s.inSeries);
        switch (s.kind) {
        case SectionKind::Capacitor:
            add(capacitors, capacitorWords(s.capacitance, s.volts), s.id, n);
            if (s.balancing > 0) add(resistors, resistorWords(s.balancing, 2), s.id, n);
            break;
        case SectionKind::Resistor: add(resistors, resistorWords(s.resistance, s.watts), s.id); break;
        case SectionKind::Choke: add(ironware, chokeWords(s.inductance, s.amps), s.id); break;
        case SectionKind::Switch:
            add(others, fmt::format("switch for {} DC", formatExact(s.dcVolts, Unit::Volt)), s.id);
            break;
        case SectionKind::Fuse:
            add(others,
                fmt::format("fuse {}, {} DC", formatExact(s.amps, Unit::Ampere), formatExact(s.dcVolts, Unit::Volt)),
                s.id);
            break;
        case SectionKind::Meter:
            add(others, fmt::format("panel meter {}", formatExact(s.amps, Unit::Ampere)), s.id);
            break;
        case SectionKind::Tap: rectifier(s.type, s.id, 2 * n); break;
        }
    }
    void part(const PartValue& p) {
        const std::string& id = idOf(p);
        if (const auto* r = std::get_if<ResistorPart>(&p)) add(resistors, resistorWords(r->resistance, r->watts), id);
        if (const auto* c = std::get_if<CapacitorPart>(&p))
            add(capacitors, capacitorWords(c->capacitance, c->volts), id);
        if (const auto* l = std::get_if<ChokePart>(&p)) add(ironware, chokeWords(l->inductance, l->amps), id);
        if (const auto* x = std::get_if<PotentiometerPart>(&p))
            add(others,
                fmt::format("potentiometer {} {}", ohms(x->resistance), x->taper == Taper::Audio ? "audio" : "linear"),
                id);
        if (const auto* t = std::get_if<OutputTransformer>(&p))
            add(ironware,
                fmt::format("transformer {} to {}, {}", ohms(t->primaryImpedance), ohms(t->loadImpedance),
                            watts(t->watts)),
                id);
        if (std::holds_alternative<AdjusterPart>(p)) {
            const BiasSupply& x = b.bias;
            add(others, fmt::format("trimmer {}", ohms(x.adjuster)), id);
            add(resistors, resistorWords(x.floor, 0.5), id);
            if (x.failSafe > 0) add(resistors, resistorWords(x.failSafe, 0.5), id);
        }
        if (const auto* i = std::get_if<CurrentSourcePart>(&p))
            add(others,
                fmt::format("current source {} {}", formatExact(i->amps, Unit::Ampere),
                            formatExact(i->volts, Unit::Volt)),
                id);
        if (const auto* d = std::get_if<DiodePart>(&p))
            add(others,
                fmt::format("diode {} {}", formatExact(d->drop, Unit::Volt), formatExact(d->amps, Unit::Ampere)), id,
                d->inSeries);
        if (const auto* z = std::get_if<ZenerPart>(&p))
            add(others, fmt::format("zener diode {} {}", formatExact(z->volts, Unit::Volt), watts(z->watts)), id);
    }

    const Build& b;
    const Catalogue& catalogue;
    const plan::Figures& figures;
    std::vector<ListedPart> lines;
    std::map<std::string, const PlacedPart*> placed; ///< by the electrical part that they are
    std::set<const PlacedPart*> taken;               ///< those whose line is the electrical part's
};

std::string inQuotes(const std::string& s) {
    std::string out = "\"";
    for (const char c : s) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

} // namespace

std::string ListedPart::tags() const {
    std::string out;
    for (const std::string& id : ids) out += (out.empty() ? "" : " ") + upper(id);
    return out;
}

PartsList partsList(const Build& b, const Catalogue& catalogue, const plan::Figures& figures) {
    Lines lines(b, catalogue, figures);
    lines.stages();
    lines.mains();
    lines.supply();
    lines.bias();
    lines.chassis();
    lines.wires();
    return lines.result();
}

Edit setPrice(const Build& b, const std::string& words, double each) {
    const auto at = std::find_if(b.prices.begin(), b.prices.end(), [&](const Price& p) { return p.of == words; });
    const std::string name = "the price of " + words, place = fmt::format("/prices/{}", at - b.prices.begin());
    if (at == b.prices.end()) return insertAt(name, "/prices/-", Price{{}, words, each});
    if (!std::isfinite(each)) return removeAt("no price for " + words, place);
    return setValue(name, place + "/each", each);
}

std::string csv(const PartsList& list) {
    const auto number = [](double v) { return std::isfinite(v) ? fmt::format("{:.6g}", v) : std::string(); };
    std::string out = "group,part,for,number,unit,kg,price each,total\n";
    for (const ListedPart& l : list.lines) {
        out += fmt::format("{},{},{},{},{},{},{},{}\n", l.group, inQuotes(l.words), inQuotes(l.tags()), number(l.count),
                           l.metres ? "m" : "", number(l.mass), number(l.each), number(l.price()));
    }
    return out;
}

} // namespace ember::report
