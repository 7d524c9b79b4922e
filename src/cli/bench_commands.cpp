#include "bench_commands.h"

#include "core/bench/virtual_amplifier.h"
#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/diagnose/faults.h"
#include "core/procedure/leads.h"
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

namespace {

/// Build and catalogue of a file, and one step of it at nominal mains, without what faults would read.
struct StepOf {
    Build build;
    procedure::PowerStage step;
    [[nodiscard]] const Catalogue& catalogue() const { return catalogueOf(build); }
};
Expected<StepOf> stepOf(const std::string& file, int stage, int samples) {
    if (stage < 0 || stage >= procedure::stageCount)
        return Problem{"--stage",
                       fmt::format("a step from 0 to {} is expected, or its name", procedure::stageCount - 1)};
    auto build = loadBuild(file);
    if (!build) return build.problem();
    StepOf out{std::move(*build), {}};
    out.step = procedure::firstPowerStage(out.build, out.catalogue(), stage, out.build.mains.volts, {false, samples});
    return out;
}

} // namespace

int practice(const std::string& file, std::uint64_t seed, const std::string& fault, int stage, bool all) {
    const auto at = stepOf(file, stage, procedure::honestSamples);
    if (!at) return refuse(at.problem());
    auto amplifier = bench::VirtualAmplifier::make(at->build, at->catalogue(), seed, fault);
    if (!amplifier) return refuse(amplifier.problem());
    if (auto done = amplifier->power(stage, at->build.mains.volts); !done) return refuse(done.problem());
    Json readings = Json::array();
    for (const auto& e : at->step.expectations) {
        const auto value = amplifier->read(e.point.id);
        if (!value) continue;
        Json r = {{"point", e.point.id},
                  {"value", *value},
                  {"low", e.band.low},
                  {"high", known(e.band.high)},
                  {"verdict", std::string(procedure::word(procedure::judge(e, *value)))}};
        if (e.stopAbove) r["stop_above"] = *e.stopAbove;
        readings.push_back(std::move(r));
    }
    const plan::LampFigures lamp = amplifier->state().lamp;
    if (all && amplifier->power(0, at->build.mains.volts)) // with the plug out
        for (const auto& p : procedure::testPoints(at->build))
            if (p.mode == procedure::MeterMode::Ohms && !p.readAt(stage))
                if (const auto value = amplifier->read(p.id))
                    readings.push_back({{"point", p.id}, {"value", *value}, {"power", "off"}});
    print({{"build", at->build.name},
           {"stage", stage},
           {"name", std::string(procedure::stageName(stage))},
           {"seed", seed},
           {"fault", fault.empty() ? Json(nullptr) : Json(fault)},
           {"lamp", {{"volts", lamp.volts}, {"kelvin", lamp.kelvin}, {"looks", procedure::glow(lamp.kelvin)}}},
           {"readings", readings}});
    return fine;
}

int faults(const std::string& file, int stage, const std::vector<std::string>& reads) {
    Json out = Json::array();
    if (reads.empty()) {
        const auto build = loadBuild(file);
        if (!build) return refuse(build.problem());
        for (const auto& f : diagnose::faultsOf(*build, catalogueOf(*build)))
            out.push_back({{"id", f.id}, {"sentence", f.sentence}});
        print({{"build", build->name}, {"faults", out}});
        return fine;
    }
    if (stage < 1 || stage >= procedure::stageCount)
        return refuse({"--stage", fmt::format("a powered stage from 1 to {} is expected", procedure::stageCount - 1)});
    const auto at = stepOf(file, stage, 100);
    if (!at) return refuse(at.problem());
    const auto table = procedure::faultTable(at->build, at->catalogue(), at->step);
    if (!table) return refuse(table.problem());
    std::vector<std::pair<procedure::TestPoint, double>> readings;
    bool stopped = false;
    for (const std::string& r : reads) {
        const auto equals = r.find('=');
        const auto* point = procedure::findPoint(table->points, r.substr(0, equals));
        if (equals == std::string::npos || !point)
            return refuse(
                {"--read",
                 fmt::format("POINT=VALUE is expected, with a point of stage {} or a resistance, not {}", stage, r)});
        const auto value = procedure::parseReading(at->build, *point, r.substr(equals + 1));
        if (!value) return refuse({"--read " + r, value.problem().sentence});
        readings.emplace_back(*point, *value);
        for (const auto& e : at->step.expectations)
            stopped = stopped || (e.point.id == point->id && procedure::judge(e, *value) == procedure::Verdict::Stop);
    }
    const auto s = procedure::suspects(*table, readings, !stopped);
    if (!s) return refuse(s.problem());
    for (const auto& x : s->ranking.suspects)
        out.push_back(
            {{"id", x.fault.id}, {"sentence", x.fault.sentence}, {"share", x.share}, {"probability", x.share}});
    Json next = nullptr;
    if (s->next)
        next = {{"point", s->next->point.id}, {"label", s->next->point.label},
                {"why", s->next->why},        {"power", s->next->powerOff ? "off" : "on"},
                {"bits", s->next->bits},      {"minutes", s->next->minutes}};
    print({{"build", at->build.name},
           {"stage", stage},
           {"healthy_share", s->ranking.healthyShare},
           {"none_of_these", s->ranking.noneShare},
           {"faults", out},
           {"telling_point",
            s->ranking.teller < 0 ? Json(nullptr) : Json(s->points[static_cast<std::size_t>(s->ranking.teller)].id)},
           {"next", next},
           {"in_words", procedure::inWords(*s)}});
    return fine;
}

int tellPlan(const std::string& file) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    const Catalogue& catalogue = catalogueOf(*build);
    const auto whole = schematic::wholeAmplifier(*build, catalogue);
    Json steps = Json::array();
    for (int k = 0; k < procedure::stageCount; ++k) {
        const auto s = procedure::firstPowerStage(*build, catalogue, k, build->mains.volts, {false, 100});
        Json readings = Json::array();
        for (const auto& e : s.expectations) {
            const auto leads = procedure::leadsOf(*build, whole, e.point);
            readings.push_back({{"point", e.point.id},
                                {"label", e.point.label},
                                {"black", procedure::spokenEnd(whole, leads.common)},
                                {"red", procedure::spokenEnd(whole, leads.red)},
                                {"meter", procedure::meterSetting(e)},
                                {"low", known(e.band.low)},
                                {"high", known(e.band.high)},
                                {"stop_above", e.stopAbove ? Json(*e.stopAbove) : Json(nullptr)},
                                {"stop_below", e.stopBelow ? Json(*e.stopBelow) : Json(nullptr)}});
        }
        Json lamp = nullptr;
        if (s.conditions.limiter)
            lamp = {{"watts", build->limiter.watts},
                    {"volts", known(s.lamp.volts)},
                    {"looks", procedure::glow(s.lamp.kelvin)}};
        steps.push_back({{"stage", k},
                         {"name", s.name},
                         {"title", s.title},
                         {"do", s.instruction},
                         {"stop_if", s.stopIf},
                         {"cautions", s.cautions},
                         {"refusals", s.refusals},
                         {"powered", s.powered},
                         {"lamp", lamp},
                         {"discharge_seconds", known(s.discharge.allBelow10())},
                         {"readings", readings}});
    }
    print({{"build", build->name}, {"mains", build->mains.volts}, {"steps", steps}});
    return fine;
}

} // namespace ember::cli
