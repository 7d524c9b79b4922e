#include "points_text.h"

#include "catalogue.h"

#include <nlohmann/json.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <optional>

namespace ember {

namespace {

constexpr std::size_t mostRows = 20'000, mostPoints = 60;

struct TableColumn {
    double PublishedPoint::*to = nullptr; ///< nullptr: not known, skipped
    double scale = 1;
};

/// The beginnings by which a head is known, small letters without spaces, points and underscores; the longest first.
using TableHead = std::pair<const char*, double PublishedPoint::*>;
constexpr std::array<TableHead, 19> heads{{
    {"platecurrent", &PublishedPoint::plateAmps},
    {"anodecurrent", &PublishedPoint::plateAmps},
    {"screencurrent", &PublishedPoint::screenAmps},
    {"ia", &PublishedPoint::plateAmps},
    {"ip", &PublishedPoint::plateAmps},
    {"ig2", &PublishedPoint::screenAmps},
    {"is", &PublishedPoint::screenAmps},
    {"vg2", &PublishedPoint::screen},
    {"ug2", &PublishedPoint::screen},
    {"vs", &PublishedPoint::screen},
    {"screen", &PublishedPoint::screen},
    {"vg", &PublishedPoint::grid},
    {"ug", &PublishedPoint::grid},
    {"grid", &PublishedPoint::grid},
    {"va", &PublishedPoint::plate},
    {"vp", &PublishedPoint::plate},
    {"ua", &PublishedPoint::plate},
    {"plate", &PublishedPoint::plate},
    {"anode", &PublishedPoint::plate},
}};

std::vector<std::string> cellsOf(std::string_view line, char by) {
    std::vector<std::string> out(1);
    for (const char c : line)
        if (c == by)
            out.emplace_back();
        else if (c != '\r' && c != '"')
            out.back() += c;
    return out;
}

TableColumn tableColumn(const std::string& head) {
    std::string word;
    for (const char c : head)
        if (std::isalnum(static_cast<unsigned char>(c)) || c == '(' || c == '[')
            word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    for (const auto& [beginning, to] : heads) {
        if (word.rfind(beginning, 0) != 0) continue;
        const std::string rest = word.substr(std::string_view(beginning).size());
        const bool current = to == &PublishedPoint::plateAmps || to == &PublishedPoint::screenAmps;
        // A current without a unit is in milliamperes, as tracers and sheets have it.
        double scale = current ? 1e-3 : 1;
        if (rest.find("ua") != std::string::npos) scale = 1e-6;
        if (current && (rest.find("(a") == 0 || rest.find("[a") == 0)) scale = 1;
        if (!current && rest.find("mv") != std::string::npos) scale = 1e-3;
        return {to, scale};
    }
    return {};
}

std::optional<double> cellNumber(std::string text, bool decimalComma) {
    if (decimalComma) std::replace(text.begin(), text.end(), ',', '.');
    const auto from = text.find_first_not_of(" +"), to = text.find_last_not_of(' ');
    if (from == std::string::npos) return std::nullopt;
    double v = 0;
    const auto [end, error] = std::from_chars(text.data() + from, text.data() + to + 1, v);
    if (error != std::errc() || end != text.data() + to + 1 || !std::isfinite(v)) return std::nullopt;
    return v;
}

Expected<PointsRead> fromTable(std::string_view text) {
    std::vector<std::string> lines;
    for (std::string& line : cellsOf(text, '\n')) {
        if (line.find_first_not_of(" \t,;") == std::string::npos) continue;
        if (lines.size() > mostRows)
            return Problem{"", fmt::format("more than {} rows: thin the table first", mostRows)};
        lines.push_back(std::move(line));
    }
    if (lines.size() < 2) return Problem{"", "a line of heads and at least one row are expected"};
    const char by = lines[0].find('\t') != std::string::npos  ? '\t'
                    : lines[0].find(';') != std::string::npos ? ';'
                                                              : ',';
    std::vector<TableColumn> columns;
    PointsRead out;
    bool plate = false, grid = false, amps = false;
    for (const std::string& head : cellsOf(lines[0], by)) {
        columns.push_back(tableColumn(head));
        plate = plate || columns.back().to == &PublishedPoint::plate;
        grid = grid || columns.back().to == &PublishedPoint::grid;
        amps = amps || columns.back().to == &PublishedPoint::plateAmps;
        out.pentode = out.pentode || columns.back().to == &PublishedPoint::screen;
    }
    if (!plate || !grid || !amps)
        return Problem{"line 1",
                       fmt::format("the heads name no {}; plate volts (Va), grid volts (Vg) and plate current "
                                   "(Ia) are needed, the screen's (Vs, Is) of a pentode",
                                   !plate  ? "plate volts"
                                   : !grid ? "grid volts"
                                           : "plate current")};
    std::vector<PublishedPoint> points;
    for (std::size_t n = 1; n < lines.size(); ++n) {
        const auto cells = cellsOf(lines[n], by);
        PublishedPoint p;
        p.source = "measured";
        for (std::size_t k = 0; k < columns.size(); ++k) {
            if (!columns[k].to) continue;
            const auto v = k < cells.size() ? cellNumber(cells[k], by != ',') : std::nullopt;
            if (!v)
                return Problem{fmt::format("line {}", n + 1),
                               fmt::format("\"{}\" is not a number", k < cells.size() ? cells[k].substr(0, 40) : "")};
            p.*columns[k].to = *v * columns[k].scale;
        }
        // The law says nothing of a valve that is cut off, and a reading there is the tracer's own leakage.
        if (p.plate > 0 && p.plateAmps > 1e-6) points.push_back(p);
    }
    if (points.empty()) return Problem{"", "no row has plate volts and a plate current above 1 uA"};
    const std::size_t count = std::min(mostPoints, points.size());
    for (std::size_t k = 0; k < count; ++k) out.data.points.push_back(points[k * points.size() / count]);
    return out;
}

/// What a law can be fitted to: nothing infinite, nothing beyond what valves do.
std::optional<Problem> absurdPoint(const PublishedData& d) {
    const auto bad = [](double v, double most) { return !std::isfinite(v) || std::abs(v) > most; };
    for (std::size_t k = 0; k < d.points.size(); ++k) {
        const PublishedPoint& p = d.points[k];
        const std::string where = fmt::format("point {}", k + 1);
        if (bad(p.plate, 5000) || bad(p.screen, 5000) || bad(p.grid, 1000) || p.plate <= 0)
            return Problem{where, "plate volts from 0 to 5000, grid volts from -1000 to 1000 are expected"};
        if (!(p.plateAmps > 0) || bad(p.plateAmps, 10) || bad(p.screenAmps, 10) || p.screenAmps < 0)
            return Problem{where, "a plate current above 0 and below 10 A is expected"};
        if (bad(p.gm, 1) || bad(p.mu, 1000) || bad(p.rp, 1e9) || p.gm < 0 || p.mu < 0 || p.rp < 0)
            return Problem{where, "gm up to 1 A/V, mu up to 1000 and rp up to 1 Gohm are expected"};
    }
    return std::nullopt;
}

} // namespace

Expected<PointsRead> pointsFromText(std::string_view text) {
    const auto first = text.find_first_not_of(" \t\r\n");
    if (first == std::string_view::npos) return Problem{"", "there is nothing in it"};
    Expected<PointsRead> read = Problem{"", ""};
    if (text[first] == '{') {
        try {
            const auto j = nlohmann::json::parse(text);
            PointsRead r{publishedFromJson(j), j.value("kind", std::string("triode")) == "pentode"};
            if (r.data.points.empty()) return Problem{"/points", "at least one point is expected"};
            read = std::move(r);
        } catch (const nlohmann::json::exception& e) {
            return Problem{"", e.what()};
        }
    } else {
        read = fromTable(text);
    }
    if (!read) return read;
    if (const auto problem = absurdPoint(read->data)) return *problem;
    return read;
}

} // namespace ember
