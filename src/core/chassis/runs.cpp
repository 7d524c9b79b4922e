#include "runs.h"

#include "core/build/build_json.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <set>

namespace ember::chassis {

namespace {

constexpr double dress = 0.015, strip = 0.008; // at each end [m]

using Part = std::optional<std::size_t>;

class Runs {
  public:
    Runs(const Build& b, std::vector<Run>& to) : build(b), out(to) {}

    [[nodiscard]] Part of(const std::string& electrical) const {
        return first([&](const PlacedPart& p) { return !electrical.empty() && p.of == electrical; });
    }
    [[nodiscard]] Part kind(std::string_view kind) const {
        return first([&](const PlacedPart& p) { return p.kind == kind; });
    }
    void add(RunKind kind, Part from, Part to, std::string what) {
        if (from && to && *from != *to) out.push_back({kind, *from, *to, std::move(what), length(*from, *to)});
    }
    /// Wires meet a part at its origin, 10 mm inside its face.
    [[nodiscard]] double length(std::size_t from, std::size_t to) const {
        const auto& parts = build.chassis.parts;
        const Vector way = toChassis(frameOf(build.chassis, parts[to]), 0, 0, -0.01) -
                           toChassis(frameOf(build.chassis, parts[from]), 0, 0, -0.01);
        return way.lpNorm<1>() + 2 * (dress + strip);
    }

  private:
    template <typename Holds>
    [[nodiscard]] Part first(Holds holds) const {
        const auto& parts = build.chassis.parts;
        const auto at = std::find_if(parts.begin(), parts.end(), holds);
        return at == parts.end() ? Part() : Part(static_cast<std::size_t>(at - parts.begin()));
    }
    const Build& build;
    std::vector<Run>& out;
};

void mainsRuns(const Build& b, Runs& runs) {
    const Part inlet = runs.kind("inlet"), fuse = runs.kind("fuse"), onOff = runs.kind("switch");
    const Part transformer = runs.of(b.transformer.id);
    runs.add(RunKind::Mains, inlet, runs.kind("earth"), "safety earth");
    runs.add(RunKind::Mains, inlet, fuse, "live, to the fuse's far terminal");
    runs.add(RunKind::Mains, fuse, onOff, "live, fused");
    runs.add(RunKind::Mains, onOff ? onOff : fuse, transformer, "live, switched");
    runs.add(RunKind::Mains, inlet, onOff ? onOff : transformer, "neutral");
    if (onOff) runs.add(RunKind::Mains, onOff, transformer, "neutral, switched");
}

void heaterRuns(const Build& b, Runs& runs) {
    const Part transformer = runs.of(b.transformer.id), rectifier = runs.of(b.supply.rectifier.id);
    runs.add(RunKind::Winding, transformer, rectifier, "rectifier heater");
    std::vector<std::size_t> output, small;
    for (const Channel& ch : b.channels) {
        for (const std::string& id : schematic::outputBottles(ch))
            if (const Part p = runs.of(id)) output.push_back(*p);
        for (const std::string& id : schematic::smallBottles(ch)) // a bottle that two channels share is wired once
            if (const Part p = runs.of(id); p && std::find(small.begin(), small.end(), *p) == small.end())
                small.push_back(*p);
    }
    if (!transformer) return;
    std::size_t at = *transformer;
    for (auto* group : {&output, &small})
        while (!group->empty()) {
            const auto next = std::min_element(group->begin(), group->end(), [&](std::size_t x, std::size_t y) {
                return runs.length(at, x) < runs.length(at, y);
            });
            runs.add(RunKind::Heater, at, *next, "heaters, twisted pair");
            at = *next;
            group->erase(next);
        }
}

void supplyRuns(const Build& b, Runs& runs) {
    const Part rectifier = runs.of(b.supply.rectifier.id), transformer = runs.of(b.transformer.id);
    runs.add(RunKind::Winding, transformer, rectifier, "high voltage winding");
    Part at = rectifier ? rectifier : transformer;
    std::map<int, Part> nodes; // the last part of each node
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        const Part here = runs.of(section.id);
        if (here) {
            runs.add(RunKind::HighVoltage, at, here, "high voltage, raw");
            at = here;
        }
        if (section.kind == SectionKind::Capacitor && here) nodes[nodeOfSection(b.supply, k)] = here;
    }
    const auto node = [&](int n) {
        const auto found = nodes.find(n);
        return found == nodes.end() ? Part() : found->second;
    };
    for (const Channel& ch : b.channels) {
        std::set<std::pair<int, std::string>> done;
        for (const Stage& s : ch.stages) {
            const auto feed = [&](const std::string& id, const char* what) {
                if (done.emplace(s.node, id).second) runs.add(RunKind::HighVoltage, node(s.node), runs.of(id), what);
            };
            if (schematic::isOutput(s)) {
                for (const StagePart& p : s.parts)
                    if (std::holds_alternative<OutputTransformer>(p.part)) feed(idOf(p.part), "high voltage, plates");
            } else {
                for (const StageValve& v : s.valves) feed(v.bottle, "high voltage, small valve");
            }
        }
    }
}

void signalRuns(const Build& b, Runs& runs) {
    for (const Channel& ch : b.channels) {
        const Part input = runs.of("input-" + ch.id), volume = runs.kind("potentiometer");
        const auto small = schematic::smallBottles(ch), outputs = schematic::outputBottles(ch),
                   irons = schematic::signalIron(ch);
        const Part iron = irons.empty() ? Part() : runs.of(irons.back());
        runs.add(RunKind::Signal, input, volume, "input, shielded");
        Part at = volume ? volume : input;
        const char* what = "to the first grid, shielded";
        for (const std::string& id : small) {
            const Part next = runs.of(id);
            runs.add(RunKind::Signal, at, next, what);
            if (next) at = next;
            what = "drive";
        }
        for (const std::string& id : outputs)
            runs.add(RunKind::Signal, at, runs.of(id), small.empty() ? "to the grid, shielded" : "drive");
        for (const std::string& id : outputs) runs.add(RunKind::HighVoltage, runs.of(id), iron, "plate");
        const Part end = runs.of("output-" + ch.id);
        if (schematic::outputStage(ch))
            runs.add(RunKind::Speaker, iron, end, "speaker");
        else
            runs.add(RunKind::Signal, at, end, "output, shielded");
    }
}

} // namespace

std::vector<Run> wiringRuns(const Build& b) {
    std::vector<Run> out;
    Runs runs(b, out);
    mainsRuns(b, runs);
    heaterRuns(b, runs);
    supplyRuns(b, runs);
    signalRuns(b, runs);
    return out;
}

double inputLead(const Build& b, std::size_t channel) {
    std::vector<Run> none;
    const Runs runs(b, none);
    const Stage* first = schematic::firstGain(b.channels[channel]);
    const Part input = runs.of("input-" + b.channels[channel].id), volume = runs.kind("potentiometer"),
               small = first ? runs.of(first->valves.front().bottle) : Part();
    if (!input || !small) return std::numeric_limits<double>::quiet_NaN();
    return volume ? runs.length(*input, *volume) + runs.length(*volume, *small) : runs.length(*input, *small);
}

} // namespace ember::chassis
