#include "figures_json.h"

#include <nlohmann/json.hpp>
#include <cmath>

namespace ember::cli {

namespace {

Json known(double x) {
    return std::isfinite(x) ? Json(x) : Json(nullptr);
}

Json steadyJson(const Build& b, const plan::Steady& s) {
    Json nodes = Json::array();
    for (std::size_t k = 0; k < s.nodes.size(); ++k)
        nodes.push_back({{"node", k + 1},
                         {"mean", known(s.nodes[k].mean)},
                         {"ripple_pp", known(s.nodes[k].ripplePp)},
                         {"ripple_rms", known(s.nodes[k].rippleRms)},
                         {"most", known(s.nodes[k].most)},
                         {"stages_current", known(s.nodes[k].load)}});
    Json heaters = Json::array();
    for (const auto& h : s.heaters)
        heaters.push_back({{"winding", h.winding},
                           {"valve", h.valve},
                           {"count", h.count},
                           {"volts", known(h.volts)},
                           {"amps", known(h.amps)},
                           {"emission", known(h.emission)}});
    Json channels = Json::array();
    for (std::size_t k = 0; k < s.channels.size(); ++k) {
        const auto& p = s.channels[k];
        const auto side = [&](const Valve& v, double plate, double screen, double grid, double amps, double screenAmps,
                              double watts, double screenWatts) {
            return Json{{"valve", v.id},
                        {"plate", known(plate)},
                        {"screen", known(screen)},
                        {"grid", known(grid)},
                        {"plate_current", known(amps)},
                        {"screen_current", known(screenAmps)},
                        {"plate_watts", known(watts)},
                        {"screen_watts", known(screenWatts)}};
        };
        channels.push_back({{"channel", b.channels[k].id},
                            {"plate1", known(p.plate1)},
                            {"cathode1", known(p.cathode1)},
                            {"plate2", known(p.plate2)},
                            {"cathode2", known(p.cathode2)},
                            {"pair", Json::array({side(b.channels[k].pair.a, p.plateA, p.screenA, p.gridA, p.plateAmpsA,
                                                       p.screenAmpsA, p.plateWattsA, p.screenWattsA),
                                                  side(b.channels[k].pair.b, p.plateB, p.screenB, p.gridB, p.plateAmpsB,
                                                       p.screenAmpsB, p.plateWattsB, p.screenWattsB)})}});
    }
    return {{"mains", s.conditions.mainsVolts},
            {"nodes", nodes},
            {"rectifier_peak_current", known(s.rectifierPeak)},
            {"rectifier_mean_current", known(s.rectifierMean)},
            {"rectifier_inverse_volts", known(s.inverseVolts)},
            {"winding_rms_current_per_leg", known(s.legRms)},
            {"mains_rms_current", known(s.primaryRms)},
            {"mains_watts", known(s.mainsWatts)},
            {"bias_rail", known(s.biasRail)},
            {"bias_at_grids", s.wipers},
            {"part_watts", s.partWatts},
            {"capacitor_ripple_rms", s.capacitorRipple},
            {"heaters", heaters},
            {"channels", channels}};
}

} // namespace

Json figuresJson(const Build& b, const plan::Figures& f) {
    Json out = {{"build", b.name}};
    const auto put = [&](const char* key, const std::optional<plan::Steady>& s) {
        out[key] = s ? steadyJson(b, *s) : Json(nullptr);
    };
    put("mains_low", f.low);
    put("mains_nominal", f.nominal);
    put("mains_high", f.high);
    put("cold", f.cold);
    Json fall = Json::array();
    for (std::size_t n = 0; n < f.switchOff.nodes.size(); ++n)
        fall.push_back({{"node", n + 1},
                        {"to_50_v", known(f.switchOff.below(n, 50))},
                        {"to_10_v", known(f.switchOff.below(n, 10))},
                        {"to_50_v_valves_cold",
                         n < f.switchOffCold.nodes.size() ? known(f.switchOffCold.below(n, 50)) : Json(nullptr)}});
    out["switch_off_seconds"] = fall;
    Json power = Json::array();
    for (std::size_t k = 0; k < f.power.size(); ++k)
        power.push_back({{"channel", b.channels[k].id},
                         {"gain", known(f.power[k].gain)},
                         {"thd_percent_at_1_w", known(f.power[k].thdAtOneWatt)},
                         {"watts_at_3_percent", known(f.power[k].clipWatts)},
                         {"input_at_3_percent", known(f.power[k].clipInput)}});
    out["power"] = power;
    out["failures"] = f.failures;
    return out;
}

Json findingsJson(const std::vector<rules::Finding>& findings) {
    Json out = Json::array();
    for (const auto& x : findings) {
        static const char* const levels[] = {"note", "warn", "stop"};
        Json j = {{"id", x.id},       {"station", x.station}, {"level", levels[static_cast<int>(x.level)]},
                  {"title", x.title}, {"text", x.text},       {"waived", x.waived}};
        if (x.waived) j["waiver"] = x.waiverReason;
        if (x.fix) j["fix"] = {{"name", x.fix->name}, {"patch", *x.fix->patch}};
        out.push_back(std::move(j));
    }
    return out;
}

} // namespace ember::cli
