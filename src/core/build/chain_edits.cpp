#include "chain_edits.h"

#include "build_json.h"
#include "structure.h"
#include "typical_iron.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <functional>

namespace ember {

namespace {

/// Every reference to a node, renumbered.
std::vector<Edit> renumbered(const Build& b, const std::function<int(int)>& to) {
    std::vector<Edit> out;
    const auto reference = [&](const std::string& pointer, int node) {
        if (to(node) != node) out.push_back(setWhole("", pointer, to(node)));
    };
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k)
        reference(fmt::format("/supply/bleeders/{}/node", k), b.supply.bleeders[k].node);
    for (std::size_t k = 0; k < b.supply.loads.size(); ++k)
        reference(fmt::format("/supply/loads/{}/node", k), b.supply.loads[k].node);
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        for (std::size_t n = 0; n < b.channels[k].stages.size(); ++n) {
            const Stage& stage = b.channels[k].stages[n];
            reference(fmt::format("/channels/{}/stages/{}/node", k, n), stage.node);
            if (stage.screenNode > 0)
                reference(fmt::format("/channels/{}/stages/{}/screenNode", k, n), stage.screenNode);
        }
    return out;
}

std::string pointerTo(std::size_t at) {
    return fmt::format("/supply/sections/{}", at);
}

} // namespace

const char* kindWord(SectionKind kind) {
    static constexpr std::array<const char*, 7> words{"capacitor", "resistor", "choke", "switch",
                                                      "fuse",      "meter",    "tap"};
    return words[static_cast<std::size_t>(kind)];
}

namespace {

/// A section like the last of its kind in the chain, or with usual values.
Section freshSection(const Build& b, SectionKind kind) {
    const auto& all = b.supply.sections;
    Section fresh;
    const auto fellow = std::find_if(all.rbegin(), all.rend(), [&](const Section& s) { return s.kind == kind; });
    if (fellow != all.rend()) {
        fresh = *fellow;
    } else {
        fresh.kind = kind;
        if (kind == SectionKind::Switch) fresh.resistance = 0.05;
        if (kind == SectionKind::Fuse) fresh.resistance = 1;
        if (kind == SectionKind::Meter) fresh.resistance = 0.5;
        if (kind == SectionKind::Choke) fresh = typicalChoke();
        if (kind == SectionKind::Fuse || kind == SectionKind::Meter) fresh.amps = 0.25;
        if (kind == SectionKind::Tap) { // two thirds of the leg, and of its copper
            fresh.volts = nextDown(b.transformer.plateVolts * 2 / 3, Series::E24);
            fresh.resistance = b.transformer.plateResistance * fresh.volts / b.transformer.plateVolts;
        }
        if (kind != SectionKind::Capacitor) fresh.tolerance = 0.1;
    }
    static constexpr std::array<const char*, 7> letters{"c1", "r1", "l1", "s1", "f1", "m1", "tap1"};
    fresh.id = freshId(b, letters[static_cast<std::size_t>(kind)]);
    return fresh;
}

} // namespace

Edit insertSection(const Build& b, std::size_t at, SectionKind kind) {
    const auto& all = b.supply.sections;
    const Section fresh = freshSection(b, kind);
    std::vector<Edit> edits;
    if (kind != SectionKind::Capacitor) {
        const int node = nodeOfSection(b.supply, at);
        const bool capacitorBehind = at < all.size() && all[at].kind == SectionKind::Capacitor;
        edits = renumbered(b, [&](int n) { return n > node || (n == node && capacitorBehind) ? n + 1 : n; });
    }
    edits.insert(edits.begin(), insertAt("", at < all.size() ? pointerTo(at) : "/supply/sections/-", fresh));
    if (kind != SectionKind::Capacitor && at >= all.size()) // a chain ends in a capacitor
        edits.push_back(insertAt("", "/supply/sections/-", freshSection(b, SectionKind::Capacitor)));
    return together(fmt::format("insert {}", upper(fresh.id)), edits);
}

Edit removeSection(const Build& b, std::size_t at) {
    const Section& gone = b.supply.sections[at];
    std::vector<Edit> edits;
    if (gone.kind != SectionKind::Capacitor) {
        const int node = nodeOfSection(b.supply, at);
        edits = renumbered(b, [&](int n) { return n > node ? n - 1 : n; });
    }
    edits.push_back(removeAt("", pointerTo(at)));
    return together(fmt::format("take {} away", upper(gone.id)), edits);
}

Expected<Edit> shiftSection(const Build& b, std::size_t at, int by) {
    const auto& all = b.supply.sections;
    const auto to = static_cast<std::ptrdiff_t>(at) + by;
    if (at >= all.size() || to < 0 || to >= static_cast<std::ptrdiff_t>(all.size()))
        return Problem{pointerTo(at), "the chain ends here"};
    return together(
        fmt::format("{} {}", upper(all[at].id), by < 0 ? "nearer to the rectifier" : "farther from the rectifier"),
        {removeAt("", pointerTo(at)), insertAt("", pointerTo(static_cast<std::size_t>(to)), all[at])});
}

Edit hangBleeder(const Build& b, int node) {
    Bleeder bleeder;
    bleeder.node = node;
    bleeder.resistor = {{}, freshId(b, "rb1"), 220e3, 2, 0.05};
    return insertAt(fmt::format("hang {} on B+{}", upper(bleeder.resistor.id), node), "/supply/bleeders/-", bleeder);
}

Edit hangLoad(const Build& b, int node) {
    const SupplyLoad load{{}, freshId(b, "load1"), node, 0.01, 0};
    return insertAt(fmt::format("hang {} on B+{}", upper(load.id), node), "/supply/loads/-", load);
}

} // namespace ember
