// Whether a mend mends: tried on a copy, with every rule.
#include "findings.h"

#include "core/plan/discharge.h"
#include "core/plan/solve.h"

#include <algorithm>
#include <map>

namespace ember::rules {

namespace {

/// What the rules say by the figures that are solved in milliseconds: the level of each finding by its id. The same for
/// the build as it is and for the copy, so that the two can be compared. Nothing where the build has no solution.
std::optional<std::map<std::string, Level>> quickLook(const Build& b, const Catalogue& catalogue,
                                                      const std::stop_token& stop) {
    plan::Figures f = plan::solveFigures(b, catalogue, stop);
    if (!f.failures.empty() || stop.stop_requested()) return std::nullopt;
    if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high, stop)) f.inrush = *rush;
    if (f.cold)
        if (auto held = plan::dischargeOf(b, *f.cold, stop)) f.discharge = std::move(*held);
    std::map<std::string, Level> out;
    for (const Finding& x : inspect(b, catalogue, f)) {
        const auto [at, fresh] = out.try_emplace(x.id, x.level);
        if (!fresh) at->second = std::max(at->second, x.level);
    }
    return stop.stop_requested() ? std::nullopt : std::optional(std::move(out));
}

/// Whether `after` has what `before` had not: a Stop, or (where `warnings` count) a warning.
bool worse(const std::map<std::string, Level>& before, const std::map<std::string, Level>& after, bool warnings) {
    return std::any_of(after.begin(), after.end(), [&](const auto& x) {
        if (x.second == Level::Note || (x.second == Level::Warn && !warnings)) return false;
        const auto was = before.find(x.first);
        return was == before.end() || was->second < x.second;
    });
}

} // namespace

void tryMends(const Build& b, const Catalogue& catalogue, std::vector<Finding>& findings, std::stop_token stop) {
    if (std::none_of(findings.begin(), findings.end(), [](const Finding& x) { return x.fix.has_value(); })) return;
    const auto before = quickLook(b, catalogue, stop);
    for (Finding& x : findings) {
        if (!x.fix || x.waived) continue;
        bool good = false;
        if (auto next = apply(b, *x.fix); next && before && !stop.stop_requested()) {
            next->log = b.log;
            const auto after = quickLook(*next, catalogue, stop);
            good = after && !worse(*before, *after, x.level != Level::Stop);
        }
        if (!before && !stop.stop_requested()) good = true; // as it is it has no solution: whatever leads to one
        if (!good) x.fix.reset();
    }
}

} // namespace ember::rules
