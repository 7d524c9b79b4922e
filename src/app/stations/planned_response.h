#pragma once
// What the plan says of a channel's response: its curves, the band of healthy amplifiers, the answer to a step.

#include "core/build/build.h"
#include "core/plan/channel_response.h"

#include <stop_token>

namespace ember::app {

struct PlannedResponse {
    plan::ChannelResponse nominal;
    std::vector<double> low,
        high;                 ///< dB of 1 kHz at the nominal frequencies: 95 of 100 healthy amplifiers; empty: none
    std::vector<double> step; ///< of the output to a small step at the input, volts over volts
    double stepRate = 48000, stepLead = 1e-3; ///< [Hz]; [s] before the step
};
PlannedResponse plannedResponse(const Build& build, const plan::Steady& steady, std::size_t channel, double mainsVolts,
                                int amplifiers, std::stop_token stop);

} // namespace ember::app
