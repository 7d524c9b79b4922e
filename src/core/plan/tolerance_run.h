#pragma once
// Many builds of one plan: parts within their tolerances, mains between its ends.

#include "named_figures.h"
#include "steady.h"

#include <functional>

namespace ember::plan {

/// Gives the `seed`th build of a plan, its parts drawn within their tolerances.
using DrawnBuild = std::function<Build(const Build&, std::uint64_t seed)>;

struct Spread {
    NamedFigure nominal;
    double low = unknown, middle = unknown, high = unknown; ///< 5, 50, 95 % of the builds lie below
};

struct ToleranceRun {
    std::vector<Spread> figures;
    int builds = 0, failed = 0; ///< solved, and not solved
};

struct ToleranceOptions {
    int builds = 1000;
    std::uint64_t seed = 1;
    double tolerance = 2e-3;                   ///< agreement of supply and stages; far finer than the spread
    std::function<void(double)> progress = {}; ///< share done, from any thread
    std::stop_token stop = {};
};

/// Mains is drawn evenly between the build's low and high. All cores. A Problem when the plan itself cannot be solved
/// or the run was stopped.
Expected<ToleranceRun> toleranceRun(const Build& build, const Catalogue& catalogue, const DrawnBuild& draw,
                                    const ToleranceOptions& options);

} // namespace ember::plan
