#pragma once
// Parts of a build by their ids, and what the plan says of a valve: for tests that speak of one of them.
#include "core/build/path.h"
#include "core/plan/steady.h"
#include "core/schematic/channel_parts.h"

#include <QtGlobal>

/// The part of a stage that carries this id; a test that names another ends.
template <typename T>
T& partOf(ember::Build& b, const std::string& id) {
    for (ember::Channel& ch : b.channels)
        for (ember::Stage& s : ch.stages)
            for (ember::StagePart& p : s.parts)
                if (auto* found = std::get_if<T>(&p.part); found && found->id == id) return *found;
    qFatal("the build has no such part: %s", id.c_str());
}
inline double& ohmsOf(ember::Build& b, const std::string& id) {
    return partOf<ember::ResistorPart>(b, id).resistance;
}
/// Position of the trimmer of an output valve.
inline double& adjusterOf(ember::Build& b, const std::string& valve) {
    for (ember::Channel& ch : b.channels)
        for (ember::Stage& s : ch.stages)
            for (const ember::StageValve& v : s.valves)
                if (v.bottle == valve)
                    if (auto* p = s.part("adjuster", v.at)) return std::get<ember::AdjusterPart>(p->part).position;
    qFatal("no adjuster sets %s", valve.c_str());
}
inline double adjusterOf(const ember::Build& b, const std::string& valve) {
    ember::Build copy = b;
    return adjusterOf(copy, valve);
}
inline ember::Valve& valveOf(ember::Build& b, const std::string& id) {
    return b.bottles.at(ember::bottleIndex(b, id).value());
}
/// The stages of a channel of the demo: small valves' and output's.
inline ember::Stage& outputOf(ember::Channel& ch) {
    return ch.stages.at(ember::schematic::firstOf(ch, ember::schematic::Duty::Output));
}
/// Supply nodes of plates and screens, and of every other stage.
inline void feed(ember::Build& b, int plates, int small) {
    for (ember::Channel& ch : b.channels)
        for (ember::Stage& s : ch.stages) {
            s.node = ember::schematic::isOutput(s) ? plates : small;
            s.screenNode = 0;
        }
}
/// What the plan says of a valve system.
inline const ember::plan::ValvePoint& pointOf(const ember::Build& b, const ember::plan::Steady& s,
                                              const std::string& id, int section = 1) {
    for (const auto& c : s.channels)
        for (const auto& v : c.valves)
            if (b.bottles[v.bottle].id == id && v.section == section) return v;
    qFatal("no stage uses %s", id.c_str());
}
/// Everything that the channels draw [A].
inline double drawnOf(const ember::plan::Steady& s) {
    double amps = 0;
    for (const auto& c : s.channels)
        for (const auto& d : c.draws) amps += d.amps;
    return amps;
}
