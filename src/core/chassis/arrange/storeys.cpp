#include "storeys.h"

#include "part_groups.h"
#include "walls.h"

#include "core/chassis/tower.h"

#include <algorithm>

namespace ember::chassis::arrange {

Chassis asOne(const Chassis& chassis) {
    Chassis c = chassis;
    for (PlacedPart& p : c.parts)
        if (!p.locked) p.face = upperOf(p.face);
    if (std::none_of(c.parts.begin(), c.parts.end(), [](const PlacedPart& p) { return isLower(p.face); })) c.storey = 0;
    return c;
}

Chassis asTower(const Build& build) {
    Build b = build;
    b.chassis = asOne(build.chassis);
    const PartGroups groups = groupParts(b);
    Chassis& c = b.chassis;
    const auto lower = [&](std::size_t k) { c.parts[k].face = lowerOf(c.parts[k].face); };
    for (const auto* list : {&groups.mains, &groups.chokes, &groups.rectifiers, &groups.cans, &groups.supplyRest})
        for (const std::size_t k : *list) lower(k);
    for (const std::size_t k : groups.wall)
        if (isOfMains(c.parts[k]) && (c.parts[k].kind != "earth" || k == firstEarth(c))) lower(k);
    for (const std::size_t k : groups.others) // the hole that the wires go up through
        if (isLower(build.chassis.parts[k].face)) lower(k);
    c.storey = std::max(build.chassis.storey, leastStorey(c));
    return c;
}

} // namespace ember::chassis::arrange
