#include "build_json.h"
#include "own_types.h"
#include "path.h"

#include "core/catalogue/catalogue.h"

#include <fmt/format.h>

#include <charconv>
#include <map>

namespace ember {

namespace {

class Checker {
  public:
    std::optional<Problem> problem;

    void id(const std::string& name, const std::string& place) {
        if (problem || name.empty()) return;
        const auto [at, fresh] = seen.emplace(name, place);
        if (!fresh)
            fail(place + "/id",
                 fmt::format("the id \"{}\" is already used at {}; give one of the two another", name, at->second));
    }
    void node(int n, int count, const std::string& place) {
        if (!problem && (n < 1 || n > count))
            fail(place, fmt::format("supply node {} does not exist; the chain has nodes 1 to {}", n, count));
    }
    void fail(const std::string& place, std::string sentence) {
        if (!problem) problem = Problem{place, std::move(sentence)};
    }

  private:
    std::map<std::string, std::string> seen;
};

/// What the file itself can tell of the signal path: ids, references, types. Whether the stages make a circuit is the
/// schematic's to say.
void checkPath(const Build& b, int nodes, Checker& check) {
    for (std::size_t k = 0; k < b.types.size(); ++k) {
        if (const auto problem = problemOf(b.types[k])) check.fail(fmt::format("/types/{}", k), problem->sentence);
        if (ownTypeOf(b, b.types[k].id) != &b.types[k])
            check.fail(fmt::format("/types/{}/id", k), fmt::format("there are two types called {}", b.types[k].id));
    }
    if (check.problem) return;
    const Catalogue& catalogue = catalogueOf(b);
    for (const auto& [name, all] : {std::pair("bottles", &b.bottles), {"spares", &b.spares}})
        for (std::size_t k = 0; k < all->size(); ++k) {
            const Valve& v = (*all)[k];
            const auto place = fmt::format("/{}/{}", name, k);
            check.id(v.id, place);
            if (!catalogue.valve(v.type))
                check.fail(place + "/type", fmt::format("the catalogue has no valve \"{}\"", v.type));
        }
    std::size_t stages = 0, parts = b.loose.size();
    std::map<std::string, std::size_t> channels;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& c = b.channels[k];
        const auto [first, fresh] = channels.emplace(c.id, k);
        if (!fresh)
            check.fail(fmt::format("/channels/{}/id", k),
                       fmt::format("channel {} is already called \"{}\"", first->second + 1, c.id));
        std::map<std::string, std::size_t> own;
        for (std::size_t n = 0; n < c.stages.size(); ++n) {
            const Stage& s = c.stages[n];
            const auto place = fmt::format("/channels/{}/stages/{}", k, n);
            if (!own.emplace(s.id, n).second)
                check.fail(place + "/id",
                           fmt::format("the stage \"{}\" is already there; give one of the two another id", s.id));
            check.node(s.node, nodes, place + "/node");
            if (s.screenNode > 0) check.node(s.screenNode, nodes, place + "/screenNode");
            for (std::size_t v = 0; v < s.valves.size(); ++v) {
                const Valve* bottle = bottleOf(b, s.valves[v].bottle);
                const auto at = fmt::format("{}/valves/{}", place, v);
                const ValveType* type = bottle ? catalogue.valve(bottle->type) : nullptr;
                if (!bottle)
                    check.fail(at + "/bottle", fmt::format("the build has no bottle \"{}\"", s.valves[v].bottle));
                else if (type && s.valves[v].section > type->sections())
                    check.fail(at + "/section", fmt::format("{}, a {}, has {} section{}", bottle->id, bottle->type,
                                                            type->sections(), type->sections() > 1 ? "s" : ""));
            }
            for (std::size_t p = 0; p < s.parts.size(); ++p)
                check.id(idOf(s.parts[p].part), fmt::format("{}/parts/{}", place, p));
            parts += s.parts.size();
        }
        stages += c.stages.size();
    }
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        if (const std::string& leader = b.channels[k].follows; !leader.empty()) {
            const auto at = channels.find(leader);
            if (at == channels.end() || at->second == k || !b.channels[at->second].follows.empty())
                check.fail(fmt::format("/channels/{}/follows", k),
                           fmt::format("\"{}\" is not another channel that stands by itself", leader));
        }
    for (std::size_t k = 0; k < b.loose.size(); ++k) {
        check.id(idOf(b.loose[k].part), fmt::format("/loose/{}", k));
        for (const auto& [key, name] : {std::pair{"from", &b.loose[k].from}, std::pair{"to", &b.loose[k].to}}) {
            if (!name->starts_with("B+")) continue; // a net of the paths is looked for when they are wired
            int node = 0;
            const auto [end, error] = std::from_chars(name->data() + 2, name->data() + name->size(), node);
            if (error == std::errc() && end == name->data() + name->size())
                check.node(node, nodes, fmt::format("/loose/{}/{}", k, key));
        }
    }
    if (stages > mostStages)
        check.fail("/channels", fmt::format("{} stages are more than the {} that are read", stages, mostStages));
    if (parts > mostParts)
        check.fail("/channels", fmt::format("{} parts are more than the {} that are read", parts, mostParts));
}

} // namespace

std::optional<Problem> checkReferences(const Build& b) {
    Checker check;
    const int nodes = supplyNodes(b.supply);
    if (!Catalogue::shipped().rectifier(b.supply.rectifier.type))
        check.fail("/supply/rectifier/type",
                   fmt::format("the catalogue has no rectifier \"{}\"", b.supply.rectifier.type));
    if (b.supply.sections.empty())
        check.fail("/supply/sections", "the chain keeps one part at least; change it into another instead");
    if (b.mains.low > b.mains.volts || b.mains.high < b.mains.volts)
        check.fail("/mains", "low, nominal and high mains should rise in this order");
    check.id(b.supply.rectifier.id, "/supply/rectifier");
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        check.id(s.id, fmt::format("/supply/sections/{}", k));
        if (s.kind == SectionKind::Tap && !Catalogue::shipped().rectifier(s.type))
            check.fail(fmt::format("/supply/sections/{}/type", k),
                       fmt::format("the catalogue has no rectifier \"{}\"", s.type));
        if (s.kind == SectionKind::Tap && b.supply.connection == Connection::CentreTapped &&
            s.volts >= b.transformer.plateVolts)
            check.fail(fmt::format("/supply/sections/{}/volts", k),
                       fmt::format("{:g} V is not below the leg's {:g} V: a tap lies within its leg", s.volts,
                                   b.transformer.plateVolts));
    }
    const bool doubled = !b.supply.sections.empty() && b.supply.sections[0].kind == SectionKind::Capacitor &&
                         b.supply.sections[0].inSeries == 2;
    if (b.supply.connection == Connection::Doubler && !doubled)
        check.fail("/supply/connection", "a doubler's first section is a capacitor with \"inSeries\": 2; the winding "
                                         "meets the middle of the two");
    for (std::size_t k = 0; k < b.supply.loads.size(); ++k) {
        const auto place = fmt::format("/supply/loads/{}", k);
        check.id(b.supply.loads[k].id, place);
        check.node(b.supply.loads[k].node, nodes, place + "/node");
    }
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const auto place = fmt::format("/supply/bleeders/{}", k);
        check.id(b.supply.bleeders[k].resistor.id, place + "/resistor");
        check.node(b.supply.bleeders[k].node, nodes, place + "/node");
    }
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
        const HeaterWinding& w = b.transformer.heaters[k];
        const auto place = fmt::format("/transformer/heaters/{}", k);
        if (w.referenceNode > 0) check.node(w.referenceNode, nodes, place + "/referenceNode");
        const RectifierType* diode = Catalogue::shipped().rectifier(w.dc.diode);
        if (w.rectified() && (!diode || diode->vacuum))
            check.fail(place + "/dc/diode", fmt::format("the catalogue has no diode \"{}\"", w.dc.diode));
    }
    check.id(b.bias.reservoir.id, "/bias/reservoir");
    check.id(b.bias.series.id, "/bias/series");
    check.id(b.bias.second.id, "/bias/second");
    checkPath(b, nodes, check);
    std::map<std::string, std::size_t> placed;
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k) {
        const auto [at, fresh] = placed.emplace(b.chassis.parts[k].id, k);
        if (!fresh && !at->first.empty())
            check.fail(fmt::format("/chassis/parts/{}/id", k),
                       fmt::format("the placement \"{}\" is already used by part {}; give one of the two another name",
                                   at->first, at->second + 1));
    }
    return check.problem;
}

} // namespace ember
