#include "positions.h"

#include "template_svg.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <sstream>

namespace ember::chassis {

namespace {

std::vector<std::string> cells(const std::string& line, char between) {
    std::vector<std::string> out;
    std::istringstream in(line);
    std::string cell;
    while (std::getline(in, cell, between)) {
        const auto from = cell.find_first_not_of(" \t\r\""), to = cell.find_last_not_of(" \t\r\"");
        out.push_back(from == std::string::npos ? "" : cell.substr(from, to - from + 1));
    }
    return out;
}

bool number(std::string text, double& value) {
    std::replace(text.begin(), text.end(), ',', '.');
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    return error == std::errc() && end == text.data() + text.size() && std::isfinite(value);
}

} // namespace

std::string positionsTable(const Chassis& c) {
    std::string out = "part,face,x mm,y mm,angle,recess mm\n";
    for (const PlacedPart& p : c.parts)
        out += fmt::format("{},{},{:.3f},{:.3f},{:.2f},{:.3f}\n", p.id, faceName(p.face), p.x * 1e3, p.y * 1e3, p.angle,
                           p.recess * 1e3);
    return out;
}

Expected<Edit> positionsFromTable(const Build& b, std::string_view text) {
    std::istringstream in{std::string(text)};
    std::string line;
    int at = 1;
    if (!std::getline(in, line)) return Problem{"line 1", "the table is empty"};
    const char between = line.find(';') != std::string::npos ? ';' : ',';
    std::map<std::string, std::size_t> columns;
    const auto heads = cells(line, between);
    for (std::size_t k = 0; k < heads.size(); ++k) columns[heads[k]] = k;
    for (const char* wanted : {"part", "x mm", "y mm"})
        if (!columns.contains(wanted)) return Problem{"line 1", fmt::format("the column \"{}\" is missing", wanted)};
    std::vector<Edit> edits;
    while (std::getline(in, line)) {
        ++at;
        if (line.find_first_not_of(" \t\r") == std::string::npos) continue;
        const std::string place = fmt::format("line {}", at);
        const auto row = cells(line, between);
        const auto cell = [&](const char* head) {
            const auto c = columns.find(head);
            return c != columns.end() && c->second < row.size() ? row[c->second] : std::string();
        };
        const std::string id = cell("part");
        const auto& parts = b.chassis.parts;
        const auto part = std::find_if(parts.begin(), parts.end(), [&](const PlacedPart& p) { return p.id == id; });
        if (part == parts.end()) return Problem{place, fmt::format("this layout has no part \"{}\"", id)};
        const std::string pointer = fmt::format("/chassis/parts/{}/", part - parts.begin());
        for (const auto& [head, key, scale] : {std::tuple{"x mm", "x", 1e-3},
                                               {"y mm", "y", 1e-3},
                                               {"angle", "angle", 1.0},
                                               {"recess mm", "recess", 1e-3}}) {
            if (cell(head).empty()) continue;
            double value = 0;
            if (!number(cell(head), value))
                return Problem{place, fmt::format("\"{}\" is not a number for \"{}\"", cell(head), head)};
            edits.push_back(setValue("", pointer + key, value * scale));
        }
        const std::string face = cell("face");
        if (!face.empty()) edits.push_back(setText("", pointer + "face", face));
    }
    if (edits.empty()) return Problem{"line 2", "no part is listed"};
    return together("positions from a table", edits);
}

} // namespace ember::chassis
