#pragma once
#include "core/plan/figures.h"
#include "core/plan/tolerance_run.h"
#include "core/rules/findings.h"

namespace ember::cli {

/// The figures of a build; unknown ones are null.
Json figuresJson(const Build& build, const plan::Figures& figures);
Json spreadJson(const plan::ToleranceRun& run);
Json findingsJson(const std::vector<rules::Finding>& findings);

} // namespace ember::cli
