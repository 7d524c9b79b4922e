#pragma once
#include "core/plan/pin_figures.h"
#include "core/plan/tolerance_run.h"
#include "core/rules/findings.h"

namespace ember::cli {

/// The figures of a build; unknown ones are null.
Json figuresJson(const Build& build, const plan::Figures& figures);
/// {"pins": {"v3": {"7": {"electrode": "plate", "net": .., "volts": .., "amps": ..}}}, "nets": .., "parts": ..}
Json schematicJson(const Build& build, const Catalogue& catalogue, const plan::Steady& steady);
/// Its "pins" alone.
Json pinsJson(const Build& build, const Catalogue& catalogue, const plan::Steady& steady);
Json spreadJson(const plan::ToleranceRun& run);
Json findingsJson(const std::vector<rules::Finding>& findings);

} // namespace ember::cli
