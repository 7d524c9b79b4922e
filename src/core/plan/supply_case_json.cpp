#include "supply_case.h"

#include "core/build/build_json.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::plan {

namespace {

/// A number at `key`, within `range`; throws a Problem that names the place.
double number(const Json& j, const char* key, Unit unit, Range range, const std::string& place) {
    if (!j.is_object() || !j.contains(key))
        throw Problem{place + "/" + key, fmt::format("a number in {} is expected here", word(unit))};
    const Json& v = j.at(key);
    if (!v.is_number())
        throw Problem{place + "/" + key,
                      fmt::format("a number in {} is expected, not {}", word(unit), v.dump().substr(0, 40))};
    const auto checked = checkWithin(v.get<double>(), unit, range);
    if (!checked) throw Problem{place + "/" + key, checked.problem().sentence};
    return *checked;
}

const Json& member(const Json& j, const char* key, const std::string& place) {
    if (!j.is_object() || !j.contains(key)) throw Problem{place + "/" + key, "this is missing"};
    return j.at(key);
}

std::string text(const Json& j, const char* key, const std::string& place) {
    const Json& v = member(j, key, place);
    if (!v.is_string())
        throw Problem{place + "/" + key, fmt::format("a text is expected, not {}", v.dump().substr(0, 40))};
    return v.get<std::string>();
}

RectifierType rectifier(const Json& j, const std::string& place) {
    RectifierType r;
    const std::string kind = text(j, "kind", place);
    if (kind == "vacuum") {
        r.law.perveance = number(j, "perveance", Unit::None, {1e-7, 1}, place);
    } else if (kind == "silicon") {
        r.vacuum = false;
        r.junction = {number(j, "Is", Unit::Ampere, {1e-18, 1e-2}, place), number(j, "N", Unit::None, {0.5, 5}, place)};
        r.seriesOhms = number(j, "Rs", Unit::Ohm, {0, 1e3}, place);
    } else {
        throw Problem{place + "/kind", fmt::format("\"vacuum\" or \"silicon\" is expected, not \"{}\"", kind)};
    }
    return r;
}

SupplyCase one(const Json& j, const std::string& place) {
    SupplyCase c;
    c.name = j.is_object() && j.contains("name") && j.at("name").is_string() ? j.at("name").get<std::string>() : place;
    c.frequency = number(member(j, "mains", place), "frequency", Unit::Hertz, {10, 1000}, place + "/mains");
    const Json& s = member(j, "secondary", place);
    const std::string connection = text(s, "connection", place + "/secondary");
    static constexpr std::array<std::string_view, 5> connections{"centre-tapped", "bridge", "half-wave",
                                                                 "hybrid-bridge", "doubler"};
    const auto which = std::find(connections.begin(), connections.end(), connection);
    if (which == connections.end())
        throw Problem{place + "/secondary/connection",
                      fmt::format("\"centre-tapped\", \"bridge\", \"half-wave\", \"hybrid-bridge\" or \"doubler\" is "
                                  "expected, not \"{}\"",
                                  connection)};
    c.supply.connection = static_cast<Connection>(which - connections.begin());
    c.emf = number(s, "emf_rms_per_leg", Unit::Volt, {0.1, 10000}, place + "/secondary");
    c.sourceOhms = number(s, "source_resistance_per_leg", Unit::Ohm, {1e-3, 1e6}, place + "/secondary");
    c.rectifier = rectifier(member(j, "rectifier", place), place + "/rectifier");
    if (member(j, "rectifier", place).contains("in_series"))
        c.supply.rectifier.inSeries = static_cast<int>(
            number(member(j, "rectifier", place), "in_series", Unit::None, {1, 50}, place + "/rectifier"));
    if (member(j, "rectifier", place).contains("leg_resistance"))
        c.supply.rectifier.legResistance =
            number(member(j, "rectifier", place), "leg_resistance", Unit::Ohm, {0, 1e5}, place + "/rectifier");
    if (c.supply.connection == Connection::HybridBridge) {
        c.silicon = rectifier(member(j, "silicon", place), place + "/silicon");
        if (c.silicon.vacuum) throw Problem{place + "/silicon/kind", "\"silicon\" is expected here"};
    }
    const Json& sections = member(j, "sections", place);
    if (!sections.is_array() || sections.size() > 80)
        throw Problem{place + "/sections", "a list of up to 80 sections is expected"};
    for (std::size_t k = 0; k < sections.size(); ++k) {
        const std::string at = fmt::format("{}/sections/{}", place, k);
        Section x;
        const std::string kind = text(sections[k], "kind", at);
        if (kind == "capacitor") {
            x.capacitance = number(sections[k], "capacitance", Unit::Farad, {1e-12, 1}, at);
            if (sections[k].contains("in_series"))
                x.inSeries = static_cast<int>(number(sections[k], "in_series", Unit::None, {1, 20}, at));
            if (sections[k].contains("balancing"))
                x.balancing = number(sections[k], "balancing", Unit::Ohm, {1, 1e12}, at);
            if (sections[k].contains("esr")) x.esr = number(sections[k], "esr", Unit::Ohm, {0, 1e4}, at);
        } else if (kind == "resistor") {
            x.kind = SectionKind::Resistor;
            x.resistance = number(sections[k], "resistance", Unit::Ohm, {1e-3, 1e9}, at);
        } else if (kind == "choke") {
            x.kind = SectionKind::Choke;
            x.inductance = number(sections[k], "inductance", Unit::Henry, {1e-6, 1e5}, at);
            x.resistance = number(sections[k], "resistance", Unit::Ohm, {0, 1e6}, at);
        } else {
            throw Problem{at + "/kind",
                          fmt::format("\"capacitor\", \"resistor\" or \"choke\" is expected, not \"{}\"", kind)};
        }
        x.id = fmt::format("s{}", k);
        c.supply.sections.push_back(x);
    }
    if (c.supply.connection == Connection::Doubler &&
        (c.supply.sections.empty() || c.supply.sections[0].kind != SectionKind::Capacitor ||
         c.supply.sections[0].inSeries != 2))
        throw Problem{place + "/sections/0", "a doubler's first section is a capacitor with \"in_series\": 2"};
    const int nodes = supplyNodes(c.supply);
    if (j.contains("loads")) {
        const Json& loads = j.at("loads");
        if (!loads.is_array() || loads.size() > 200)
            throw Problem{place + "/loads", "a list of up to 200 loads is expected"};
        for (std::size_t k = 0; k < loads.size(); ++k) {
            const std::string at = fmt::format("{}/loads/{}", place, k);
            SupplyCase::Load l;
            l.node = static_cast<int>(number(loads[k], "node", Unit::None, {1, static_cast<double>(nodes)}, at));
            const std::string kind = text(loads[k], "kind", at);
            if (kind == "resistor")
                l.ohms = number(loads[k], "resistance", Unit::Ohm, {1e-3, 1e12}, at);
            else if (kind == "current")
                l.amps = number(loads[k], "current", Unit::Ampere, {-100, 100}, at);
            else
                throw Problem{at + "/kind", fmt::format("\"resistor\" or \"current\" is expected, not \"{}\"", kind)};
            c.loads.push_back(l);
        }
    }
    return c;
}

} // namespace

Expected<std::vector<SupplyCase>> supplyCasesFromText(std::string_view source) {
    if (source.size() > largestFile) return Problem{"", "the file is too large for a supply"};
    const Json j = Json::parse(source, nullptr, false);
    if (j.is_discarded()) return Problem{"", "this is not JSON, or it was cut off"};
    try {
        std::vector<SupplyCase> out;
        if (j.is_object() && j.contains("cases")) {
            const Json& cases = j.at("cases");
            if (!cases.is_array() || cases.size() > 10000)
                return Problem{"/cases", "a list of up to 10000 cases is expected"};
            for (std::size_t k = 0; k < cases.size(); ++k) out.push_back(one(cases[k], fmt::format("/cases/{}", k)));
        } else {
            out.push_back(one(j, ""));
        }
        return out;
    } catch (const Problem& p) {
        return p;
    }
}

Json toJson(const SupplyCase& given, const SupplyCaseFigures& f) {
    Json nodes = Json::array();
    for (std::size_t k = 0; k < f.nodes.size(); ++k)
        nodes.push_back({{"node", k + 1},
                         {"mean", f.nodes[k].mean},
                         {"ripple_pp", f.nodes[k].ripplePp},
                         {"ripple_rms", f.nodes[k].rippleRms}});
    return {{"name", given.name},
            {"figures",
             {{"nodes", nodes},
              {"rectifier_peak_current", f.rectifierPeak},
              {"rectifier_mean_current_total", f.rectifierMean},
              {"winding_rms_current_per_leg", f.windingRms},
              {"choke_mean_current", f.chokeAmps}}}};
}

} // namespace ember::plan
