#include "place_all.h"

#include "bodies.h"
#include "kept_layouts.h"
#include "layout_edits.h"
#include "pins.h"

#include "arrange/arrange.h"

#include "core/build/path.h"
#include "core/build/structure.h"
#include "core/catalogue/bases.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <set>

namespace ember::chassis {

namespace {

constexpr double powerResistor = 7; // [W] from here on a resistor is bolted to the chassis
constexpr double outputIronVa = 4;  // [VA] per watt of signal: cores for low frequencies are large

/// An iron core's size by what its choke stores at its rated current.
double chokeVa(double hertz, double henries, double amps) {
    return 2 * std::numbers::pi * hertz * henries * amps * amps;
}

/// What the circuit needs on a chassis, and a body for each.
class Stock {
  public:
    Stock(const Build& build, const Catalogue& types) : b(build), catalogue(types) {
        for (const PlacedPart& p : b.chassis.parts) {
            ids.insert(p.id);
            if (!p.of.empty()) placed.insert(p.of);
            const auto own = std::find_if(b.supply.sections.begin(), b.supply.sections.end(),
                                          [&](const Section& x) { return x.id == p.of; });
            if (own == b.supply.sections.end()) kinds.insert(p.kind); // a standby switch is not the mains switch
        }
    }

    void supply() {
        const PowerTransformer& t = b.transformer;
        part(t.id, "transformer-upright", rounded(ratedVoltAmperes(t, b.supply.connection)));
        for (const HeaterWinding& w : t.heaters)
            if (w.rectified()) part(w.id, "board-heater");
        socket(b.supply.rectifier.id, b.supply.rectifier.type);
        for (const Section& s : b.supply.sections) {
            switch (s.kind) {
            case SectionKind::Capacitor: part(s.id, "can", s.capacitance, s.volts); break;
            case SectionKind::Choke:
                part(s.id, "choke-upright", rounded(chokeVa(b.mains.frequency, s.inductance, s.amps)));
                break;
            case SectionKind::Resistor:
                if (s.watts >= powerResistor) part(s.id, "resistor-chassis");
                break;
            case SectionKind::Switch: part(s.id, "switch-toggle", 0, 0, Face::Front); break;
            case SectionKind::Fuse: part(s.id, "fuse-holder"); break;
            case SectionKind::Meter: part(s.id, "meter"); break;
            case SectionKind::Tap: socket(s.id, s.type); break;
            }
        }
    }

    void channel(const Channel& ch) {
        part("input-" + ch.id, "jack", 0, 0, Face::Front);
        for (const std::string& id : bottlesOf(ch))
            for (const Valve& v : b.bottles)
                if (v.id == id) socket(id, v.type);
        for (const Stage& stage : ch.stages)
            for (const StagePart& p : stage.parts) {
                if (const auto* iron = std::get_if<OutputTransformer>(&p.part))
                    part(iron->id, "transformer-upright", rounded(outputIronVa * iron->watts));
                else if (const auto* choke = std::get_if<ChokePart>(&p.part))
                    part(choke->id, "choke-upright",
                         rounded(chokeVa(b.mains.frequency, choke->inductance, choke->amps)));
                else if (std::holds_alternative<PotentiometerPart>(p.part))
                    part(idOf(p.part), "potentiometer");
            }
        part("output-" + ch.id, "terminals-output");
    }

    void common() {
        for (const auto& [kind, body, name] : {std::tuple{"inlet", "inlet", "p-inlet"},
                                               {"earth", "earth-bolt", "p-earth"},
                                               {"switch", "switch-toggle", "p-switch"},
                                               {"lamp", "lamp-pilot", "p-lamp"}})
            if (!kinds.contains(kind)) add("", body, name, 0, 0);
        part(b.fuse.id, "fuse-holder");
        if (!kinds.contains("board"))
            for (std::size_t k = 0; k < b.channels.size(); ++k)
                add("", "strip-tag", fmt::format("p-strip{}", k + 1), 0, 0);
    }

    Missing out;

  private:
    /// As iron is sold: 5 VA steps.
    static double rounded(double va) { return std::max(5.0, 5 * std::round(va / 5)); }
    void part(const std::string& of, const char* body, double size = 0, double volts = 0,
              std::optional<Face> face = {}) {
        if (of.empty() || !placed.insert(of).second) return;
        add(of, body, "p-" + of, size, volts, face);
    }
    void socket(const std::string& of, const std::string& type) {
        const ValveType* valve = catalogue.valve(type);
        const RectifierType* rectifier = catalogue.rectifier(type);
        if (!valve && (!rectifier || !rectifier->vacuum)) return; // silicon stands on a strip
        const std::string base = valve ? valve->base : rectifier->base;
        const auto form =
            std::find_if(baseForms.begin(), baseForms.end(), [&](const auto& f) { return f.name == base; });
        if (form != baseForms.end())
            for (const std::string& body :
                 {fmt::format("socket-{}-clip", form->body), fmt::format("socket-{}", form->body)})
                if (std::any_of(bodyKinds().begin(), bodyKinds().end(), [&](const auto& k) { return k.id == body; }))
                    return part(of, body.c_str());
        if (!placed.contains(of)) out.unknown.push_back(fmt::format("{} ({})", upper(of), base.empty() ? type : base));
    }
    void add(const std::string& of, const char* body, std::string id, double size, double volts,
             std::optional<Face> face = {}) {
        auto made = makePart(body, size, volts);
        if (!made) return out.unknown.push_back(of.empty() ? body : upper(of));
        PlacedPart p = *made;
        p.of = of;
        while (!ids.insert(id).second) id += "b";
        p.id = id;
        if (face) p.face = *face;
        const Frame f = frameOf(b.chassis, p.face);
        p.x = f.width / 2;
        p.y = f.height / 2;
        out.parts.push_back(std::move(p));
    }

    const Build& b;
    const Catalogue& catalogue;
    std::set<std::string> ids, placed, kinds;
};

/// All parts of an empty chassis in the best arrangement; on the smallest usual plate that takes them where its own
/// does not. Nothing when stopped, or where an arrangement has nothing to arrange.
std::optional<Chassis> arranged(Build b, const Catalogue& catalogue, const plan::Figures& figures,
                                std::stop_token stop) {
    std::optional<arrange::Arrangement> best;
    Chassis plate = b.chassis;
    const auto tryHere = [&] {
        for (arrange::Arrangement& a : arrange::arrangements(b, catalogue, figures, {.stop = stop}))
            if (!a.family->below && (!best || arrange::better(a, *best))) { // a tower is the builder's own choice
                best = std::move(a);
                plate = b.chassis;
            }
    };
    tryHere();
    const double own = b.chassis.width * b.chassis.depth;
    for (const auto& [width, depth] : usualPlates()) {
        if (!best || best->misfits == 0 || stop.stop_requested()) break;
        if (width * depth <= own) continue;
        b.chassis.width = width;
        b.chassis.depth = depth;
        tryHere();
    }
    if (!best || stop.stop_requested()) return std::nullopt;
    return withPlaces(plate, best->places);
}

} // namespace

Missing missingParts(const Build& b, const Catalogue& catalogue) {
    Stock stock(b, catalogue);
    stock.supply();
    for (const Channel& ch : b.channels) stock.channel(ch);
    stock.common();
    return stock.out;
}

Expected<Edit> placeAll(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                        std::stop_token stop) {
    const Missing missing = missingParts(b, catalogue);
    if (missing.parts.empty()) return Problem{"", "every part of the circuit has its place on the chassis"};
    Build all = b;
    for (const PlacedPart& p : missing.parts) all.chassis.parts.push_back(p);
    const bool empty = std::none_of(b.chassis.parts.begin(), b.chassis.parts.end(),
                                    [](const PlacedPart& p) { return isPlate(p.face); });
    const auto whole = empty ? arranged(all, catalogue, figures, stop) : std::nullopt;
    if (whole) {
        all.chassis = *whole;
    } else { // what stands on the plate stays
        all.chassis = b.chassis;
        for (PlacedPart p : missing.parts) {
            if (stop.stop_requested()) break;
            (void)standFree(all.chassis, p, liveVolts(figures));
            all.chassis.parts.push_back(std::move(p));
        }
    }
    if (stop.stop_requested()) return Problem{"", "stopped; nothing was placed"};
    std::vector<Edit> edits;
    if (all.chassis.width != b.chassis.width) edits.push_back(setValue("", "/chassis/width", all.chassis.width));
    if (all.chassis.depth != b.chassis.depth) edits.push_back(setValue("", "/chassis/depth", all.chassis.depth));
    edits.push_back(usePlaces("", b.chassis, placesOf(all.chassis)));
    for (std::size_t k = b.chassis.parts.size(); k < all.chassis.parts.size(); ++k)
        edits.push_back(insertAt("", "/chassis/parts/-", all.chassis.parts[k]));
    if (whole) // the parts have the same indices after the edits
        for (Edit& turn : socketTurns(all, catalogue)) edits.push_back(std::move(turn));
    return together(missing.parts.size() == 1 ? "place " + tagOf(missing.parts[0]) : "place the missing parts", edits);
}

} // namespace ember::chassis
