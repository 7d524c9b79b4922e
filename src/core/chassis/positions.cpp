#include "positions.h"

#include "tower.h"

#include "core/base/table.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::chassis {

std::string positionsTable(const Chassis& c) {
    std::string out = "part,face,x mm,y mm,angle,recess mm\n";
    for (const PlacedPart& p : c.parts)
        out += fmt::format("{},{},{:.3f},{:.3f},{:.2f},{:.3f}\n", p.id, faceName(p.face), p.x * 1e3, p.y * 1e3, p.angle,
                           p.recess * 1e3);
    return out;
}

Expected<Edit> positionsFromTable(const Build& b, std::string_view text) {
    const auto table = tableOf(text, {"part", "x mm", "y mm"});
    if (!table) return table.problem();
    std::vector<Edit> edits;
    for (const Table::Row& row : table->rows) {
        const std::string place = fmt::format("line {}", row.line), id = table->cell(row, "part");
        const auto& parts = b.chassis.parts;
        const auto part = std::find_if(parts.begin(), parts.end(), [&](const PlacedPart& p) { return p.id == id; });
        if (part == parts.end()) return Problem{place, fmt::format("this layout has no part \"{}\"", id)};
        const std::string pointer = fmt::format("/chassis/parts/{}/", part - parts.begin());
        for (const auto& [head, key, scale] : {std::tuple{"x mm", "x", 1e-3},
                                               {"y mm", "y", 1e-3},
                                               {"angle", "angle", 1.0},
                                               {"recess mm", "recess", 1e-3}}) {
            const std::string cell = table->cell(row, head);
            if (cell.empty()) continue;
            const auto value = numberIn(cell);
            if (!value) return Problem{place, fmt::format("\"{}\" is not a number for \"{}\"", cell, head)};
            edits.push_back(setValue("", pointer + key, *value * scale));
        }
        const std::string face = table->cell(row, "face");
        if (!face.empty()) edits.push_back(setText("", pointer + "face", face));
    }
    if (edits.empty()) return Problem{"line 2", "no part is listed"};
    const std::string name = "positions from a table";
    if (const auto so = apply(b, together(name, edits)); so && isTower(so->chassis) && so->chassis.storey <= 0)
        edits.push_back(setValue("", "/chassis/storey", leastStorey(so->chassis)));
    return together(name, edits);
}

} // namespace ember::chassis
