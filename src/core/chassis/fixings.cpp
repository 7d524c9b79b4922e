#include "fixings.h"

#include "assembly.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::chassis {

namespace {

constexpr double inWood = 14e-3, underHead = 2e-3, lengthStep = 5e-3; // [m]; the second: a lug of the part

/// The largest thread that goes through a hole, in mm.
double threadOf(const Hole& h) {
    const double width = h.width * 1e3;
    return width < 3.0 ? 2.5 : std::floor(width + 1e-6);
}

void countFixing(std::vector<Fixing>& all, const std::string& words, const PlacedPart& p) {
    auto at = std::find_if(all.begin(), all.end(), [&](const Fixing& f) { return f.words == words; });
    if (at == all.end()) at = all.insert(all.end(), Fixing{words, {}, 0});
    ++at->count;
    const std::string& id = p.of.empty() ? p.id : p.of;
    if (at->parts.empty() || at->parts.back() != id) at->parts.push_back(id);
}

} // namespace

double woodScrewFor(double hole) {
    return hole > 0.0046 ? 4.5 : hole > 0.0037 ? 3.5 : 3;
}

std::vector<Fixing> fixingsOf(const Chassis& c) {
    std::vector<Fixing> out;
    for (const PlacedPart& p : c.parts)
        for (const Hole& h : p.holes) {
            if (!isBolt(h) || !isMade(c, p, h)) continue;
            if (c.form != ChassisForm::Board || !isPlate(p.face)) {
                countFixing(out, fmt::format("screw M{:g} with nut and washers", threadOf(h)), p);
                continue;
            }
            const double screw = woodScrewFor(h.width);
            const double lift = -sunkBy(c, p),
                         length = lengthStep * std::ceil((lift + underHead + inWood) / lengthStep - 1e-9);
            countFixing(out, fmt::format("wood screw {:g} x {:.0f} mm", screw, length * 1e3), p);
            if (lift > 0)
                countFixing(out, fmt::format("spacer {:.0f} mm for a screw of {:g} mm", lift * 1e3, screw), p);
        }
    return out;
}

} // namespace ember::chassis
