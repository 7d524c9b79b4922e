#include "mountings.h"

#include "assembly.h"
#include "layout_edits.h"

#include <fmt/format.h>

namespace ember::chassis {

std::vector<const BodyKind*> mountingsOf(const PlacedPart& p) {
    std::vector<const BodyKind*> out;
    if (!isIron(p)) return out;
    for (const BodyKind& k : bodyKinds())
        if (k.kind == p.kind && k.size == BodyKind::Size::VoltAmperes) out.push_back(&k);
    return out;
}

Edit inMounting(const Chassis& c, const std::vector<std::size_t>& which, const BodyKind& mounting) {
    std::vector<Edit> edits;
    std::string name = mounting.label;
    for (const std::size_t k : which) {
        const PlacedPart& p = c.parts[k];
        if (p.locked || !isIron(p) || p.kind != mounting.kind || p.body == mounting.id) continue;
        const auto made = makePart(mounting.id, p.voltAmperes), before = makePart(p.body, p.voltAmperes);
        if (!made) continue;
        PlacedPart next = p;
        next.body = made->body;
        next.bodies = made->bodies;
        next.holes = made->holes;
        next.core = made->core;
        next.stray = made->stray;
        next.liveAbove = made->liveAbove;
        if (before && before->mass > 0) next.mass = p.mass * made->mass / before->mass;
        const std::string place = fmt::format("/chassis/parts/{}", k);
        edits.push_back(removeAt("", place));
        edits.push_back(insertAt("", place, next));
        name = fmt::format("{}: {}", tagOf(p), mounting.label);
    }
    return together(which.size() == 1 ? name : mounting.label, edits);
}

} // namespace ember::chassis
