#include "bench_commands.h"

#include "core/bench/virtual_amplifier.h"
#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/diagnose/faults.h"
#include "core/procedure/suspects.h"
#include "core/signal/sound_file.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"
#include "output.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>

namespace ember::cli {

int analyse(const std::string& file, int channel, double fullScale, std::optional<double> load) {
    const auto capture = signal::readSound(file, channel, fullScale);
    if (!capture) return refuse(capture.problem());
    const auto a = signal::analyseTone(signal::steadyPart(capture->volts, capture->sampleRate), capture->sampleRate,
                                       capture->fullScale);
    if (!a) return refuse({file, a.problem().sentence});
    Json out = {{"fundamental_hz", a->fundamental}, {"level_rms", a->level}};
    if (load) out["power_w"] = a->level * a->level / *load;
    out["thd_percent"] = a->thdPercent;
    out["thd_n_percent"] = a->thdNoisePercent;
    out["harmonics"] = Json::array();
    for (const auto& h : a->harmonics)
        if (h.order > 1)
            out["harmonics"].push_back({{"order", h.order}, {"hz", h.hertz}, {"db", h.db}, {"percent", h.percent}});
    out["dc"] = a->dc;
    out["noise_rms"] = a->noiseFloor;
    out["clipped"] = a->clipped;
    print(out);
    return fine;
}

int practice(const std::string& file, std::uint64_t seed, const std::string& fault, int stage) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    auto amplifier = bench::VirtualAmplifier::make(*build, catalogueOf(*build), seed, fault);
    if (!amplifier) return refuse(amplifier.problem());
    if (auto done = amplifier->power(stage, build->mains.volts); !done) return refuse(done.problem());
    const auto expected = procedure::firstPowerStage(*build, catalogueOf(*build), stage, build->mains.volts);
    Json readings = Json::array();
    for (const auto& e : expected.expectations) {
        const auto value = amplifier->read(e.point.id);
        if (!value) continue;
        Json r = {{"point", e.point.id},
                  {"value", *value},
                  {"low", e.band.low},
                  {"high", std::isfinite(e.band.high) ? Json(e.band.high) : Json(nullptr)},
                  {"verdict", std::string(procedure::word(procedure::judge(e, *value)))}};
        if (e.stopAbove) r["stop_above"] = *e.stopAbove;
        readings.push_back(std::move(r));
    }
    const auto& lamp = amplifier->state().lamp;
    print({{"build", build->name},
           {"stage", stage},
           {"name", std::string(procedure::stageName(stage))},
           {"seed", seed},
           {"fault", fault.empty() ? Json(nullptr) : Json(fault)},
           {"lamp", {{"volts", lamp.volts}, {"kelvin", lamp.kelvin}, {"looks", procedure::glow(lamp.kelvin)}}},
           {"readings", readings}});
    return fine;
}

int faults(const std::string& file, int stage, const std::vector<std::string>& reads) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    const Catalogue& catalogue = catalogueOf(*build);
    Json out = Json::array();
    if (reads.empty()) {
        for (const auto& f : diagnose::faultsOf(*build, catalogue))
            out.push_back({{"id", f.id}, {"sentence", f.sentence}});
        print({{"build", build->name}, {"faults", out}});
        return fine;
    }
    if (stage < 1 || stage >= procedure::stageCount)
        return refuse({"--stage", fmt::format("a powered stage from 1 to {} is expected", procedure::stageCount - 1)});
    const auto expected = procedure::firstPowerStage(*build, catalogue, stage, build->mains.volts, {false, 100});
    const auto points = procedure::pointsOfStage(*build, stage);
    std::vector<std::pair<procedure::TestPoint, double>> readings;
    for (const std::string& r : reads) {
        const auto at = r.find('=');
        const auto* point = procedure::findPoint(points, r.substr(0, at));
        if (at == std::string::npos || !point)
            return refuse(
                {"--read", fmt::format("POINT=VALUE is expected, with a point of stage {}, not {}", stage, r)});
        const auto value = parseQuantity(r.substr(at + 1), point->unit());
        if (!value) return refuse({"--read " + r, value.problem().sentence});
        readings.emplace_back(*point, *value);
    }
    const auto s = procedure::suspects(*build, catalogue, expected, readings);
    if (!s) return refuse(s.problem());
    for (const auto& x : s->ranking.suspects)
        out.push_back({{"id", x.fault.id}, {"sentence", x.fault.sentence}, {"share", x.share}});
    print({{"build", build->name},
           {"stage", stage},
           {"healthy_share", s->ranking.healthyShare},
           {"faults", out},
           {"telling_point",
            s->ranking.teller < 0 ? Json(nullptr) : Json(s->points[static_cast<std::size_t>(s->ranking.teller)].id)},
           {"in_words", procedure::inWords(*s)}});
    return fine;
}

} // namespace ember::cli
