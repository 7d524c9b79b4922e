#pragma once
// Commands about what was read, on a real bench or on the practice bench. Each gives its exit code.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace ember::cli {

/// Power, distortion and noise of a captured tone; `fullScale` [V] of a sample of 1, `load` [ohm].
int analyse(const std::string& file, int channel, double fullScale, std::optional<double> load);
/// What the practice amplifier of this seed reads at a stage of First Power, with a fault where one is named.
int practice(const std::string& file, std::uint64_t seed, const std::string& fault, int stage);
/// Every fault that the build can have; with readings (POINT=VALUE) of a stage, ranked by how well each explains them.
int faults(const std::string& file, int stage, const std::vector<std::string>& reads);

} // namespace ember::cli
