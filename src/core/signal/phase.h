#pragma once
// Phase and group delay of a response, against those of 1 kHz.

#include "response.h"

namespace ember::signal {

/// Seconds by which the parts of a signal about each frequency are late, against those about 1 kHz: -dphase / domega.
std::vector<double> groupDelay(const std::vector<ResponsePoint>& points);
/// Phase against that of 1 kHz, with the delay that 1 kHz has taken off, so that records that do not share a clock can
/// be laid over each other [degrees].
std::vector<double> phaseFrom1kHz(const std::vector<ResponsePoint>& points);

} // namespace ember::signal
