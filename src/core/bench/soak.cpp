#include "soak.h"

#include "core/build/storage.h"
#include "core/quantity/quantity.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <fstream>

namespace ember::bench {

using nlohmann::json;

namespace {

constexpr const char* soakFormat = "dim-ember/soak";

Expected<Done> appendLine(const std::filesystem::path& file, const json& line, bool fresh) {
    const int fd = ::open(file.c_str(), O_WRONLY | O_CREAT | O_APPEND | (fresh ? O_TRUNC : 0), 0644);
    if (fd < 0) return Problem{file.string(), "the soak's readings cannot be kept: " + reasonOfFailure()};
    const bool written = writeAll(fd, line.dump() + "\n");
    ::close(fd);
    if (written) return Done{};
    return Problem{file.string(), "the soak's readings cannot be kept: " + reasonOfFailure()};
}

/// Straight line through points: slope and its standard error.
std::pair<double, double> slopeOf(const std::vector<std::pair<double, double>>& points) {
    const double n = static_cast<double>(points.size());
    if (points.size() < 3) return {plan::unknown, plan::unknown};
    double mx = 0, my = 0, xx = 0, xy = 0, rest = 0;
    for (const auto& [x, y] : points) mx += x / n, my += y / n;
    for (const auto& [x, y] : points) xx += (x - mx) * (x - mx), xy += (x - mx) * (y - my);
    if (!(xx > 0)) return {plan::unknown, plan::unknown};
    const double slope = xy / xx;
    for (const auto& [x, y] : points) rest += std::pow(y - my - slope * (x - mx), 2);
    return {slope, std::sqrt(rest / (n - 2) / xx)};
}

} // namespace

Exponential fitExponential(const std::vector<std::pair<double, double>>& points) {
    Exponential best;
    if (points.size() < 4) return best;
    const double first = points.front().first, span = points.back().first - first;
    if (!(span > 0)) return best;
    // For a given constant it is a straight line in exp(-t / constant): the constant is looked for on a fine grid, then
    // between its neighbours by golden section.
    const auto fit = [&](double constant) {
        double n = 0, mx = 0, my = 0, xx = 0, xy = 0, rest = 0;
        for (const auto& [t, y] : points) n += 1, mx += std::exp(-(t - first) / constant), my += y;
        mx /= n, my /= n;
        for (const auto& [t, y] : points) {
            const double x = std::exp(-(t - first) / constant) - mx;
            xx += x * x, xy += x * (y - my);
        }
        Exponential e;
        e.constant = constant;
        const double slope = xx > 0 ? xy / xx : 0;
        e.end = my - slope * mx, e.begin = e.end + slope;
        for (const auto& [t, y] : points) rest += std::pow(y - e.end - slope * std::exp(-(t - first) / constant), 2);
        e.residual = std::sqrt(rest / n);
        return e;
    };
    constexpr double ratio = 1.1;
    const double shortest = span / 50, longest = span * 5;
    for (double c = shortest; c <= longest; c *= ratio)
        if (const Exponential e = fit(c); std::isnan(best.residual) || e.residual < best.residual) best = e;
    if (best.constant < shortest * ratio || best.constant > longest / ratio) return {}; // no bend within the points
    double low = best.constant / ratio, high = best.constant * ratio;
    for (int k = 0; k < 60; ++k) {
        const double a = high - 0.618 * (high - low), z = low + 0.618 * (high - low);
        (fit(a).residual < fit(z).residual ? high : low) = fit(a).residual < fit(z).residual ? z : a;
    }
    return fit(0.5 * (low + high));
}

SoakFigures soakFigures(const SoakPlan& plan, const std::vector<SoakReading>& readings) {
    SoakFigures out;
    std::vector<std::pair<double, double>> level, thd, warm, cool;
    double first = plan::unknown, watts = 0, played = 0, before = plan::unknown;
    for (const SoakReading& r : readings) {
        if (std::isfinite(r.celsius)) (r.playing ? warm : cool).emplace_back(r.at, r.celsius);
        if (std::isfinite(r.celsius) && r.celsius > plan.mostCelsius)
            out.stop =
                fmt::format("the load's sink is at {:.0f} °C, and {:.0f} are allowed", r.celsius, plan.mostCelsius);
        if (!r.playing || !(r.volts > 0)) continue;
        // Between two readings much longer than the interval: the computer slept, or the program was closed.
        if (std::isfinite(before) && r.at - before > 3 * plan.interval) out.gaps.emplace_back(before, r.at);
        before = r.at;
        if (std::isnan(first)) first = r.volts;
        const double db = 20 * std::log10(r.volts / first);
        level.emplace_back(r.at / 3600, db);
        thd.emplace_back(r.at / 3600, r.thdPercent);
        watts += r.watts, played += 1;
        if (std::abs(db) > plan.mostDrift)
            out.stop = fmt::format("the output has moved by {:+.2f} dB since it began, and {:.1f} are allowed", db,
                                   plan.mostDrift);
        if (std::abs(r.dc) > plan.mostDcVolts)
            out.stop = fmt::format("{} DC stand across the load", format(r.dc, Unit::Volt, 2));
    }
    std::tie(out.dbPerHour, out.dbPerHourError) = slopeOf(level);
    out.thdPerHour = slopeOf(thd).first;
    out.warming = fitExponential(warm), out.cooling = fitExponential(cool);
    if (played > 0 && watts > 0) out.kelvinPerWatt = (out.warming.end - out.warming.begin) / (watts / played);
    return out;
}

Expected<Done> beginSoak(const std::filesystem::path& file, const SoakPlan& p, const std::string& time) {
    std::error_code ignored;
    std::filesystem::create_directories(file.parent_path(), ignored);
    return appendLine(file,
                      {{"format", soakFormat},
                       {"begun", time},
                       {"channel", p.channel},
                       {"practice", p.practice},
                       {"index", p.tone.channel},
                       {"input_rms", p.tone.inputRms},
                       {"hz", p.tone.hertz},
                       {"interval", p.interval},
                       {"seconds", p.seconds},
                       {"most_drift_db", p.mostDrift},
                       {"most_celsius", p.mostCelsius}},
                      true);
}

Expected<Done> addReading(const std::filesystem::path& file, const SoakReading& r) {
    const auto known = [](double v) { return std::isfinite(v) ? json(v) : json(nullptr); };
    return appendLine(file,
                      {{"at", r.at},
                       {"volts", known(r.volts)},
                       {"watts", known(r.watts)},
                       {"thd_percent", known(r.thdPercent)},
                       {"dc", known(r.dc)},
                       {"celsius", known(r.celsius)},
                       {"playing", r.playing}},
                      false);
}

Expected<Done> endSoak(const std::filesystem::path& file, const std::string& why) {
    return appendLine(file, {{"ended", why}}, false);
}

Expected<SoakRecord> readSoak(const std::filesystem::path& file) {
    std::ifstream in(file);
    std::string line;
    if (!in || !std::getline(in, line)) return Problem{file.string(), "there is no soak in it"};
    const json head = json::parse(line, nullptr, false);
    if (!head.is_object() || head.value("format", json{}) != soakFormat)
        return Problem{file.string(), "this is no soak of this program"};
    const auto number = [](const json& j, const char* key, double otherwise) {
        return j.contains(key) && j[key].is_number() ? j[key].get<double>() : otherwise;
    };
    SoakRecord out;
    out.begun = head.value("begun", std::string());
    out.plan.channel = head.value("channel", std::string());
    out.plan.practice = head.value("practice", false);
    out.plan.tone.channel = static_cast<std::size_t>(std::clamp(number(head, "index", 0), 0.0, 7.0));
    out.plan.tone.inputRms = number(head, "input_rms", 0.1), out.plan.tone.hertz = number(head, "hz", 1000);
    out.plan.interval = std::max(1.0, number(head, "interval", 60)), out.plan.seconds = number(head, "seconds", 3600);
    out.plan.mostDrift = number(head, "most_drift_db", 1), out.plan.mostCelsius = number(head, "most_celsius", 120);
    constexpr std::size_t mostReadings = 200000;
    while (std::getline(in, line) && out.readings.size() < mostReadings) {
        const json j = json::parse(line, nullptr, false);
        if (!j.is_object()) continue; // torn
        if (j.contains("ended") && j["ended"].is_string()) {
            out.ended = j["ended"].get<std::string>();
            continue;
        }
        SoakReading r;
        r.at = number(j, "at", 0), r.volts = number(j, "volts", plan::unknown);
        r.watts = number(j, "watts", plan::unknown), r.thdPercent = number(j, "thd_percent", plan::unknown);
        r.dc = number(j, "dc", plan::unknown), r.celsius = number(j, "celsius", plan::unknown);
        r.playing = !j.contains("playing") || !j["playing"].is_boolean() || j["playing"].get<bool>();
        out.readings.push_back(r);
    }
    return out;
}

std::filesystem::path interruptedSoak(const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> all;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error))
        if (entry.path().extension() == ".jsonl" && entry.path().filename().string().rfind("soak-", 0) == 0)
            all.push_back(entry.path());
    std::sort(all.rbegin(), all.rend());
    for (const auto& file : all)
        if (const auto s = readSoak(file); s && s->ended.empty() && !s->readings.empty()) return file;
    return {};
}

std::string soakCaution(double mains, double load) {
    std::string out = "Stay with it: ";
    if (std::isfinite(mains))
        out += fmt::format("{} from the mains become heat{}, hour after hour. ", format(mains, Unit::Watt, 2),
                           std::isfinite(load) ? fmt::format(", {} of them in the load", format(load, Unit::Watt, 2))
                                               : std::string());
    return out +
           "Nothing near it that burns, a smoke alarm in the room. The program watches level, distortion and what "
           "is typed; it ends the tone, and cannot switch the mains off.";
}

} // namespace ember::bench
