#include "catalogue.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <stdexcept>

namespace ember {

using nlohmann::json;

namespace {

/// A value by its key; what is missing or of another type is a std::invalid_argument that names the key.
template <typename T = double>
T the(const json& j, const char* key) {
    const auto at = j.find(key);
    if (at == j.end()) throw std::invalid_argument(fmt::format("\"{}\" is missing", key));
    try {
        return at->get<T>();
    } catch (const json::exception&) {
        throw std::invalid_argument(fmt::format("\"{}\" is {}, which it cannot be", key, at->dump()));
    }
}
/// What is left out is not published.
template <typename T>
T theOr(const json& j, const char* key, T without) {
    return j.contains(key) ? the<T>(j, key) : without;
}

Heater heaterFrom(const json& j) {
    Heater h{the(j, "volts"), the(j, "amps"), the<bool>(j, "directlyHeated"), the(j, "warmUp")};
    for (const json& w : j.value("wirings", json::array()))
        h.wirings.push_back(
            {the(w, "volts"), the(w, "amps"), the<std::vector<int>>(w, "one"), the<std::vector<int>>(w, "other")});
    return h;
}

RatingSystem systemFrom(const std::string& word) {
    const auto at = std::find(ratingSystemNames.begin(), ratingSystemNames.end(), word);
    return at == ratingSystemNames.end() ? RatingSystem::DesignMaximum
                                         : static_cast<RatingSystem>(at - ratingSystemNames.begin());
}

double orZero(const json& j, const char* key) {
    return theOr(j, key, 0.0);
}

ValveLimits limitsFrom(const json& j) {
    ValveLimits l;
    l.plateWatts = orZero(j, "plateWatts");
    l.bothPlatesWatts = orZero(j, "bothPlatesWatts");
    l.screenWatts = orZero(j, "screenWatts");
    l.screenWattsSignal = orZero(j, "screenWattsSignal");
    l.plateVolts = orZero(j, "plateVolts");
    l.screenVolts = orZero(j, "screenVolts");
    l.coldPlateVolts = orZero(j, "coldPlateVolts");
    l.coldScreenVolts = orZero(j, "coldScreenVolts");
    l.cathodeAmps = orZero(j, "cathodeAmps");
    l.heaterCathodeVolts = orZero(j, "heaterCathodeVolts");
    l.gridLeakOhms = orZero(j, "gridLeakOhms");
    l.gridLeakOhmsSelfBias = theOr(j, "gridLeakOhmsCathodeBias", l.gridLeakOhms);
    l.system = systemFrom(the<std::string>(j, "system"));
    return l;
}

TypeSection sectionFrom(const json& j, const std::vector<TypeSection>& before) {
    TypeSection s;
    if (j.contains("like")) s = before.at(j.at("like").get<std::size_t>() - 1);
    if (j.contains("kind")) s.pentode = the<std::string>(j, "kind") == "pentode";
    s.name = theOr(j, "name", s.name);
    if (j.contains("pins")) {
        const auto pins = [&](const char* key) { return theOr(j.at("pins"), key, std::vector<int>{}); };
        s.pins = {pins("grid"), pins("screen"), pins("plate"), pins("cathode")};
    }
    if (j.contains("limits")) s.limits = limitsFrom(j.at("limits"));
    if (j.contains("capacitances")) {
        const json& c = j.at("capacitances");
        s.gridPlate = orZero(c, "gridPlate");
        s.gridCathode = orZero(c, "gridCathode");
        s.plateCathode = orZero(c, "plateCathode");
    }
    if (j.contains("published")) s.published = publishedFromJson(j.at("published"));
    if (j.contains("kind")) s.law = lawFromJson(j.value("model", json::object()), s.pentode);
    if (j.contains("grid")) {
        const json& of = j.at("grid");
        const circuit::GridLaw grid{the(of, "perveance"), the(of, "onset"), the(of, "width")};
        if (auto* t = std::get_if<circuit::TriodeLaw>(&s.law)) t->grid = grid;
        if (auto* p = std::get_if<circuit::PentodeLaw>(&s.law)) p->grid = grid;
    }
    if (j.contains("fit")) s.fit = {orZero(j.at("fit"), "fitted"), orZero(j.at("fit"), "predicted")};
    return s;
}

ValveType valveFrom(const json& j) {
    ValveType v;
    v.type = the<std::string>(j, "type");
    v.names = the<std::vector<std::string>>(j, "names");
    v.base = theOr<std::string>(j, "base", "");
    v.note = theOr<std::string>(j, "note", "");
    v.heater = heaterFrom(the<json>(j, "heater"));
    v.heaterPins = theOr(j, "heaterPins", std::vector<int>{});
    v.mistakenFor = theOr<std::string>(j, "mistakenFor", "");
    for (const json& s : the<json>(j, "sections")) v.halves.push_back(sectionFrom(s, v.halves));
    return v;
}

RectifierType rectifierFrom(const json& j) {
    RectifierType r;
    r.type = j.at("type");
    r.names = j.at("names").get<std::vector<std::string>>();
    r.base = j.value("base", "");
    if (j.contains("pins")) {
        const auto pins = [&](const char* key) { return theOr(j.at("pins"), key, std::vector<int>{}); };
        r.pins = {pins("heater"), pins("plate"), pins("cathode")};
        if (r.pins.cathode.empty() && !r.pins.heater.empty()) r.pins.cathode = {r.pins.heater.back()};
    }
    r.dropVolts = j.at("drop").at("volts");
    r.dropAmps = j.at("drop").at("at");
    r.law.threshold = j.at("drop").value("threshold", 0.0);
    r.law.perveance = circuit::perveanceFromDrop(r.dropVolts - r.law.threshold, r.dropAmps);
    r.heater = heaterFrom(j.at("heater"));
    const json& l = j.at("limits");
    r.dcAmps = orZero(l, "dcAmps");
    r.peakAmps = orZero(l, "peakAmps");
    r.inverseVolts = orZero(l, "inverseVolts");
    r.firstCapacitor = orZero(l, "firstCapacitor");
    for (const json& p : l.value("sourceOhms", json::array())) r.sourceOhms.emplace_back(p.at("volts"), p.at("ohms"));
    r.cathodeOnHeater = j.at("cathodeOnHeater");
    r.heaterCathodeVolts = orZero(l, "heaterCathodeVolts");
    return r;
}

RectifierType siliconFrom(const json& j) {
    RectifierType r;
    r.type = j.at("type");
    r.names = j.at("names").get<std::vector<std::string>>();
    r.vacuum = false;
    r.junction = {j.at("saturation"), j.at("ideality")};
    r.seriesOhms = j.at("seriesOhms");
    const json& l = j.at("limits");
    r.dcAmps = l.at("dcAmps");
    r.peakAmps = l.at("peakAmps");
    r.inverseVolts = l.at("inverseVolts");
    return r;
}

} // namespace

PublishedData publishedFromJson(const json& j) {
    PublishedData d;
    for (const json& p : j.value("points", json::array()))
        d.points.push_back({orZero(p, "plate"), orZero(p, "screen"), orZero(p, "grid"), orZero(p, "plate_current"),
                            orZero(p, "screen_current"), orZero(p, "gm"), orZero(p, "mu"), orZero(p, "rp"),
                            theOr(p, "strapped", false), theOr(p, "cutoff", false),
                            theOr<std::string>(p, "source", "")});
    for (const json& o : j.value("operations", json::array())) {
        PublishedOperation x;
        x.pushPull = o.value("push_pull", false);
        x.strapped = o.value("strapped", false);
        x.together = o.value("together", false);
        x.plate = orZero(o, "plate"), x.screen = orZero(o, "screen"), x.grid = orZero(o, "grid");
        x.supply = orZero(o, "supply"), x.screenSupply = orZero(o, "screen_supply");
        x.cathodeOhms = orZero(o, "cathode_resistor"), x.screenOhms = orZero(o, "screen_resistor");
        x.screenTap = orZero(o, "screen_tap");
        x.load = orZero(o, "load"), x.drive = orZero(o, "drive"), x.power = orZero(o, "power");
        x.thdPercent = orZero(o, "thd_percent");
        x.plateAmpsRest = orZero(o, "plate_current_zero_signal");
        x.plateAmpsFull = orZero(o, "plate_current_max_signal");
        x.screenAmpsRest = orZero(o, "screen_current_zero_signal");
        x.screenAmpsFull = orZero(o, "screen_current_max_signal");
        x.source = o.value("source", "");
        d.operations.push_back(std::move(x));
    }
    for (const json& s : j.value("stages", json::array()))
        d.stages.push_back({orZero(s, "supply"), orZero(s, "plate_load"), orZero(s, "cathode_resistor"),
                            orZero(s, "next_grid_leak"), orZero(s, "plate_current"), orZero(s, "gain"),
                            s.value("source", "")});
    return d;
}

json lawToJson(const circuit::PortLaw& law) {
    if (const auto* t = std::get_if<circuit::TriodeLaw>(&law))
        return {{"mu", t->mu}, {"exponent", t->exponent}, {"kp", t->kp}, {"kvb", t->kvb},
                {"kg", t->kg}, {"contact", t->contact}};
    const auto& p = std::get<circuit::PentodeLaw>(law);
    return {{"mu", p.mu},       {"exponent", p.exponent},   {"kp", p.kp},       {"kg", p.kg},
            {"share", p.share}, {"kneeVolts", p.kneeVolts}, {"slope", p.slope}, {"contact", p.contact},
            {"beam", p.beam},   {"kneeRise", p.kneeRise}};
}

circuit::PortLaw lawFromJson(const json& m, bool pentode) {
    if (!pentode) {
        circuit::TriodeLaw t;
        for (auto [key, to] : {std::pair{"mu", &t.mu},
                               {"exponent", &t.exponent},
                               {"kp", &t.kp},
                               {"kvb", &t.kvb},
                               {"kg", &t.kg},
                               {"contact", &t.contact}})
            *to = theOr(m, key, *to);
        return t;
    }
    circuit::PentodeLaw p;
    for (auto [key, to] : {std::pair{"mu", &p.mu},
                           {"exponent", &p.exponent},
                           {"kp", &p.kp},
                           {"kg", &p.kg},
                           {"share", &p.share},
                           {"kneeVolts", &p.kneeVolts},
                           {"slope", &p.slope},
                           {"contact", &p.contact},
                           {"beam", &p.beam},
                           {"kneeRise", &p.kneeRise}})
        *to = theOr(m, key, *to);
    return p;
}

Expected<Catalogue> Catalogue::read(std::string_view valves, std::string_view rectifiers, std::string_view lamps) {
    try {
        Catalogue c;
        const json valveFile = json::parse(valves), rectifierFile = json::parse(rectifiers),
                   lampFile = json::parse(lamps);
        for (const json& j : valveFile.at("valves")) {
            try {
                c.valves.push_back(valveFrom(j));
            } catch (const std::invalid_argument& e) {
                return Problem{j.value("type", fmt::format("valve {}", c.valves.size() + 1)), e.what()};
            }
        }
        for (const json& j : rectifierFile.at("rectifiers")) c.rectifiers.push_back(rectifierFrom(j));
        for (const json& j : rectifierFile.at("silicon")) c.rectifiers.push_back(siliconFrom(j));
        for (const json& j : lampFile.at("lamps"))
            c.lamps.push_back({j.at("volts"), j.at("watts"), j.at("kelvin"), j.at("timeConstant")});
        if (c.lamps.empty()) return Problem{"lamps.json", "no lamp is listed"};
        return c;
    } catch (const json::exception& e) {
        return Problem{"catalogue", e.what()};
    } catch (const std::out_of_range&) {
        return Problem{"catalogue", "a section is like one that does not stand before it"};
    }
}

} // namespace ember
