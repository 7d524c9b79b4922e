#include "build_json.h"

#include "core/catalogue/catalogue.h"

#include <fmt/format.h>

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
    void valve(const std::string& type, bool pentode, const std::string& place) {
        if (problem) return;
        const ValveType* found = Catalogue::shipped().valve(type);
        if (!found)
            fail(place + "/type", fmt::format("the catalogue has no valve \"{}\"", type));
        else if (found->pentode != pentode)
            fail(place + "/type", fmt::format("\"{}\" is a {}; a {} belongs here", type,
                                              found->pentode ? "pentode" : "triode", pentode ? "pentode" : "triode"));
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
    check.id(b.bias.reservoir.id, "/bias/reservoir");
    check.id(b.bias.series.id, "/bias/series");
    check.id(b.bias.second.id, "/bias/second");
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& c = b.channels[k];
        const auto place = fmt::format("/channels/{}", k);
        check.valve(c.small.type, false, place + "/small");
        check.valve(c.pair.a.type, true, place + "/pair/a");
        check.valve(c.pair.b.type, true, place + "/pair/b");
        check.id(c.small.id, place + "/small");
        check.id(c.pair.a.id, place + "/pair/a");
        check.id(c.pair.b.id, place + "/pair/b");
        check.id(c.pair.transformer.id, place + "/pair/transformer");
        check.node(c.plateNode, nodes, place + "/plateNode");
        check.node(c.screenNode, nodes, place + "/screenNode");
        check.node(c.smallNode, nodes, place + "/smallNode");
    }
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
