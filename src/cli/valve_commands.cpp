#include "valve_commands.h"

#include "output.h"

#include "core/catalogue/catalogue.h"
#include "core/catalogue/fit.h"
#include "core/catalogue/points_text.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <fstream>
#include <sstream>

namespace ember::cli {

namespace {

Json orNull(double v) {
    return std::isfinite(v) && v != 0 ? Json(v) : Json(nullptr);
}

Json pinsJson(const std::vector<int>& pins) {
    Json out = Json::array();
    for (const int p : pins) out.push_back(p == topCap ? Json("cap") : Json(p));
    return out;
}

Json comparedJson(const circuit::PortLaw& law, const PublishedData& data) {
    Json out = Json::array();
    for (const Compared& c : compare(law, data))
        out.push_back({{"at", c.at},
                       {"figure", kindOf(c.figure).key},
                       {"published", c.published},
                       {"computed", c.computed},
                       {"error", c.error()},
                       {"allowed", kindOf(c.figure).allowed}});
    return out;
}

Json lawJson(const circuit::PortLaw& law) {
    Json out = lawToJson(law);
    const auto& grid = std::holds_alternative<circuit::TriodeLaw>(law) ? std::get<circuit::TriodeLaw>(law).grid
                                                                       : std::get<circuit::PentodeLaw>(law).grid;
    out["grid"] = {{"perveance", grid.perveance}, {"onset", grid.onset}, {"width", grid.width}};
    return out;
}

Json errorJson(const FitError& e) {
    return {{"fitted", orNull(e.fitted)}, {"predicted", orNull(e.predicted)}};
}

Json typeJson(const ValveType& v, const TypeSection& s) {
    const ValveLimits& l = s.limits;
    Json wirings = Json::array();
    for (const HeaterWiring& w : v.heater.wirings)
        wirings.push_back({{"volts", w.volts}, {"amps", w.amps}, {"one", w.one}, {"other", w.other}});
    return {{"names", v.names},
            {"base", v.base.empty() ? Json(nullptr) : Json(v.base)},
            {"note", v.note.empty() ? Json(nullptr) : Json(v.note)},
            {"pins",
             {{"heater", pinsJson(v.heaterPins)},
              {"grid", pinsJson(s.pins.grid)},
              {"screen", pinsJson(s.pins.screen)},
              {"plate", pinsJson(s.pins.plate)},
              {"cathode", pinsJson(s.pins.cathode)}}},
            {"heater",
             {{"volts", v.heater.volts},
              {"amps", v.heater.amps},
              {"directlyHeated", v.heater.directlyHeated},
              {"wirings", wirings}}},
            {"limits",
             {{"plateWatts", orNull(l.plateWatts)},
              {"bothPlatesWatts", orNull(l.bothPlatesWatts)},
              {"screenWatts", orNull(l.screenWatts)},
              {"plateVolts", orNull(l.plateVolts)},
              {"screenVolts", orNull(l.screenVolts)},
              {"cathodeAmps", orNull(l.cathodeAmps)},
              {"heaterCathodeVolts", orNull(l.heaterCathodeVolts)},
              {"gridLeakOhms", orNull(l.gridLeakOhms)},
              {"gridLeakOhmsCathodeBias", orNull(l.gridLeakOhmsSelfBias)},
              {"system", ratingSystemNames[static_cast<std::size_t>(l.system)]}}},
            {"capacitances",
             {{"gridPlate", orNull(s.gridPlate)},
              {"gridCathode", orNull(s.gridCathode)},
              {"plateCathode", orNull(s.plateCathode)}}},
            {"law", lawJson(s.law)},
            {"fit", errorJson(s.fit)},
            {"figures", comparedJson(s.law, s.published)}};
}

} // namespace

int valve(const ValveAsked& asked) {
    const ValveType* v = Catalogue::shipped().valve(asked.type);
    if (!v) return refuse({"", fmt::format("the catalogue has no valve \"{}\"", asked.type)});
    if (asked.section < 1 || asked.section > v->sections())
        return refuse({"", fmt::format("{} has {} section{}", v->type, v->sections(), v->sections() > 1 ? "s" : "")});
    const TypeSection& s = v->section(asked.section);
    Json out = {{"type", v->type},
                {"kind", s.pentode ? "pentode" : "triode"},
                {"section", asked.section},
                {"sections", v->sections()}};
    if (!asked.plate && !asked.grid) {
        out.update(typeJson(*v, s));
        print(out);
        return fine;
    }
    if (!asked.plate || !asked.grid) return refuse({"", "give --plate and --grid together"});
    if (s.pentode && !asked.screen) return refuse({"", fmt::format("{} is a pentode: give --screen as well", v->type)});
    const double screen = asked.screen.value_or(0);
    for (const double x : {*asked.plate, *asked.grid, screen})
        if (!std::isfinite(x) || std::abs(x) > 5000) return refuse({"", "volts from -5000 to 5000 are expected"});
    const auto f = figuresAt(s.law, *asked.plate, *asked.grid, screen);
    const auto figure = [](double x) { return std::isfinite(x) ? Json(x) : Json(nullptr); };
    out["plate_current"] = figure(f.plateAmps);
    out["gm"] = figure(f.gm);
    out["mu"] = figure(f.mu);
    out["rp"] = figure(f.rp);
    out["screen_current"] = s.pentode ? figure(f.screenAmps) : Json(nullptr);
    double i[3], g[9];
    const double volts[3] = {*asked.grid, s.pentode ? screen : *asked.plate, *asked.plate};
    circuit::evaluate(s.law, 1, volts, i, g);
    out["grid_current"] = figure(i[0]);
    print(out);
    return fine;
}

int fit(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return refuse({file, "the file could not be opened"});
    std::ostringstream text;
    text << in.rdbuf();
    const auto read = pointsFromText(text.str());
    if (!read)
        return refuse(
            {file + (read.problem().where.empty() ? "" : ", " + read.problem().where), read.problem().sentence});
    const auto law = fitLaw(read->pentode ? circuit::PortLaw(circuit::PentodeLaw{}) : circuit::TriodeLaw{}, read->data);
    print({{"kind", read->pentode ? "pentode" : "triode"},
           {"points", read->data.points.size()},
           {"law", lawJson(law)},
           {"fit", errorJson(errorOf(law, read->data, read->data.points.size() <= 12))},
           {"figures", comparedJson(law, read->data)},
           {"apart", misfits(law, read->data)}});
    return fine;
}

} // namespace ember::cli
