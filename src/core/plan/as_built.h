#pragma once
// An amplifier as somebody might have built the plan: every part somewhere within its tolerance.

#include "core/build/build.h"

#include <cstdint>

namespace ember::plan {

/// `build` with every part drawn within its tolerance (normal, the tolerance at two sigma, cut there), by `seed`;
/// valves in current, amplification, cut-off and screen share, each by itself, with some gas; iron that is typical of
/// its class by as much as such iron differs. Seed 0: exactly the plan.
Build asBuilt(const Build& build, std::uint64_t seed);

/// The same on real mains: the crest of its flattened wave between 1.36 (or less, where the build says so) and 1.414 of
/// its RMS, and copper up to 40 K warmer than when its resistance was taken (0.393 % a kelvin).
Build asBuiltOnRealMains(const Build& build, std::uint64_t seed);

} // namespace ember::plan
