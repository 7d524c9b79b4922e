#pragma once
// Where a meter goes, and what it would read in a solved steady state.

#include "core/plan/steady.h"
#include "core/quantity/unit.h"

namespace ember::procedure {

enum class MeterMode { Ohms, AcVolts, DcVolts };

struct TestPoint {
    std::string id;    ///< as typed in the log line: "B+1", "sense-v3"
    std::string label; ///< "B+1 to star, DC"
    std::string probe; ///< where the two leads go
    MeterMode mode = MeterMode::DcVolts;
    [[nodiscard]] Unit unit() const { return mode == MeterMode::Ohms ? Unit::Ohm : Unit::Volt; }
};

/// Every point of the build, in the order of the work.
std::vector<TestPoint> testPoints(const Build& build);
const TestPoint* findPoint(const std::vector<TestPoint>& points, std::string_view id); ///< case is ignored

/// Points that stage `stage` of First Power reads.
std::vector<TestPoint> pointsOfStage(const Build& build, int stage);

/// The true value at a point (a perfect meter); NaN when nothing can be read there.
double valueAt(const Build& build, const plan::Steady& steady, const std::string& id);
/// Unpowered resistance at a point of stage 0, by a 1 uA test current through the netlist [ohm].
double coldResistance(const Build& build, const std::string& id);

/// Share of a reading that the meter may be off.
double meterShare(const Build& build, MeterMode mode);

} // namespace ember::procedure
