#pragma once
// A stage's readings so far against every fault that the build can have, and what to read next.

#include "first_power.h"

#include "core/diagnose/information.h"

namespace ember::procedure {

/// The newest reading of each point of a stage's fault table, as the log has them since the stage was last begun; ohms
/// also as they were read with the plug out before.
std::vector<std::pair<TestPoint, double>> readingsSoFar(const Build& build, const PowerStage& stage, Strand strand);

/// What every fault of a build would read at a powered stage: computed once, then every reading is ranked at once.
struct FaultTable {
    /// Those of the stage that are read under power, then resistances that are read with the plug out.
    std::vector<TestPoint> points;
    std::vector<diagnose::Spread> spreads; ///< by point
    std::vector<double> healthy;           ///< by point
    std::vector<diagnose::Forecast> faults;
    double dischargeSeconds = 0; ///< after switching off, until every capacitor is below dischargedVolts
};
/// Spreads are those of healthy amplifiers by the stage's bands, and the meter's accuracy. A Problem where the stage
/// has no prediction.
Expected<FaultTable> faultTable(const Build& build, const Catalogue& catalogue, const PowerStage& stage,
                                std::stop_token stop = {});

/// The reading that is expected to tell most.
struct NextReading {
    TestPoint point;
    bool powerOff = false; ///< the plug is out, every capacitor read
    double bits = 0;       ///< expected information
    double minutes = 0;    ///< that it takes: clips moved, and the wait until the capacitors are down
    std::string why;       ///< which causes it tells apart, with what each would read
};

struct Suspicion {
    diagnose::Ranking ranking;
    std::vector<TestPoint> points;   ///< as the suspects' `reads`
    std::optional<NextReading> next; ///< none: nothing that can be read would tell more
};

/// Ranks the faults by how well each explains all of `readings`. Resistances with the plug out are preferred where they
/// tell nearly as much, and are all there is where `powerAllowed` is false: a reading passed a stop limit. A Problem
/// where none of the readings is of the table.
Expected<Suspicion> suspects(const FaultTable& table, const std::vector<std::pair<TestPoint, double>>& readings,
                             bool powerAllowed = true);

/// In words: first that nothing may be wrong, where that is not unlikely; then the `most` likeliest faults, such as
/// "C11 leaks: 4 MΩ across it (62 %)"; then "none of these", where that is not unlikely; last the reading that would
/// tell the first two apart.
std::vector<std::string> inWords(const Suspicion& suspicion, std::size_t most = 4);

} // namespace ember::procedure
