#pragma once
#include "core/plan/figures.h"
#include "core/rules/findings.h"

namespace ember::cli {

/// The figures of a build; unknown ones are null.
Json figuresJson(const Build& build, const plan::Figures& figures);
Json findingsJson(const std::vector<rules::Finding>& findings);

} // namespace ember::cli
