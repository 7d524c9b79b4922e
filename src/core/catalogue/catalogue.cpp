#include "catalogue.h"

#include "core/base/embedded.h"
#include "core/quantity/letters.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace ember {

using nlohmann::json;

namespace {

template <typename T>
const T* find(const std::vector<T>& all, std::string_view name) {
    const std::string wanted = upper(name.substr(0, 64));
    if (wanted.empty()) return nullptr;
    for (const T& t : all)
        if (upper(t.type) == wanted ||
            std::any_of(t.names.begin(), t.names.end(), [&](const std::string& n) { return upper(n) == wanted; }))
            return &t;
    return nullptr;
}

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

ValveType valveFrom(const json& j) {
    ValveType v;
    v.type = j.at("type");
    v.names = j.at("names").get<std::vector<std::string>>();
    v.pentode = j.at("kind") == "pentode";
    v.sections = j.at("sections");
    v.heater = heaterFrom(j.at("heater"));
    if (j.contains("pins")) {
        const json& p = j.at("pins");
        v.pins = {p.at("heater"), p.at("grid"), p.at("plate"), p.at("cathode"), p.value("screen", std::vector<int>{})};
    }
    const json& l = j.at("limits");
    v.limits.plateWatts = l.at("plateWatts");
    v.limits.screenWatts = l.value("screenWatts", 0.0);
    v.limits.plateVolts = l.at("plateVolts");
    v.limits.screenVolts = l.value("screenVolts", 0.0);
    v.limits.screenWattsSignal = l.value("screenWattsSignal", 0.0);
    v.limits.cathodeAmps = l.at("cathodeAmps");
    v.limits.heaterCathodeVolts = l.at("heaterCathodeVolts");
    v.limits.gridLeakOhms = l.at("gridLeakOhms");
    v.limits.gridLeakOhmsSelfBias = l.value("gridLeakOhmsCathodeBias", v.limits.gridLeakOhms);
    v.limits.system = systemFrom(l.at("system"));
    const json& c = j.at("capacitances");
    v.gridPlate = c.at("gridPlate");
    v.gridCathode = c.at("gridCathode");
    v.plateCathode = c.at("plateCathode");
    for (const json& p : j.at("points"))
        v.points.push_back({p.at("plate"), p.value("screen", 0.0), p.at("grid"), p.at("plate_current"),
                            p.value("screen_current", 0.0), p.value("gm", 0.0), p.value("mu", 0.0), p.value("rp", 0.0),
                            p.at("source")});
    if (j.contains("operation")) {
        const json& o = j.at("operation");
        v.operation = {o.at("load"), o.at("power"), o.at("thd_percent"), o.value("drive", 0.0)};
    }
    v.law = lawFromJson(j.value("model", json::object()), v.pentode);
    return v;
}

} // namespace

Heater Heater::wiredFor(double windingVolts) const {
    Heater out = *this;
    for (const HeaterWiring& w : wirings)
        if (std::abs(std::log(w.volts / windingVolts)) < std::abs(std::log(out.volts / windingVolts)))
            out.volts = w.volts, out.amps = w.amps;
    return out;
}

double RectifierType::leastSourceOhms(double volts) const {
    if (sourceOhms.empty()) return 0;
    if (volts <= sourceOhms.front().first) return sourceOhms.front().second;
    for (std::size_t k = 1; k < sourceOhms.size(); ++k) {
        const auto& [v0, r0] = sourceOhms[k - 1];
        const auto& [v1, r1] = sourceOhms[k];
        if (volts <= v1) return r0 + (r1 - r0) * (volts - v0) / (v1 - v0);
    }
    return sourceOhms.back().second;
}

circuit::IncandescentLaw LampType::law() const {
    return {volts, watts, kelvin, timeConstant, 293};
}

json lawToJson(const circuit::PortLaw& law) {
    if (const auto* t = std::get_if<circuit::TriodeLaw>(&law))
        return {{"mu", t->mu}, {"exponent", t->exponent},          {"kp", t->kp}, {"kvb", t->kvb},
                {"kg", t->kg}, {"gridPerveance", t->gridPerveance}};
    const auto& p = std::get<circuit::PentodeLaw>(law);
    return {{"mu", p.mu},       {"exponent", p.exponent},   {"kp", p.kp},       {"kg", p.kg},
            {"share", p.share}, {"kneeVolts", p.kneeVolts}, {"slope", p.slope}, {"gridPerveance", p.gridPerveance}};
}

circuit::PortLaw lawFromJson(const json& m, bool pentode) {
    if (!pentode) {
        const circuit::TriodeLaw d;
        return circuit::TriodeLaw{m.value("mu", d.mu), m.value("exponent", d.exponent),
                                  m.value("kp", d.kp), m.value("kvb", d.kvb),
                                  m.value("kg", d.kg), m.value("gridPerveance", d.gridPerveance)};
    }
    const circuit::PentodeLaw d;
    return circuit::PentodeLaw{m.value("mu", d.mu),       m.value("exponent", d.exponent),
                               m.value("kp", d.kp),       m.value("kg", d.kg),
                               m.value("share", d.share), m.value("kneeVolts", d.kneeVolts),
                               m.value("slope", d.slope), m.value("gridPerveance", d.gridPerveance)};
}

ValveFigures figuresAt(const circuit::PortLaw& law, double plate, double grid, double screen) {
    ValveFigures f;
    double i[3], g[9];
    if (std::holds_alternative<circuit::TriodeLaw>(law)) {
        const double v[2] = {grid, plate};
        circuit::evaluate(law, 1, v, i, g);
        f = {i[1], 0, g[2], 0, 0};
        f.rp = g[3] > 0 ? 1 / g[3] : INFINITY;
    } else {
        const double v[3] = {grid, screen, plate};
        circuit::evaluate(law, 1, v, i, g);
        f = {i[2], i[1], g[6], 0, 0};
        f.rp = g[8] > 0 ? 1 / g[8] : INFINITY;
    }
    f.mu = f.gm * f.rp;
    return f;
}

Expected<Catalogue> Catalogue::read(std::string_view valves, std::string_view rectifiers, std::string_view lamps) {
    try {
        Catalogue c;
        const json valveFile = json::parse(valves), rectifierFile = json::parse(rectifiers),
                   lampFile = json::parse(lamps);
        for (const json& j : valveFile.at("valves")) c.valves.push_back(valveFrom(j));
        for (const json& j : rectifierFile.at("rectifiers")) {
            RectifierType r;
            r.type = j.at("type");
            r.names = j.at("names").get<std::vector<std::string>>();
            r.dropVolts = j.at("drop").at("volts");
            r.dropAmps = j.at("drop").at("at");
            r.perveance = circuit::perveanceFromDrop(r.dropVolts, r.dropAmps);
            r.heater = heaterFrom(j.at("heater"));
            const json& l = j.at("limits");
            r.dcAmps = l.at("dcAmps");
            r.peakAmps = l.at("peakAmps");
            r.inverseVolts = l.at("inverseVolts");
            r.firstCapacitor = l.at("firstCapacitor");
            for (const json& p : l.at("sourceOhms")) r.sourceOhms.emplace_back(p.at("volts"), p.at("ohms"));
            r.cathodeOnHeater = j.at("cathodeOnHeater");
            c.rectifiers.push_back(r);
        }
        for (const json& j : rectifierFile.at("silicon")) {
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
            c.rectifiers.push_back(r);
        }
        for (const json& j : lampFile.at("lamps"))
            c.lamps.push_back({j.at("volts"), j.at("watts"), j.at("kelvin"), j.at("timeConstant")});
        if (c.lamps.empty()) return Problem{"lamps.json", "no lamp is listed"};
        return c;
    } catch (const json::exception& e) {
        return Problem{"catalogue", e.what()};
    }
}

const Catalogue& Catalogue::shipped() {
    static const Catalogue one = [] {
        auto c = read(embedded::text("valves.json"), embedded::text("rectifiers.json"), embedded::text("lamps.json"));
        if (!c) throw std::logic_error(c.problem().text()); // our own file: a defect of the build, not of the user
        return *c;
    }();
    return one;
}

const ValveType* Catalogue::valve(std::string_view name) const {
    return find(valves, name);
}
const RectifierType* Catalogue::rectifier(std::string_view name) const {
    return find(rectifiers, name);
}

const LampType& Catalogue::lamp(double volts, double watts) const {
    return *std::min_element(lamps.begin(), lamps.end(), [&](const LampType& a, const LampType& b) {
        const auto far = [&](const LampType& l) {
            return 10 * std::abs(std::log(l.volts / volts)) + std::abs(std::log(l.watts / watts));
        };
        return far(a) < far(b);
    });
}

} // namespace ember
