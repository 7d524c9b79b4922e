#pragma once
#include "core/plan/pin_figures.h"
#include "core/plan/tolerance_run.h"
#include "core/rules/findings.h"

namespace ember::cli {

/// The figures of a build; unknown ones are null.
Json figuresJson(const Build& build, const plan::Figures& figures);
/// {"pins": {"v3": {"7": {"electrode": "plate", "net": .., "volts": .., "amps": ..}}}, "nets": .., "parts": ..}
/// At nominal mains; each part also with the most volts across it, hot and cold.
Json schematicJson(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);
/// The "pins" alone, of any steady state.
Json pinsJson(const plan::SchematicFigures& figures);
Json spreadJson(const plan::ToleranceRun& run);
Json findingsJson(const std::vector<rules::Finding>& findings);

} // namespace ember::cli
