#pragma once
// Every figure that a builder may want to have at a certain value, by name: of the supply, of each valve, of each
// channel's small signals and power, of the discharge.

#include "named_figures.h"
#include "steady.h"

namespace ember::plan {

/// What has to be solved for a figure, from the quickest to the slowest.
enum class SoughtGroup {
    Rest,      ///< the steady state: namedFigures(), every valve's volts, amps and watts
    Signals,   ///< gain, impedances and corners for small signals
    Power,     ///< watts or volts at 3 % THD and at clipping, THD at the reference level
    Discharge, ///< seconds to 50 V by guaranteed paths, valves cold, mains high before
};

struct SoughtFigure {
    NamedFigure figure; ///< ids such as "v1.2.plate", "left.gain", "left.s2.input", "discharge.seconds"
    SoughtGroup group = SoughtGroup::Rest;
};

/// The figures of one group at mains of `mainsVolts` [V]; what cannot be had is unknown. A Problem says why the steady
/// state was not solved. `warm` as in solveSteady().
Expected<std::vector<SoughtFigure>> soughtFigures(const Build& build, const Catalogue& catalogue, SoughtGroup group,
                                                  double mainsVolts, std::stop_token stop = {},
                                                  WarmStart* warm = nullptr);

/// All of them for a choice, with the values of `steady`; those of the other groups unknown.
std::vector<SoughtFigure> soughtNames(const Build& build, const Catalogue& catalogue, const Steady& steady);

} // namespace ember::plan
