#include "figures_json.h"

#include "output.h"

#include "core/build/own_types.h"
#include "core/chassis/kept_layouts.h"
#include "core/plan/bias_range.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/named_figures.h"
#include "core/wires/harness.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace ember::cli {

namespace {

Json steadyJson(const Build& b, const plan::Steady& s) {
    const auto harmonics = [](const plan::Phasors& ripple) {
        Json all = Json::array();
        for (const auto& p : ripple) all.push_back(std::abs(p));
        return all;
    };
    Json nodes = Json::array();
    for (std::size_t k = 0; k < s.nodes.size(); ++k)
        nodes.push_back({{"node", k + 1},
                         {"mean", known(s.nodes[k].mean)},
                         {"ripple_pp", known(s.nodes[k].ripplePp)},
                         {"ripple_rms", known(s.nodes[k].rippleRms)},
                         {"ripple_harmonics", harmonics(s.nodes[k].ripple)},
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
        Json valves = Json::array();
        for (const plan::ValvePoint& p : s.channels[k].valves)
            valves.push_back({{"valve", b.bottles[p.bottle].id},
                              {"section", p.section},
                              {"stage", b.channels[k].stages[p.stage].id},
                              {"plate", known(p.plate)},
                              {"screen", known(p.screen)},
                              {"grid", known(p.grid)},
                              {"cathode", known(p.cathode)},
                              {"plate_current", known(p.plateAmps)},
                              {"screen_current", known(p.screenAmps)},
                              {"plate_watts", known(p.plateWatts())},
                              {"screen_watts", known(p.screenWatts())}});
        channels.push_back({{"channel", b.channels[k].id}, {"valves", valves}});
    }
    Json taps = Json::object();
    for (const auto& [id, tap] : s.taps)
        taps[id] = {{"peak_current", known(tap.peak)},
                    {"mean_current", known(tap.mean)},
                    {"winding_rms_current", known(tap.rms)},
                    {"inverse_volts", known(tap.inverseVolts)}};
    const plan::BiasRange bias = plan::biasRange(b.bias, s);
    return {
        {"mains", s.conditions.mainsVolts},
        {"nodes", nodes},
        {"rectifier_peak_current", known(s.rectifierPeak)},
        {"rectifier_mean_current", known(s.rectifierMean)},
        {"rectifier_inverse_volts", known(s.inverseVolts)},
        {"winding_rms_current_per_leg", known(s.legRms)},
        {"mains_rms_current", known(s.primaryRms)},
        {"mains_watts", known(s.mainsWatts)},
        {"power_factor", known(s.mainsWatts / (s.conditions.mainsVolts * s.primaryRms))},
        {"leg_resistor_watts", known(s.legResistorWatts)},
        {"transformer_copper_watts", known(plan::copperWatts(b, s))},
        {"bias_rail", known(s.biasRail)},
        {"bias_at_grids", s.wipers},
        {"bias_range",
         {{"coldest", known(bias.coldest)}, {"hottest", known(bias.hottest)}, {"open_wiper", known(bias.openWiper)}}},
        {"part_watts", s.partWatts},
        {"capacitor_ripple_rms", s.capacitorRipple},
        {"choke_current", s.chokeAmps},
        {"taps", taps},
        {"heaters", heaters},
        {"channels", channels}};
}

Json layoutJson(const Build& b, const chassis::LayoutFigures& f) {
    const chassis::LayoutSummary s = chassis::summarise(b, f);
    Json runs = Json::array();
    for (const wires::Run& r : wires::harnessOf(b, catalogueOf(b)).runs)
        runs.push_back(
            {{"from", r.wire.from}, {"to", r.wire.to}, {"what", wires::nameOf(r.kind)}, {"length", r.length}});
    return {{"mass", f.mass},
            {"misfits", s.misfits},
            {"exposure_db", known(s.exposureDb)},
            {"exposed", s.victim},
            {"mostly_from", s.strongestSource},
            {"coupling_db", known(s.couplingDb)},
            {"input_lead", known(s.inputLead)},
            {"signal_length", known(s.signalLength)},
            {"hottest_kelvin", known(f.hottest())},
            {"sag_at_rest", known(f.mostBent().rest.most)},
            {"sag_carried", known(f.mostBent().carried.most)},
            {"used_above", known(f.room.usedAbove)},
            {"free_below", known(f.room.freeBelow)},
            {"wiring", runs}};
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
    const auto cold = [&](std::size_t n, double volts) {
        return n < f.switchOffCold.nodes.size() ? known(f.switchOffCold.below(n, volts)) : Json(nullptr);
    };
    Json fall = Json::array();
    for (std::size_t n = 0; n < f.switchOff.nodes.size(); ++n)
        fall.push_back({{"node", n + 1},
                        {"to_50_v", known(f.switchOff.below(n, 50))},
                        {"to_10_v", known(f.switchOff.below(n, 10))},
                        {"to_50_v_valves_cold", cold(n, 50)},
                        {"to_10_v_valves_cold", cold(n, 10)}});
    out["switch_off_seconds"] = fall;
    const auto least = [](const plan::Curve& c) {
        Json nodes = Json::array();
        for (const auto& v : c.nodes) nodes.push_back(known(*std::min_element(v.begin(), v.end())));
        return nodes;
    };
    Json highest = Json::array();
    for (std::size_t n = 0; n < f.switchOn.nodes.size(); ++n) highest.push_back(known(f.switchOn.most(n)));
    out["switch_on"] = {{"highest", highest}};
    out["inrush"] = {{"peak_amps", known(f.inrush.peakAmps)}, {"i2t", known(f.inrush.i2t)}};
    const auto fuse = [](const std::optional<plan::FuseAdvice>& a) {
        if (!a) return Json(nullptr);
        return Json{{"amps", a->amps},
                    {"continuous", known(a->continuous)},
                    {"for_continuous", a->forContinuous},
                    {"i2t", known(a->i2t)},
                    {"for_surge", a->forSurge}};
    };
    out["fuse"] = fuse(plan::mainsFuse(b, f));
    for (const Section& s : b.supply.sections)
        if (s.kind == SectionKind::Fuse) out["chain_fuses"][s.id] = fuse(plan::chainFuse(f, s));
    out["within_by_winding"] = f.within;
    out["bass_note"] = {{"more_amps", known(f.burstAmps)},
                        {"lowest", least(f.burst)},
                        {"lowest_with_resistor_for_choke", least(f.burstResistor)}};
    out["mains_dip"] = {{"lowest", least(f.dip)}};
    out["impedance"] = {
        {"source_ohms", known(f.impedance.sourceOhms)}, {"hertz", f.impedance.hertz}, {"ohms", f.impedance.ohms}};
    Json power = Json::array();
    for (std::size_t k = 0; k < f.power.size(); ++k) {
        Json draws = Json::array();
        for (const plan::NodeDraw& d : f.power[k].clipMore)
            draws.push_back({{"node", d.node}, {"screens", d.screens}, {"amps", known(d.amps)}});
        power.push_back({{"channel", b.channels[k].id},
                         {"load", f.power[k].load},
                         {"output_ohms", known(f.power[k].outputOhms)},
                         {"input_ohms", known(f.power[k].inputOhms)},
                         {"damping", known(f.power[k].damping())},
                         {"gain", known(f.power[k].gain)},
                         {"reference", f.power[k].reference()},
                         {"thd_percent_at_reference", known(f.power[k].thdAtReference)},
                         {"watts_at_3_percent", known(f.power[k].cleanWatts)},
                         {"volts_at_3_percent", known(f.power[k].cleanOutput)},
                         {"input_at_3_percent", known(f.power[k].cleanInput)},
                         {"watts_at_clipping", known(f.power[k].clipWatts)},
                         {"volts_at_clipping", known(f.power[k].clipOutput)},
                         {"input_at_clipping", known(f.power[k].clipInput)},
                         {"thd_percent_at_clipping", known(f.power[k].clipThd)},
                         {"more_from_supply_at_clipping", draws}});
    }
    out["power"] = power;
    Json stages = Json::object(), unstable = Json::array();
    for (std::size_t k = 0; k < f.stages.size(); ++k)
        for (std::size_t n = 0; n < f.stages[k].size(); ++n) {
            const plan::StageFigures& x = f.stages[k][n];
            stages[b.channels[k].id][b.channels[k].stages[n].id] = {{"gain", known(x.gain)},
                                                                    {"input_ohms", known(x.inputOhms)},
                                                                    {"output_ohms", known(x.outputOhms)},
                                                                    {"volts_at_clipping", known(x.voltsAtClip)}};
        }
    for (const plan::Oscillation& o : f.oscillations)
        unstable.push_back({{"channel", b.channels[o.channel].id}, {"how", o.how}, {"hertz", o.hertz}});
    out["stages"] = stages;
    out["unstable"] = unstable;
    out["layout"] = f.layout && !b.chassis.parts.empty() ? layoutJson(b, *f.layout) : Json(nullptr);
    out["failures"] = f.failures;
    return out;
}

Json pinsJson(const plan::SchematicFigures& f) {
    Json pins = Json::object();
    for (const plan::PinFigure& p : f.pins)
        pins[p.part][p.number > 0 ? std::to_string(p.number) : p.electrode] = {
            {"electrode", p.electrode},
            {"net", p.net.empty() ? Json(nullptr) : Json(p.net)},
            {"volts", known(p.volts)},
            {"amps", known(p.amps)}};
    return pins;
}

Json schematicJson(const Build& b, const Catalogue& catalogue, const plan::Figures& figures) {
    Json nets = Json::object(), parts = Json::object();
    const Expected<plan::SchematicFigures> f = figures.nominal
                                                   ? plan::schematicFigures(b, catalogue, *figures.nominal)
                                                   : Expected<plan::SchematicFigures>(Problem{"", "not solved"});
    if (!f) return {{"pins", Json::object()}, {"nets", nets}, {"parts", parts}};
    const auto worst = plan::worstVolts(b, catalogue, figures);
    for (const plan::NetFigure& n : f->nets) nets[n.net] = known(n.volts);
    for (const plan::PartFigure& p : f->parts) {
        Json& part = parts[p.part] = {
            {"role", p.role}, {"volts", known(p.volts)}, {"amps", known(p.amps)}, {"watts", known(p.watts)}};
        if (const auto w = worst.find(p.part); w != worst.end())
            part.update({{"most_volts_hot", known(w->second.hot)}, {"most_volts_cold", known(w->second.cold)}});
    }
    return {{"pins", pinsJson(*f)}, {"nets", nets}, {"parts", parts}};
}

Json spreadJson(const plan::ToleranceRun& run) {
    Json figures = Json::array();
    for (const plan::Spread& s : run.figures)
        figures.push_back({{"id", s.nominal.id},
                           {"nominal", known(s.nominal.value)},
                           {"percent_5", known(s.low)},
                           {"percent_50", known(s.middle)},
                           {"percent_95", known(s.high)}});
    return {{"builds", run.builds}, {"failed", run.failed}, {"figures", figures}};
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
