#pragma once
// Paths made at random from every kind of stage, with parts near their usual values.
#include "core/schematic/stage_edits.h"
#include "core/schematic/stages/stage_kind.h"

#include <cmath>
#include <random>

inline ember::Build randomPath(std::uint64_t seed) {
    using namespace ember;
    using namespace ember::schematic;
    std::mt19937_64 chance(seed * 7919 + 3);
    const auto pick = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(chance); };
    const auto about = [&](double value) {
        return value * std::exp(std::uniform_real_distribution<double>(-0.4, 0.4)(chance));
    };
    Build b;
    b.channels.emplace_back();
    b.channels[0].id = "one", b.channels[0].name = "One";
    auto& stages = b.channels[0].stages;
    const auto add = [&](const StageKind& kind) {
        std::vector<StageValve> valves;
        int section = 1;
        for (const ValveSlot& slot : kind.valves) {
            const bool output = kind.duty == Duty::Output;
            const char* const small[] = {"ECC85", "12BH7A", "ECC88", "6SL7GT"};
            const char* const large[] = {"EL84", "6L6GC", "6550"};
            const bool pentode = slot.takes == Takes::Pentode || output;
            const std::string at = slot.several ? std::string(slot.at) + "1" : std::string(slot.at);
            if (valves.empty() || pentode) {
                b.bottles.emplace_back();
                b.bottles.back().id = "v" + std::to_string(b.bottles.size());
                // The two sides of an output stage are of one type.
                b.bottles.back().type = valves.empty() ? (pentode ? large[pick(output ? 3 : 1)] : small[pick(4)])
                                                       : b.bottles[b.bottles.size() - 2].type;
                section = 1;
            }
            valves.push_back({{}, at, b.bottles.back().id, section++});
        }
        Stage s = freshStage(kind, valves);
        s.id = "s" + std::to_string(stages.size() + 1);
        s.node = kind.duty == Duty::Output ? 1 : 2;
        for (const Form& form : kind.forms)
            if (!form.choices.empty() && pick(2) == 0)
                s.options.push_back({{}, std::string(form.name), std::string(form.choices[pick(form.choices.size())])});
        // What is not usual is there now and then.
        for (const EmptySlot& slot : emptySlots(s))
            if (!slot.slot->fills.empty() && slot.slot->name != "adjuster" && slot.slot->name != "choke" &&
                slot.slot->name != "screen zener" && slot.slot->name != "screen capacitor" && pick(4) == 0)
                s.parts.push_back(
                    {{}, std::string(slot.slot->name), slot.at, "", freshPart(slot.slot->fills[0], *slot.slot)});
        for (StagePart& p : s.parts)
            if (p.part.index() < 4) mainValue(p.part) = about(mainValue(p.part));
        // A tap is asked for only of a transformer that has one; what a signal comes through has a leak behind it.
        for (StagePart& p : s.parts)
            if (auto* t = std::get_if<OutputTransformer>(&p.part)) t->screenTap = 0.43;
        for (const StagePart& p : std::vector<StagePart>(s.parts))
            if (p.slot == "coupling" && !s.part("grid leak", p.at) && !s.valves.empty() && kind.id != "follower")
                for (const Slot& slot : kind.places)
                    if (slot.name == "grid leak")
                        s.parts.push_back({{}, "grid leak", p.at, "", freshPart(Fill::Resistor, slot)});
        stages.push_back(std::move(s));
    };
    const auto kindsOf = [](auto wanted) {
        std::vector<const StageKind*> out;
        for (const StageKind* k : stageKinds())
            if (wanted(*k)) out.push_back(k);
        return out;
    };
    const auto controls = kindsOf([](const StageKind& k) { return k.duty == Duty::Control; });
    const auto gains = kindsOf([](const StageKind& k) { return k.duty == Duty::Gain; });
    const auto splitters = kindsOf([](const StageKind& k) { return k.duty == Duty::Splitter; });
    const auto coupled = [&] { // a stage behind a plate is coupled by a capacitor, and has its leak
        Stage& s = stages.back();
        const std::string at = s.valves.empty() ? "" : s.valves[0].at == "lower" ? "" : s.valves[0].at;
        if (s.valves.empty() || s.part("coupling", at)) return;
        s.parts.push_back({{}, "coupling", at, "", CapacitorPart{{}, "", about(100e-9), 400, 0.1, 0, 0}});
        if (!s.part("grid leak", at))
            s.parts.push_back({{}, "grid leak", at, "", ResistorPart{{}, "", about(470e3), 0.5, 0.05}});
    };
    add(*stageKind("input"));
    for (std::size_t k = 1 + pick(3); k-- > 0;) {
        add(*gains[pick(gains.size())]);
        coupled();
        if (pick(3) == 0) {
            // A control stands behind a capacitor.
            stages.push_back({});
            stages.back().kind = "pad";
            stages.back().id = "s" + std::to_string(stages.size());
            stages.back().parts = {{{}, "series capacitor", "", "", CapacitorPart{{}, "", 100e-9, 400, 0.1, 0, 0}},
                                   {{}, "shunt", "", "", ResistorPart{{}, "", 1e6, 0.5, 0.05}},
                                   {{}, "series", "", "", ResistorPart{{}, "", 1e11, 0.5, 0.05}}};
            add(*controls[pick(controls.size())]);
        }
    }
    switch (pick(3)) {
    case 0:
        add(*splitters[pick(splitters.size())]);
        if (stages.back().kind != "phase transformer") coupled();
        add(*stageKind("push-pull"));
        break;
    case 1: add(*stageKind("single-ended")); break;
    default: add(*stageKind("line out")); break;
    }
    return b;
}
