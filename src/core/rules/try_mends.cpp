// Whether a mend mends: tried on a copy, with every rule.
#include "findings.h"

#include "core/chassis/layout_figures.h"
#include "core/plan/discharge.h"
#include "core/plan/solve.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>

namespace ember::rules {

namespace {

using Levels = std::map<std::string, Level>;

/// The level of each finding by its id.
Levels levelsOf(const Build& b, const Catalogue& catalogue, const plan::Figures& f) {
    Levels out;
    for (const Finding& x : inspect(b, catalogue, f)) {
        const auto [at, fresh] = out.try_emplace(x.id, x.level);
        if (!fresh) at->second = std::max(at->second, x.level);
    }
    return out;
}

/// A build by the figures that are solved in milliseconds, and what the rules say by them. The same for the build as it
/// is and for the copy, so that the two can be compared.
struct Look {
    plan::Figures figures;
    Levels levels;
};
/// Nothing where the build has no solution.
std::optional<Look> look(const Build& b, const Catalogue& catalogue, const std::stop_token& stop) {
    plan::Figures f = plan::solveFigures(b, catalogue, stop);
    if (!f.failures.empty() || stop.stop_requested()) return std::nullopt;
    if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high, stop)) f.inrush = *rush;
    if (f.cold)
        if (auto held = plan::dischargeOf(b, *f.cold, stop)) f.discharge = std::move(*held);
    Levels levels = levelsOf(b, catalogue, f);
    if (stop.stop_requested()) return std::nullopt;
    return Look{std::move(f), std::move(levels)};
}

/// Whether an edit moves parts or wires alone: nothing electrical has to be solved anew.
bool layoutAlone(const Edit& edit) {
    return std::all_of(edit.patch->begin(), edit.patch->end(), [](const Json& step) {
        const std::string& path = step.at("path").get_ref<const std::string&>();
        return path.starts_with("/chassis") || path.starts_with("/wiring");
    });
}

/// Whether `after` has what `before` had not: a Stop, or (where `warnings` count) a warning.
bool worse(const Levels& before, const Levels& after, bool warnings) {
    return std::any_of(after.begin(), after.end(), [&](const auto& x) {
        if (x.second == Level::Note || (x.second == Level::Warn && !warnings)) return false;
        const auto was = before.find(x.first);
        return was == before.end() || was->second < x.second;
    });
}

} // namespace

void tryMends(const Build& b, const Catalogue& catalogue, std::vector<Finding>& findings, std::stop_token stop) {
    if (std::none_of(findings.begin(), findings.end(), [](const Finding& x) { return x.fix.has_value(); })) return;
    const auto before = look(b, catalogue, stop);
    const auto levelsAfter = [&](const Build& next, const Edit& edit) -> std::optional<Levels> {
        if (layoutAlone(edit)) {
            plan::Figures f = before->figures;
            chassis::LayoutSolver layout;
            f.layout = std::make_shared<const chassis::LayoutFigures>(layout.solve(next, catalogue, f));
            return levelsOf(next, catalogue, f);
        }
        auto after = look(next, catalogue, stop);
        return after ? std::optional(std::move(after->levels)) : std::nullopt;
    };
    for (Finding& x : findings) {
        if (!x.fix || x.waived) continue;
        bool good = false;
        if (auto next = apply(b, *x.fix); next && before && !stop.stop_requested()) {
            next->log = b.log;
            const auto after = levelsAfter(*next, *x.fix);
            good = after && !worse(before->levels, *after, x.level != Level::Stop);
        }
        if (!before && !stop.stop_requested()) good = true; // as it is it has no solution: whatever leads to one
        if (!good) x.fix.reset();
    }
}

} // namespace ember::rules
