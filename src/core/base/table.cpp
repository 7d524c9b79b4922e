#include "table.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <sstream>

namespace ember {

namespace {

std::vector<std::string> cellsOf(const std::string& line, char between) {
    std::vector<std::string> out(1);
    bool quoted = false;
    for (std::size_t k = 0; k < line.size(); ++k) {
        if (line[k] == '"' && quoted && k + 1 < line.size() && line[k + 1] == '"')
            out.back() += line[k++];
        else if (line[k] == '"')
            quoted = !quoted;
        else if (line[k] == between && !quoted)
            out.emplace_back();
        else
            out.back() += line[k];
    }
    for (std::string& cell : out) {
        const auto from = cell.find_first_not_of(" \t\r"), to = cell.find_last_not_of(" \t\r");
        cell = from == std::string::npos ? "" : cell.substr(from, to - from + 1);
    }
    return out;
}

} // namespace

std::string Table::cell(const Row& row, const std::string& head) const {
    const auto column = columns.find(head);
    return column != columns.end() && column->second < row.cells.size() ? row.cells[column->second] : std::string();
}

Expected<Table> tableOf(std::string_view text, const std::vector<std::string>& wanted) {
    constexpr std::string_view mark = "\xEF\xBB\xBF"; // some spreadsheets begin with it
    if (text.substr(0, mark.size()) == mark) text.remove_prefix(mark.size());
    std::istringstream in{std::string(text)};
    std::string line;
    if (!std::getline(in, line)) return Problem{"line 1", "the table is empty"};
    const auto has = [&](char c) { return line.find(c) != std::string::npos; };
    const char between = has(';') ? ';' : has('\t') ? '\t' : ',';
    Table out;
    const auto heads = cellsOf(line, between);
    for (std::size_t k = 0; k < heads.size(); ++k) out.columns[heads[k]] = k;
    for (const std::string& head : wanted)
        if (!out.columns.contains(head)) return Problem{"line 1", fmt::format("the column \"{}\" is missing", head)};
    for (int at = 2; std::getline(in, line); ++at)
        if (line.find_first_not_of(" \t\r") != std::string::npos) out.rows.push_back({at, cellsOf(line, between)});
    return out;
}

std::optional<double> numberIn(std::string text) {
    std::replace(text.begin(), text.end(), ',', '.');
    double value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
    return value;
}

} // namespace ember
