#pragma once
#include "instruments.h"
#include "take.h"

#include "core/plan/played.h"

namespace ember::bench {

/// What a channel's load would show for these volts at its input, without hum and noise: plan/played.h between sampled
/// ends. The steady state is of the same build.
Expected<signal::Capture> playedCapture(const Build& build, const Catalogue& catalogue, const plan::Steady& steady,
                                        std::size_t channel, const std::vector<double>& volts, double rate,
                                        const plan::Miswiring& wiring, const TakeWatch& watch);
/// The plan's answer to a take; a shorter one, with all that its analysis needs.
Expected<signal::Capture> plannedTake(const Build& build, const Catalogue& catalogue, const plan::Steady& steady,
                                      TakeRequest request, const TakeWatch& watch);

} // namespace ember::bench
