#include "table_file.h"

#include "sound_file.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fstream>
#include <optional>

namespace ember::signal {

namespace {

constexpr std::uintmax_t largest = 256u << 20; // bytes
constexpr std::size_t mostRows = 1u << 23, longestLine = 4096;

std::optional<double> numberOf(std::string cell, bool decimalComma) {
    std::erase_if(cell, [](char c) { return c == ' ' || c == '"' || c == '\t'; });
    if (decimalComma) std::replace(cell.begin(), cell.end(), ',', '.');
    if (!cell.empty() && cell[0] == '+') cell.erase(0, 1);
    double value = 0;
    const auto [end, error] = std::from_chars(cell.data(), cell.data() + cell.size(), value);
    return !cell.empty() && error == std::errc() && end == cell.data() + cell.size() && std::isfinite(value)
               ? std::optional(value)
               : std::nullopt;
}

std::vector<std::string> cellsOf(const std::string& line, char separator) {
    std::vector<std::string> out(1);
    bool quoted = false;
    for (const char c : line) {
        if (c == '"') quoted = !quoted;
        if (c == separator && !quoted)
            out.emplace_back();
        else
            out.back() += c;
    }
    while (out.size() > 1 && out.back().find_first_not_of(" \r\t") == std::string::npos) out.pop_back();
    return out;
}

struct Shape {
    char separator = ',';
    bool decimalComma = false;
};
/// The separator that splits a line into the most numbers.
std::optional<Shape> shapeOf(const std::string& line) {
    std::optional<Shape> best;
    std::size_t most = 0;
    for (const Shape s : {Shape{'\t', false}, {'\t', true}, {';', false}, {';', true}, {',', false}, {' ', false}}) {
        const auto cells = cellsOf(line, s.separator);
        const auto good = static_cast<std::size_t>(std::count_if(
            cells.begin(), cells.end(), [&](const auto& c) { return numberOf(c, s.decimalComma).has_value(); }));
        if (good == cells.size() && good > most) most = good, best = s;
    }
    return best;
}

/// A unit's factor in a head, such as "CH1 (mV)"; nothing: there is none.
std::optional<double> factorOf(const std::string& head, const std::string& unit) {
    const std::string h = lower(head), u = lower(unit);
    for (const auto& [prefix, factor] :
         {std::pair{"n", 1e-9}, {"u", 1e-6}, {"µ", 1e-6}, {"m", 1e-3}, {"k", 1e3}, {"", 1.0}})
        for (const auto& [open, close] : {std::pair{"(", ")"}, {"[", "]"}, {"in ", ""}, {"/ ", ""}})
            if (h.find(open + std::string(prefix) + u + close) != std::string::npos) return factor;
    for (const auto& [word, factor] : {std::pair{"n", 1e-9}, {"u", 1e-6}, {"µ", 1e-6}, {"m", 1e-3}, {"", 1.0}})
        if (h == word + u) return factor;
    return std::nullopt;
}

} // namespace

Expected<TableCapture> readTable(const std::filesystem::path& file, int channel, double rate) {
    const std::string name = file.filename().string();
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error)) return Problem{name, "there is no such file"};
    if (std::filesystem::file_size(file, error) > largest)
        return Problem{name, "it is larger than 256 MB: cut out the part that is wanted"};
    std::ifstream in(file, std::ios::binary);
    std::string line;
    std::vector<std::string> heads;
    std::optional<Shape> shape;
    std::vector<double> times, volts;
    std::size_t row = 0, columns = 0, lost = 0;
    const auto column = static_cast<std::size_t>(channel);
    while (std::getline(in, line)) {
        ++row;
        if (line.size() > longestLine)
            return Problem{fmt::format("{}, line {}", name, row),
                           "a line of more than 4096 characters: this is no table of samples"};
        if (!line.empty() && line.back() == '\r') line.pop_back();
        if (line.find_first_not_of(" \t") == std::string::npos) continue;
        if (!shape) {
            shape = shapeOf(line);
            if (!shape) {
                for (const char separator : {'\t', ';', ','})
                    if (auto cells = cellsOf(line, separator); cells.size() > 1 || separator == ',') {
                        heads = std::move(cells);
                        break;
                    }
                if (row > 200) return Problem{name, "no line of numbers is among the first 200"};
                continue;
            }
            columns = cellsOf(line, shape->separator).size();
        }
        const auto cells = cellsOf(line, shape->separator);
        std::optional<double> t, v;
        if (columns == 1) {
            v = numberOf(cells[0], shape->decimalComma);
            t = 0;
        } else if (column < cells.size()) {
            t = numberOf(cells[0], shape->decimalComma);
            v = numberOf(cells[column], shape->decimalComma);
        }
        if (!t || !v) {
            if (!shape->decimalComma && shape->separator != ',' &&
                line.find(',') != std::string::npos) { // whole numbers came first
                shape->decimalComma = true;
                const auto value = [&](std::size_t k) {
                    return k < cells.size() ? numberOf(cells[k], true) : std::nullopt;
                };
                t = columns == 1 ? std::optional(0.0) : value(0);
                v = value(columns == 1 ? 0 : column);
            }
            if (!t || !v) {
                if (volts.empty()) // a line of numbers in the head
                    shape.reset();
                else if (lost == 0)
                    lost = row;
                continue;
            }
        }
        if (lost > 0)
            return Problem{fmt::format("{}, line {}", name, lost),
                           fmt::format("column {} holds no number here, and samples follow: one is missing",
                                       (columns > 1 ? column : 0) + 1)};
        times.push_back(*t);
        volts.push_back(*v);
        if (volts.size() > mostRows)
            return Problem{name, fmt::format("more than {} rows: cut out the part that is wanted", mostRows)};
    }
    if (volts.size() < 2)
        return Problem{name, columns > 0 && column >= columns && columns > 1
                                 ? fmt::format("it has {} columns; channel {} is not among them", columns, channel)
                                 : "it holds no rows of numbers"};
    TableCapture out;
    double timeUnit = 1, voltUnit = 1;
    std::string units;
    if (heads.size() > 1) {
        if (const auto f = factorOf(heads[0], "s")) timeUnit = *f;
        if (column < heads.size())
            if (const auto f = factorOf(heads[column], "v")) voltUnit = *f;
    }
    const bool rising = columns > 1 && times.back() > times.front() && std::is_sorted(times.begin(), times.end());
    if (rising) {
        out.capture.sampleRate = static_cast<double>(times.size() - 1) / ((times.back() - times.front()) * timeUnit);
        // Times are often printed too coarsely: the whole span says the rate. A gap does not go unnoticed.
        const double step = (times.back() - times.front()) / static_cast<double>(times.size() - 1);
        double widest = 0;
        for (std::size_t k = 1; k < times.size(); ++k) widest = std::max(widest, times[k] - times[k - 1]);
        if (widest > 2.5 * step + 1e-6 * std::abs(times.back()))
            return Problem{name, fmt::format("its times have a gap of {:g} where {:g} is usual: samples are missing",
                                             widest * timeUnit, step * timeUnit)};
    } else if (rate > 0) {
        out.capture.sampleRate = rate;
    } else {
        return Problem{name, "no column of it is a time that rises; name the sample rate"};
    }
    out.capture.source = name;
    out.capture.volts = std::move(volts);
    for (double& v : out.capture.volts) v *= voltUnit;
    out.understood = fmt::format(
        "{} rows, {} between columns{}, time in column 1 (times {:g} s), volts in column {} (times {:g} V), {:g} Hz",
        out.capture.volts.size(),
        shape->separator == '\t'  ? "tabs"
        : shape->separator == ' ' ? "spaces"
                                  : fmt::format("'{}'", shape->separator),
        shape->decimalComma ? ", decimal commas" : "", timeUnit, columns > 1 ? column + 1 : 1, voltUnit,
        out.capture.sampleRate);
    return out;
}

Expected<Capture> readCapture(const std::filesystem::path& file, int channel, double fullScale) {
    const std::string kind = lower(file.extension().string());
    if (kind != ".csv" && kind != ".tsv" && kind != ".txt") return readSound(file, channel, fullScale);
    auto table = readTable(file, channel);
    if (!table) return table.problem();
    return std::move(table->capture);
}

} // namespace ember::signal
