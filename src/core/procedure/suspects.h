#pragma once
// A stage's readings so far against every fault that the build can have.

#include "first_power.h"

#include "core/diagnose/ranking.h"

namespace ember::procedure {

/// The newest reading under power of each point of a stage, as the log has them since the stage was last begun.
std::vector<std::pair<TestPoint, double>> readingsSoFar(const Build& build, const PowerStage& stage, Strand strand);

struct Suspicion {
    diagnose::Ranking ranking;
    std::vector<TestPoint> points; ///< as the suspects' `reads`: those that were read first
};

/// Ranks the faults by how well each explains all of `readings` at this powered stage: spread of healthy amplifiers
/// from the stage's bands, the meter's accuracy. A Problem where the stage has no prediction or nothing was read.
Expected<Suspicion> suspects(const Build& build, const Catalogue& catalogue, const PowerStage& stage,
                             const std::vector<std::pair<TestPoint, double>>& readings, std::stop_token stop = {});

/// In words: first that nothing may be wrong, where that is not unlikely; then the `most` likeliest faults, such as
/// "C11 leaks: 4 MΩ across it (62 %)"; last the reading that would tell the first two apart.
std::vector<std::string> inWords(const Suspicion& suspicion, std::size_t most = 4);

} // namespace ember::procedure
