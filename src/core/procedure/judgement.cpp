#include "judgement.h"

#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <numbers>

namespace ember::procedure {

namespace {

constexpr std::array<std::string_view, 5> words{"in range", "low", "high", "stop", "not judged"};
constexpr double orMore = 1e11; // what version 1 files wrote beyond this meant "or more"

} // namespace

Verdict judge(const Expectation& e, double reading) {
    if (!std::isfinite(reading)) return Verdict::NotJudged;
    if (e.stopAbove && reading > *e.stopAbove) return Verdict::Stop;
    if (e.stopBelow && reading < *e.stopBelow) return Verdict::Stop;
    if (!e.band.known()) return Verdict::NotJudged;
    if (reading < e.band.low) return Verdict::Low;
    return reading > e.band.high ? Verdict::High : Verdict::InRange;
}

std::string readText(double value, Unit unit, int digits) {
    return unit == Unit::Ohm && value >= overloadOhms ? "OL" : format(value, unit, digits);
}

Expected<double> parseReading(const Build& b, const TestPoint& point, const std::string& typed) {
    std::string word = typed;
    std::erase(word, ' ');
    if (point.mode == MeterMode::Ohms &&
        (sameLetters(word, "ol") || sameLetters(word, "0l") || sameLetters(word, "1.")))
        return overloadOhms;
    return parseWithin(typed, point.unit(), senseOf(b, point));
}

std::string_view word(Verdict v) {
    return words[static_cast<std::size_t>(v)];
}

Verdict verdictOf(std::string_view said) {
    for (std::size_t k = 0; k < words.size(); ++k)
        if (words[k] == said) return static_cast<Verdict>(k);
    return Verdict::NotJudged;
}

std::string bandText(const Band& band, Unit unit) {
    if (!band.known()) return "no prediction";
    if (std::isinf(band.high)) return format(band.low, unit) + " or more";
    return format(band.low, unit) + " to " + format(band.high, unit);
}

std::string sentence(const Expectation& e, double reading) {
    const Unit unit = e.point.unit();
    const std::string read = readText(reading, unit);
    switch (const Verdict v = judge(e, reading)) {
    case Verdict::Stop: {
        const bool above = e.stopAbove && reading > *e.stopAbove;
        return fmt::format("stop: {} is {} {}. {}", read, above ? "above" : "below",
                           format(above ? *e.stopAbove : *e.stopBelow, unit), e.ifStopped);
    }
    case Verdict::NotJudged: return fmt::format("no prediction: {} is kept and not judged", read);
    default: return fmt::format("{}: {}, expected {}", word(v), read, bandText(e.band, unit));
    }
}

std::string meterSetting(const Expectation& e) {
    static constexpr std::array<std::string_view, 3> modes{"ohms", "AC volts", "DC volts"};
    double most = 0;
    for (const double v : {e.band.low, e.band.high, e.stopAbove.value_or(0)})
        if (std::isfinite(v)) most = std::max(most, std::abs(v));
    const std::string mode(modes[static_cast<std::size_t>(e.point.mode)]);
    if (e.point.kind == PointKind::Held) return mode + ", highest range first"; // what is left is not known
    if (!(most > 0)) return mode;
    // The ranges of a 2000-count meter; on volts it ends at 1 kV.
    double range = e.point.mode == MeterMode::Ohms ? 200 : 0.2;
    while (range < most && range < 2e9) range *= 10;
    if (e.point.mode != MeterMode::Ohms) range = std::min(range, 1000.0);
    return fmt::format("{}, {} range", mode, formatExact(range, e.point.unit()));
}

LogEntry unjudgedEntry(const TestPoint& point, int stage, double value, const std::string& source) {
    LogEntry e;
    e.kind = "reading";
    e.point = point.id;
    e.stage = stage;
    e.value = value;
    e.unit = point.unit() == Unit::Ohm ? "ohm" : "V";
    e.source = source;
    e.verdict = word(Verdict::NotJudged);
    return e;
}

void judgeEntry(LogEntry& e, const Expectation& x) {
    e.low = x.band.low;
    e.high = x.band.high;
    e.verdict = word(judge(x, e.value));
}

LogEntry readingEntry(const Expectation& x, int stage, double value, const std::string& source) {
    LogEntry e = unjudgedEntry(x.point, stage, value, source);
    judgeEntry(e, x);
    return e;
}

Band bandOf(const LogEntry& e) {
    Band band{plan::unknown, e.low, e.high};
    if (std::isfinite(e.low) && !(std::abs(e.high) < orMore)) band.high = INFINITY;
    return band;
}

std::string nameOf(const std::vector<TestPoint>& points, const LogEntry& e) {
    const TestPoint* p = findPoint(points, e.point);
    return p ? p->label : e.point;
}

Unit unitOf(const LogEntry& e) {
    return e.unit == "ohm" ? Unit::Ohm : Unit::Volt;
}

Range senseOf(const Build& b, const TestPoint& point) {
    if (point.mode == MeterMode::Ohms) return {0, overloadOhms};
    // Twice the volts of a doubler on the highest winding at high mains: no point can stand higher.
    double winding = b.transformer.plateVolts;
    for (const std::size_t k : tapsOf(b.supply)) winding = std::max(winding, b.supply.sections[k].volts);
    const double most = 4 * std::numbers::sqrt2 * winding * b.mains.high / b.transformer.primaryVolts;
    if (point.mode == MeterMode::AcVolts) return {0, most};
    return {-most, most};
}

} // namespace ember::procedure
