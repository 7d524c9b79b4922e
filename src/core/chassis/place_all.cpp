#include "place_all.h"

#include "bodies.h"
#include "kept_layouts.h"
#include "pins.h"

#include "arrange/arrange.h"

#include "core/build/path.h"
#include "core/build/structure.h"
#include "core/catalogue/bases.h"
#include "core/quantity/letters.h"
#include "core/schematic/channel_parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace ember::chassis {

namespace {

constexpr double powerResistor = 7; // [W] from here on a resistor is bolted to the chassis
constexpr double outputIronVa = 4;  // [VA] per watt of signal: cores for low frequencies are large

class Stock {
  public:
    Stock(const Build& build, const Catalogue& types) : b(build), catalogue(types) {
        for (const PlacedPart& p : b.chassis.parts) {
            ids.insert(p.id);
            if (!p.of.empty()) placed.insert(p.of);
            kinds.insert(p.kind);
        }
    }

    void supply() {
        const PowerTransformer& t = b.transformer;
        double va = (b.supply.connection == Connection::CentreTapped ? 2 : 1) * t.plateVolts * t.plateAmps;
        for (const HeaterWinding& w : t.heaters) va += w.volts * w.amps;
        part(t.id, "transformer-upright", rounded(va));
        socket(b.supply.rectifier.id, b.supply.rectifier.type);
        for (const Section& s : b.supply.sections) {
            switch (s.kind) {
            case SectionKind::Capacitor: part(s.id, "can", s.capacitance, s.volts); break;
            case SectionKind::Choke:
                part(s.id, "choke-upright",
                     rounded(2 * std::numbers::pi * b.mains.frequency * s.inductance * s.amps * s.amps));
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
                    part(iron->id, "transformer-upright", outputIronVa * std::max(2.0, iron->watts));
                else if (const auto* choke = std::get_if<ChokePart>(&p.part))
                    part(choke->id, "choke-upright");
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

const arrange::Arrangement* bestOf(const std::vector<arrange::Arrangement>& all) {
    const auto at = std::min_element(all.begin(), all.end(), [](const auto& x, const auto& y) {
        return std::pair(x.misfits, x.total) < std::pair(y.misfits, y.total);
    });
    return at == all.end() ? nullptr : &*at;
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
    const auto arranged = arrange::arrangements(all, catalogue, figures, {{}, stop, nullptr});
    const arrange::Arrangement* best = bestOf(arranged);
    if (!best) return Problem{"", "stopped; nothing was placed"};
    std::vector<Standing> places = best->places;
    if (best->misfits > 0) { // another plate: of the arrangement that needs the least
        const auto least = std::min_element(arranged.begin(), arranged.end(), [](const auto& x, const auto& y) {
            return x.leastWidth * x.leastDepth < y.leastWidth * y.leastDepth;
        });
        std::size_t misfits = best->misfits;
        for (const auto& [width, depth] : usualPlates()) {
            if (misfits == 0 || stop.stop_requested()) break;
            if (width < least->leastWidth || depth < least->leastDepth) continue;
            Build larger = all;
            larger.chassis.width = width;
            larger.chassis.depth = depth;
            const auto once = arrange::arrangements(larger, catalogue, figures, {{}, stop, nullptr});
            const arrange::Arrangement* fits = bestOf(once);
            if (!fits || fits->misfits >= misfits) continue;
            misfits = fits->misfits;
            places = fits->places;
            all.chassis.width = width;
            all.chassis.depth = depth;
        }
    }
    if (stop.stop_requested()) return Problem{"", "stopped; nothing was placed"};
    const Chassis done = withPlaces(all.chassis, places);
    std::vector<Edit> edits;
    if (done.width != b.chassis.width) edits.push_back(setValue("", "/chassis/width", done.width));
    if (done.depth != b.chassis.depth) edits.push_back(setValue("", "/chassis/depth", done.depth));
    edits.push_back(usePlaces("", b.chassis, places));
    for (std::size_t k = b.chassis.parts.size(); k < done.parts.size(); ++k)
        edits.push_back(insertAt("", "/chassis/parts/-", done.parts[k]));
    all.chassis = done; // with the same indices as after the edits
    for (Edit& turn : socketTurns(all, catalogue)) edits.push_back(std::move(turn));
    return together("place all parts", edits);
}

} // namespace ember::chassis
