#include "suspects.h"

#include "core/plan/discharge.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::procedure {

using namespace plan;

namespace {

/// One standard deviation of a healthy reading as a share of it: a quarter of the band, which holds two on either side;
/// not below half the meter's accuracy. Where little is read, 0.5 % of the nominal reading, and a millivolt.
diagnose::Spread spreadOf(const Build& b, const Expectation& e) {
    const double nominal = std::abs(e.band.nominal);
    diagnose::Spread s;
    s.floor = std::max(1e-3, std::isfinite(nominal) ? 0.005 * nominal : 0.05);
    s.share = 0.5 * meterShare(b, e.point.mode);
    if (e.band.known() && std::isfinite(e.band.high) && nominal > s.floor)
        s.share = std::max(s.share, (e.band.high - e.band.low) / (4 * nominal));
    return s;
}

/// Of a resistance: parts within 10 % at two standard deviations, the leads' own ohms.
diagnose::Spread ohmsSpread(const Build& b, double nominal) {
    return {std::hypot(0.05, 0.5 * meterShare(b, MeterMode::Ohms)), std::max(0.05, 0.005 * nominal)};
}

/// What a meter shows of more than it can read is one reading, whatever it is.
double shownOhms(double ohms) {
    return std::min(ohms, overloadOhms);
}

/// Resistances that a fault of a part can change.
bool tellsOfParts(const TestPoint& p) {
    switch (p.kind) {
    case PointKind::PrimaryOhms:
    case PointKind::LegOhms:
    case PointKind::RailOhms:
    case PointKind::HeaterChassis:
    case PointKind::GridOhms:
    case PointKind::CathodeOhms: return true;
    default: return false;
    }
}

bool underPower(const Expectation& e) {
    return e.point.kind != PointKind::Held && e.point.mode != MeterMode::Ohms;
}

constexpr double clipMinutes = 0.5; ///< to move the leads and read

} // namespace

std::vector<std::pair<TestPoint, double>> readingsSoFar(const Build& b, const PowerStage& stage, Strand strand) {
    std::vector<std::pair<TestPoint, double>> out;
    const auto take = [&](const TestPoint& p, const LogEntry* r) {
        if (r && std::isfinite(r->value)) out.emplace_back(p, r->value);
    };
    for (const Expectation& e : stage.expectations)
        if (underPower(e)) take(e.point, lastReading(b, stage.index, e.point.id, strand));
    for (const TestPoint& p : testPoints(b))
        if (tellsOfParts(p)) {
            const LogEntry* now = lastReading(b, stage.index, p.id, strand);
            take(p, now ? now : lastReading(b, 0, p.id, strand));
        }
    return out;
}

Expected<FaultTable> faultTable(const Build& b, const Catalogue& catalogue, const PowerStage& stage,
                                std::stop_token stop) {
    if (!stage.powered || !stage.steady)
        return Problem{"", "faults are ranked by readings of a powered stage that could be computed"};
    FaultTable out;
    for (const Expectation& e : stage.expectations)
        if (underPower(e)) {
            out.points.push_back(e.point);
            out.spreads.push_back(spreadOf(b, e));
        }
    const std::vector<TestPoint> powered = out.points;
    std::vector<TestPoint> cold;
    for (const TestPoint& p : testPoints(b))
        if (tellsOfParts(p)) cold.push_back(p);
    const std::vector<double> sound = coldReadings(b, catalogue, cold);
    for (std::size_t k = cold.size(); k-- > 0;)
        if (!std::isfinite(sound[k])) cold.erase(cold.begin() + static_cast<std::ptrdiff_t>(k));
    WarmStart warm;
    if (auto s = solveSteady(b, catalogue, stage.conditions, {.stop = stop}, &warm); !s) return s.problem();
    const auto predict = [&](const Build& faulty, const Miswiring& wiring) -> std::vector<double> {
        WarmStart own = warm;
        const auto s = solveSteady(faulty, catalogue, stage.conditions,
                                   {.tolerance = 1e-3, .stop = stop, .rough = true, .wiring = wiring}, &own);
        if (!s) return {};
        std::vector<double> reads = trueReadings(faulty, *s, powered);
        for (const double ohms : coldReadings(faulty, catalogue, cold, wiring)) reads.push_back(shownOhms(ohms));
        return reads;
    };
    out.healthy = predict(b, {});
    if (out.healthy.empty()) return Problem{"", "the amplifier as planned has no solution at this step"};
    for (std::size_t k = 0; k < cold.size(); ++k) {
        out.points.push_back(cold[k]);
        out.spreads.push_back(ohmsSpread(b, out.healthy[powered.size() + k]));
    }
    out.faults = diagnose::forecasts(b, diagnose::faultsOf(b, catalogue), predict, stop);
    if (stop.stop_requested()) return Problem{"", "cancelled"};
    const double down = stage.discharge.allBelow10();
    out.dischargeSeconds = std::isfinite(down) ? down : dischargeFollowed;
    return out;
}

namespace {

std::string causeOf(const diagnose::Ranking& ranking, int suspect) {
    return suspect < 0 ? "nothing is wrong" : ranking.suspects[static_cast<std::size_t>(suspect)].fault.sentence;
}

std::optional<NextReading> nextOf(const FaultTable& table, const diagnose::Ranking& ranking,
                                  const std::vector<std::optional<double>>& read, bool powerAllowed) {
    constexpr double least = 0.05;   // [bits] that are worth a reading
    constexpr double nearlyAs = 0.7; // of the bits under power, from which the plug comes out instead
    const auto all = diagnose::tellings(ranking, table.healthy, read, table.spreads);
    std::optional<std::size_t> on, off;
    for (std::size_t k = 0; k < all.size(); ++k) {
        auto& best = table.points[k].mode == MeterMode::Ohms ? off : on;
        if (all[k].bits > least && (!best || all[k].bits > all[*best].bits)) best = k;
    }
    if (!powerAllowed) on.reset();
    if (!on && !off) return std::nullopt;
    const bool powerOff = off && (!on || all[*off].bits >= nearlyAs * all[*on].bits);
    const std::size_t at = powerOff ? *off : *on;
    const diagnose::Telling& t = all[at];
    NextReading out{table.points[at], powerOff, t.bits, clipMinutes, {}};
    if (powerOff) out.minutes += table.dischargeSeconds / 60;
    const auto reads = [&](int suspect) {
        return readText(suspect < 0 ? table.healthy[at] : ranking.suspects[static_cast<std::size_t>(suspect)].reads[at],
                        table.points[at].unit());
    };
    out.why = t.one == t.other ? "it narrows down what is left"
                               : fmt::format("{} if {}, {} if {}", reads(t.one), causeOf(ranking, t.one),
                                             reads(t.other), causeOf(ranking, t.other));
    return out;
}

} // namespace

Expected<Suspicion> suspects(const FaultTable& table, const std::vector<std::pair<TestPoint, double>>& readings,
                             bool powerAllowed) {
    std::vector<std::optional<double>> read(table.points.size());
    bool any = false;
    for (const auto& [point, value] : readings)
        for (std::size_t k = 0; k < table.points.size(); ++k)
            if (table.points[k].id == point.id) {
                read[k] = point.mode == MeterMode::Ohms ? shownOhms(value) : value;
                any = true;
            }
    if (!any) return Problem{"", "nothing was read in this stage yet"};
    Suspicion out;
    out.points = table.points;
    out.ranking = diagnose::rank(table.faults, table.healthy, read, table.spreads);
    out.next = nextOf(table, out.ranking, read, powerAllowed);
    return out;
}

std::vector<std::string> inWords(const Suspicion& s, std::size_t most) {
    std::vector<std::string> out;
    if (s.ranking.healthyShare > 0.1)
        out.push_back(fmt::format("nothing wrong, at the edge of what healthy amplifiers read ({:.0f} %)",
                                  100 * s.ranking.healthyShare));
    const std::size_t healthy = out.size();
    for (const diagnose::Suspect& x : s.ranking.suspects) {
        if (out.size() == most + healthy || x.share < 0.01) break;
        out.push_back(fmt::format("{} ({:.0f} %)", x.fault.sentence, 100 * x.share));
    }
    const bool two = out.size() > healthy + 1;
    if (s.ranking.noneShare > 0.1) out.push_back(fmt::format("none of these ({:.0f} %)", 100 * s.ranking.noneShare));
    if (s.ranking.teller >= 0 && two) {
        const auto k = static_cast<std::size_t>(s.ranking.teller);
        const TestPoint& p = s.points[k];
        out.push_back(fmt::format("{} tells the first two faults apart: {} against {}", p.label,
                                  readText(s.ranking.suspects[0].reads[k], p.unit()),
                                  readText(s.ranking.suspects[1].reads[k], p.unit())));
    }
    return out;
}

} // namespace ember::procedure
