#pragma once
// What the recorder's second input adds to a take: the gain from the volts that really stood at the input, or the other
// channel at the same instants.

#include "take.h"

#include "core/signal/capture.h"

namespace ember::bench {

/// At these takes the recorder's second input can be put there.
bool secondInputFits(TakeKind kind, SecondInput second);

/// A sinusoid in both inputs of a capture, by their correlation with it over the steady part (Hann window).
struct BothInputs {
    double hertz = 0;
    double ratioDb = 0, degrees = 0; ///< of the second over the first
    double firstRms = 0, secondRms = 0;
    double floorDb = 0; ///< what the second has beside the tone, over the first: less than this is not seen [dB]
};
/// `hertz`: as played; where it is by the recorder's clock is found in the first input. A Problem where there is no
/// tone.
Expected<BothInputs> compareInputs(const signal::Capture& capture, double hertz);

struct SecondReading {
    std::string words; ///< one or two sentences
    std::string log;   ///< the figure alone
};
/// Of a tone, a sweep or silence; `next`: the name of the channel that SecondInput::NextChannel is about.
Expected<SecondReading> readSecond(const TakeRequest& request, const signal::Capture& capture, const std::string& next,
                                   double mainsHertz);

} // namespace ember::bench
