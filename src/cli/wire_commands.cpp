#include "wire_commands.h"

#include "output.h"

#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/plan/solve.h"
#include "core/wires/continuity.h"
#include "core/wires/helps.h"
#include "core/wires/schools.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>

namespace ember::cli {

namespace {

struct Wired {
    Build build;
    plan::Figures figures;
    wires::WireFigures wires;
};

/// `complete`: with the channels' power, for what is rated.
Expected<Wired> wired(const std::string& file, bool complete) {
    auto build = loadBuild(file);
    if (!build) return build.problem();
    Wired out{std::move(*build), {}, {}};
    const Catalogue& catalogue = catalogueOf(out.build);
    out.figures = plan::solveFigures(out.build, catalogue);
    if (complete && out.figures.nominal)
        out.figures.power = plan::channelPower(out.build, catalogue, *out.figures.nominal);
    for (const auto& f : out.figures.failures) fmt::print(stderr, "{}\n", f);
    out.wires = wires::wireFigures(out.build, catalogue, out.figures);
    for (const Problem& p : out.wires.harness.problems) fmt::print(stderr, "{}\n", p.text());
    return out;
}

template <typename Tell>
int withWires(const std::string& file, bool complete, Tell tell) {
    const auto w = wired(file, complete);
    if (!w) return refuse(w.problem());
    print(tell(*w));
    return fine;
}

} // namespace

int tellWires(const std::string& file) {
    return withWires(file, false, [](const Wired& w) {
        Json all = Json::array();
        const wires::ContinuityNetwork network(w.build, w.wires.harness);
        for (const wires::Run& r : w.wires.harness.runs) {
            const wires::Continuity c = network.of(r);
            Json wrong = Json::array();
            for (const wires::WrongReading& x : c.wrong) wrong.push_back({{"cause", x.cause}, {"ohms", known(x.ohms)}});
            all.push_back({{"id", r.wire.id},
                           {"from", r.wire.from},
                           {"to", r.wire.to},
                           {"net", r.net},
                           {"kind", wires::nameOf(r.kind)},
                           {"length", r.length},
                           {"area_m2", r.wire.area},
                           {"colour", r.wire.colour},
                           {"twisted_with", r.pair() && !r.wire.straight ? Json(r.twistedWith) : Json(nullptr)},
                           {"screened", r.screened},
                           {"ohms", r.ohms},
                           {"amps", known(r.amps)},
                           {"volts_lost", known(r.amps * r.ohms)},
                           {"watts", known(r.amps * r.amps * r.ohms)},
                           {"continuity", {{"at", c.at}, {"ohms", known(c.ohms)}, {"wrong", wrong}}},
                           {"worst_volts", known(r.worstVolts)},
                           {"insulation_volts", r.wire.insulationVolts},
                           {"state", nameIn(jointNames, r.state())}});
        }
        return Json{{"wires", all}};
    });
}

int tellHeaters(const std::string& file) {
    return withWires(file, false, [](const Wired& w) {
        Json windings = Json::array();
        for (const wires::HeatedWinding& x : w.wires.heaters.windings) {
            const auto tags = [](const wires::WindingVolts& v) {
                return Json{{"volts", known(v.volts)}, {"amps", known(v.amps)}};
            };
            Json sockets = Json::array();
            for (const wires::SocketVolts& s : x.sockets)
                sockets.push_back({{"valve", s.valve},
                                   {"rated", s.rated},
                                   {"low", known(s.low)},
                                   {"nominal", known(s.nominal)},
                                   {"high", known(s.high)},
                                   {"heater_cathode_volts", known(s.heaterCathode)},
                                   {"limit", s.heaterCathodeLimit > 0 ? Json(s.heaterCathodeLimit) : Json(nullptr)}});
            Json dc = nullptr;
            const auto& high = w.figures.high;
            const HeaterWinding* own = nullptr;
            for (const HeaterWinding& h : w.build.transformer.heaters)
                if (h.id == x.id && h.rectified()) own = &h;
            const auto feed = [&](const std::optional<plan::Steady>& s) {
                const auto at = s ? s->heaterFeeds.find(x.id) : decltype(s->heaterFeeds.end()){};
                return s && at != s->heaterFeeds.end() ? at->second : plan::HeaterFeedFigures{};
            };
            if (own) {
                const plan::HeaterFeedFigures low = feed(w.figures.low), nominal = feed(w.figures.nominal),
                                              most = feed(high);
                dc = {{"volts", known(nominal.out)},
                      {"ripple_pp", known(nominal.ripplePp)},
                      {"reservoir_volts", known(nominal.reservoir)},
                      {"reservoir_least_volts", known(low.reservoirLeast)},
                      {"headroom_volts", known(low.headroom)},
                      {"regulator_watts", known(most.regulatorWatts)},
                      {"junction_kelvin", x.regulator ? known(x.regulator->now) : Json(nullptr)},
                      {"heat_sink_needed", x.regulator ? known(x.regulator->sinkNeeded) : Json(nullptr)},
                      {"winding_amps", known(nominal.windingAmps)}};
            }
            windings.push_back({{"id", x.id},
                                {"dc", dc},
                                {"low", tags(x.low)},
                                {"nominal", tags(x.nominal)},
                                {"high", tags(x.high)},
                                {"rated_amps", x.ratedAmps},
                                {"cold_amps", known(x.coldAmps)},
                                {"floating", x.floating},
                                {"sockets", sockets}});
        }
        return Json{{"windings", windings}};
    });
}

int tellGrounds(const std::string& file) {
    return withWires(file, true, [](const Wired& w) {
        const wires::HumFigures& f = w.wires.hum;
        Json schools = Json::array();
        for (const wires::School& s : wires::compareSchools(w.build, catalogueOf(w.build), w.figures))
            schools.push_back({{"scheme", nameIn(groundSchemeNames, s.scheme)},
                               {"rms", known(s.rms)},
                               {"returns_rms", known(s.returns)},
                               {"loops", s.loops},
                               {"wire_m", s.wire}});
        Json loops = Json::array(), inputs = Json::array(), points = Json::array();
        for (const wires::GroundLoop& l : f.loops)
            loops.push_back({{"wires", l.wires}, {"area_m2", l.area}, {"induced_volts", l.induced}});
        for (const wires::ChannelHum& c : f.channels) {
            Json lines = Json::array();
            double square = 0;
            for (std::size_t k = 0; k < c.groundAtInput.size(); ++k) {
                lines.push_back({{"hz", c.lines[k].hertz}, {"rms", known(c.groundAtInput[k])}});
                square += c.groundAtInput[k] * c.groundAtInput[k];
            }
            inputs.push_back(
                {{"channel", w.build.channels[c.channel].id}, {"rms", known(std::sqrt(square))}, {"lines", lines}});
        }
        for (const auto& [name, volts] : f.groundVolts) points.push_back({{"point", name}, {"rms", known(volts)}});
        Json signal = Json::array(), earthLoops = Json::array();
        const auto idOf = [&](std::size_t channel) { return w.build.channels[channel].id; };
        for (const wires::SignalReturn& r : f.driven)
            for (std::size_t c = 0; c < r.reached.size(); ++c)
                signal.push_back({{"from", idOf(r.channel)}, {"to", idOf(c)}, {"share", known(r.reached[c])}});
        for (const wires::EarthLoop& l : f.earthLoops)
            earthLoops.push_back(
                {{"channel", idOf(l.channel)}, {"amps", known(l.amps)}, {"output_rms", known(l.output)}});
        const wires::EarthFaults& x = f.faults;
        return Json{{"bonds", f.bonds},
                    {"loops", loops},
                    {"inputs", inputs},
                    {"points", points},
                    {"unconnected", f.loose},
                    {"schools", schools},
                    {"signal_returns", signal},
                    {"earth_loops", earthLoops},
                    {"faults",
                     {{"live",
                       {{"amps", known(x.liveAmps)},
                        {"cleared_seconds", known(x.liveSeconds)},
                        {"earth_wire_volts", known(x.earthVolts)},
                        {"touch_volts", known(x.touchVolts)}}},
                      {"rail",
                       {{"amps", known(x.railAmps)},
                        {"cleared_seconds", known(x.railSeconds)},
                        {"ground_to_chassis_volts", known(x.groundVolts)}}}}}};
    });
}

int tellHum(const std::string& file) {
    return withWires(file, true, [](const Wired& w) {
        Json channels = Json::array(), helps = Json::array();
        for (const wires::ChannelHum& c : w.wires.hum.channels) {
            Json lines = Json::array(), sources = Json::object();
            for (std::size_t s = 0; s < wires::humSources; ++s)
                sources[wires::nameOf(static_cast<wires::HumSource>(s))] = known(c.by[s]);
            for (const wires::HumLine& l : c.lines)
                lines.push_back({{"hz", l.hertz},
                                 {"rms", known(l.rms)},
                                 {"least", known(l.least)},
                                 {"most", known(l.most)},
                                 {"source", wires::nameOf(l.source)}});
            channels.push_back({{"channel", w.build.channels[c.channel].id},
                                {"rms", known(c.rms)},
                                {"a_weighted", known(c.weighted)},
                                {"rated_volts", known(c.rated)},
                                {"least", known(c.least)},
                                {"most", known(c.most)},
                                {"below_rated_db", known(c.belowRatedDb())},
                                {"sources", sources},
                                {"lines", lines}});
        }
        for (const wires::Help& h : wires::whatHelps(w.build, catalogueOf(w.build), w.figures))
            helps.push_back({{"title", h.edit.name}, {"db", h.decibels}, {"patch", *h.edit.patch}});
        return Json{{"channels", channels}, {"helps", helps}};
    });
}

} // namespace ember::cli
