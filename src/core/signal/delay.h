#pragma once
#include <cstddef>
#include <span>

namespace ember::signal {

/// By how many samples of one rate a capture is behind what was played, 0 or more: the crest of their correlation, of
/// either sign. Nothing that was played is in it: 0.
std::size_t delayOf(std::span<const double> capture, std::span<const double> played);

} // namespace ember::signal
