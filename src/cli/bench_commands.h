#pragma once
// Commands about what was read, on a real bench or on the practice bench. Each gives its exit code.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace ember::cli {

/// Power, distortion and noise of a captured tone; `fullScale` [V] of a sample of 1, `load` [ohm].
int analyse(const std::string& file, int channel, double fullScale, std::optional<double> load);
/// What the practice amplifier of this seed reads at a stage of First Power, with a fault where one is named; `all`:
/// resistances with the plug out too.
int practice(const std::string& file, std::uint64_t seed, const std::string& fault, int stage, bool all);
/// The steps of First Power of this amplifier: what to do, where the leads go, ranges and stop limits.
int tellPlan(const std::string& file);
/// Every fault that the build can have; with readings (POINT=VALUE) of a stage, or resistances, ranked by how well each
/// explains them, and what to read next.
int faults(const std::string& file, int stage, const std::vector<std::string>& reads);

} // namespace ember::cli
