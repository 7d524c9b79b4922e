#pragma once
#include <cstddef>
#include <span>
#include <vector>

namespace ember::signal {

/// The record at `up` / `down` times its rate, by its Fourier series: what lies above half the lower rate is cut off.
/// Zeros are taken to follow it.
std::vector<double> resampled(std::span<const double> samples, std::size_t up, std::size_t down);

} // namespace ember::signal
