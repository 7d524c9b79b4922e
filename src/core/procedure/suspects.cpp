#include "suspects.h"

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

} // namespace

std::vector<std::pair<TestPoint, double>> readingsSoFar(const Build& b, const PowerStage& stage, Strand strand) {
    std::vector<std::pair<TestPoint, double>> out;
    for (const Expectation& e : stage.expectations)
        if (const LogEntry* r = lastReading(b, stage.index, e.point.id, strand);
            r && std::isfinite(r->value) && e.point.kind != PointKind::Held)
            out.emplace_back(e.point, r->value);
    return out;
}

Expected<Suspicion> suspects(const Build& b, const Catalogue& catalogue, const PowerStage& stage,
                             const std::vector<std::pair<TestPoint, double>>& readings, std::stop_token stop) {
    if (!stage.powered || !stage.steady)
        return Problem{"", "faults are ranked by readings of a powered stage that could be computed"};
    if (readings.empty()) return Problem{"", "nothing was read in this stage yet"};
    Suspicion out;
    std::vector<diagnose::Evidence> evidence;
    std::vector<diagnose::Spread> spreads;
    const auto take = [&](const Expectation& e) {
        out.points.push_back(e.point);
        spreads.push_back(spreadOf(b, e));
    };
    const auto read = [&](const Expectation& e) {
        return std::find_if(readings.begin(), readings.end(), [&](const auto& r) { return r.first.id == e.point.id; });
    };
    for (const Expectation& e : stage.expectations)
        if (const auto r = read(e); r != readings.end()) {
            take(e);
            evidence.push_back({r->second, spreads.back()});
        }
    for (const Expectation& e : stage.expectations)
        if (read(e) == readings.end() && e.point.kind != PointKind::Held) take(e);
    WarmStart warm;
    if (auto s = solveSteady(b, catalogue, stage.conditions, {.stop = stop}, &warm); !s) return s.problem();
    const auto predict = [&](const Build& faulty, const Miswiring& wiring) -> std::vector<double> {
        WarmStart own = warm;
        const auto s = solveSteady(faulty, catalogue, stage.conditions,
                                   {.tolerance = 1e-3, .stop = stop, .rough = true, .wiring = wiring}, &own);
        return s ? trueReadings(faulty, *s, out.points) : std::vector<double>{};
    };
    out.ranking = diagnose::rank(b, diagnose::faultsOf(b, catalogue), evidence, spreads, predict, stop);
    if (stop.stop_requested()) return Problem{"", "cancelled"};
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
    if (s.ranking.teller >= 0 && out.size() > healthy + 1) {
        const auto k = static_cast<std::size_t>(s.ranking.teller);
        const TestPoint& p = s.points[k];
        out.push_back(fmt::format("{} tells the first two faults apart: {} against {}", p.label,
                                  format(s.ranking.suspects[0].reads[k], p.unit()),
                                  format(s.ranking.suspects[1].reads[k], p.unit())));
    }
    return out;
}

} // namespace ember::procedure
