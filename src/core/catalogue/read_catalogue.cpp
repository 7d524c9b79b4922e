#include "catalogue.h"

#include <nlohmann/json.hpp>

namespace ember {

using nlohmann::json;

namespace {

Heater heaterFrom(const json& j) {
    Heater h{j.at("volts"), j.at("amps"), j.at("directlyHeated"), j.at("warmUp")};
    for (const json& w : j.value("wirings", json::array()))
        h.wirings.push_back({w.at("volts"), w.at("amps"), w.at("one"), w.at("other")});
    return h;
}

RatingSystem systemFrom(const std::string& word) {
    if (word == "design-centre") return RatingSystem::DesignCentre;
    return word == "absolute" ? RatingSystem::Absolute : RatingSystem::DesignMaximum;
}

/// What is left out is not published: 0.
double number(const json& j, const char* key) {
    return j.value(key, 0.0);
}

ValveLimits limitsFrom(const json& j) {
    ValveLimits l;
    l.plateWatts = number(j, "plateWatts");
    l.bothPlatesWatts = number(j, "bothPlatesWatts");
    l.screenWatts = number(j, "screenWatts");
    l.screenWattsSignal = number(j, "screenWattsSignal");
    l.plateVolts = number(j, "plateVolts");
    l.screenVolts = number(j, "screenVolts");
    l.cathodeAmps = number(j, "cathodeAmps");
    l.heaterCathodeVolts = number(j, "heaterCathodeVolts");
    l.gridLeakOhms = number(j, "gridLeakOhms");
    l.gridLeakOhmsSelfBias = j.value("gridLeakOhmsCathodeBias", l.gridLeakOhms);
    l.system = systemFrom(j.at("system"));
    return l;
}

TypeSection sectionFrom(const json& j, const std::vector<TypeSection>& before) {
    TypeSection s;
    if (j.contains("like")) s = before.at(j.at("like").get<std::size_t>() - 1);
    if (j.contains("kind")) s.pentode = j.at("kind") == "pentode";
    s.name = j.value("name", s.name);
    if (j.contains("pins")) {
        const auto pins = [&](const char* key) { return j.at("pins").value(key, std::vector<int>{}); };
        s.pins = {pins("grid"), pins("screen"), pins("plate"), pins("cathode")};
    }
    if (j.contains("limits")) s.limits = limitsFrom(j.at("limits"));
    if (j.contains("capacitances")) {
        const json& c = j.at("capacitances");
        s.gridPlate = number(c, "gridPlate");
        s.gridCathode = number(c, "gridCathode");
        s.plateCathode = number(c, "plateCathode");
    }
    if (j.contains("published")) s.published = publishedFromJson(j.at("published"));
    if (j.contains("kind")) s.law = lawFromJson(j.value("model", json::object()), s.pentode);
    if (j.contains("grid")) {
        const circuit::GridLaw grid{j.at("grid").at("perveance"), j.at("grid").at("onset"), j.at("grid").at("width")};
        if (auto* t = std::get_if<circuit::TriodeLaw>(&s.law)) t->grid = grid;
        if (auto* p = std::get_if<circuit::PentodeLaw>(&s.law)) p->grid = grid;
    }
    if (j.contains("fit")) s.fit = {number(j.at("fit"), "fitted"), number(j.at("fit"), "predicted")};
    return s;
}

ValveType valveFrom(const json& j) {
    ValveType v;
    v.type = j.at("type");
    v.names = j.at("names").get<std::vector<std::string>>();
    v.base = j.value("base", "");
    v.note = j.value("note", "");
    v.heater = heaterFrom(j.at("heater"));
    v.heaterPins = j.value("heaterPins", std::vector<int>{});
    for (const json& s : j.at("sections")) v.halves.push_back(sectionFrom(s, v.halves));
    return v;
}

RectifierType rectifierFrom(const json& j) {
    RectifierType r;
    r.type = j.at("type");
    r.names = j.at("names").get<std::vector<std::string>>();
    r.base = j.value("base", "");
    r.dropVolts = j.at("drop").at("volts");
    r.dropAmps = j.at("drop").at("at");
    r.law.threshold = j.at("drop").value("threshold", 0.0);
    r.law.perveance = circuit::perveanceFromDrop(r.dropVolts - r.law.threshold, r.dropAmps);
    r.heater = heaterFrom(j.at("heater"));
    const json& l = j.at("limits");
    r.dcAmps = number(l, "dcAmps");
    r.peakAmps = number(l, "peakAmps");
    r.inverseVolts = number(l, "inverseVolts");
    r.firstCapacitor = number(l, "firstCapacitor");
    for (const json& p : l.value("sourceOhms", json::array())) r.sourceOhms.emplace_back(p.at("volts"), p.at("ohms"));
    r.cathodeOnHeater = j.at("cathodeOnHeater");
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
        d.points.push_back({number(p, "plate"), number(p, "screen"), number(p, "grid"), number(p, "plate_current"),
                            number(p, "screen_current"), number(p, "gm"), number(p, "mu"), number(p, "rp"),
                            p.value("strapped", false), p.value("cutoff", false), p.value("source", "")});
    for (const json& o : j.value("operations", json::array())) {
        PublishedOperation x;
        x.pushPull = o.value("push_pull", false);
        x.strapped = o.value("strapped", false);
        x.together = o.value("together", false);
        x.plate = number(o, "plate"), x.screen = number(o, "screen"), x.grid = number(o, "grid");
        x.supply = number(o, "supply"), x.screenSupply = number(o, "screen_supply");
        x.cathodeOhms = number(o, "cathode_resistor"), x.screenOhms = number(o, "screen_resistor");
        x.screenTap = number(o, "screen_tap");
        x.load = number(o, "load"), x.drive = number(o, "drive"), x.power = number(o, "power");
        x.thdPercent = number(o, "thd_percent");
        x.plateAmpsRest = number(o, "plate_current_zero_signal");
        x.plateAmpsFull = number(o, "plate_current_max_signal");
        x.screenAmpsRest = number(o, "screen_current_zero_signal");
        x.screenAmpsFull = number(o, "screen_current_max_signal");
        x.source = o.value("source", "");
        d.operations.push_back(std::move(x));
    }
    for (const json& s : j.value("stages", json::array()))
        d.stages.push_back({number(s, "supply"), number(s, "plate_load"), number(s, "cathode_resistor"),
                            number(s, "next_grid_leak"), number(s, "plate_current"), number(s, "gain"),
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
            *to = m.value(key, *to);
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
        *to = m.value(key, *to);
    return p;
}

Expected<Catalogue> Catalogue::read(std::string_view valves, std::string_view rectifiers, std::string_view lamps) {
    try {
        Catalogue c;
        const json valveFile = json::parse(valves), rectifierFile = json::parse(rectifiers),
                   lampFile = json::parse(lamps);
        for (const json& j : valveFile.at("valves")) c.valves.push_back(valveFrom(j));
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
