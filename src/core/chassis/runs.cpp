#include "runs.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

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
        for (const std::string* id : {&ch.pair.a.id, &ch.pair.b.id})
            if (const Part p = runs.of(*id)) output.push_back(*p);
        if (const Part p = runs.of(ch.small.id)) small.push_back(*p);
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
    std::vector<Part> nodes; // the last part of each node
    for (const Section& s : b.supply.sections) {
        const Part here = runs.of(s.id);
        if (here) {
            runs.add(RunKind::HighVoltage, at, here, "high voltage, raw");
            at = here;
        }
        if (s.kind == SectionKind::Capacitor) nodes.push_back(here);
    }
    const auto node = [&](int n) {
        return n >= 1 && n <= static_cast<int>(nodes.size()) ? nodes[static_cast<std::size_t>(n - 1)] : Part();
    };
    for (const Channel& ch : b.channels) {
        runs.add(RunKind::HighVoltage, node(ch.plateNode), runs.of(ch.pair.transformer.id), "high voltage, plates");
        runs.add(RunKind::HighVoltage, node(ch.smallNode), runs.of(ch.small.id), "high voltage, small valve");
    }
}

void signalRuns(const Build& b, Runs& runs) {
    for (const Channel& ch : b.channels) {
        const Part input = runs.of("input-" + ch.id), volume = runs.kind("potentiometer"), small = runs.of(ch.small.id);
        const Part a = runs.of(ch.pair.a.id), other = runs.of(ch.pair.b.id), iron = runs.of(ch.pair.transformer.id);
        runs.add(RunKind::Signal, input, volume, "input, shielded");
        runs.add(RunKind::Signal, volume ? volume : input, small, "to the first grid, shielded");
        runs.add(RunKind::Signal, small, a, "drive");
        runs.add(RunKind::Signal, small, other, "drive");
        runs.add(RunKind::HighVoltage, a, iron, "plate");
        runs.add(RunKind::HighVoltage, other, iron, "plate");
        runs.add(RunKind::Speaker, iron, runs.of("output-" + ch.id), "speaker");
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
    const Part input = runs.of("input-" + b.channels[channel].id), volume = runs.kind("potentiometer"),
               small = runs.of(b.channels[channel].small.id);
    if (!input || !small) return std::numeric_limits<double>::quiet_NaN();
    return volume ? runs.length(*input, *volume) + runs.length(*volume, *small) : runs.length(*input, *small);
}

} // namespace ember::chassis
