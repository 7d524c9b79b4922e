#pragma once
// The way up to a take's level: short tones from 40 dB below it, each looked at before the next is played.

#include "instruments.h"
#include "take.h"

#include "core/build/stage.h"

namespace ember::bench {

/// What the output must not exceed.
struct LoadLimits {
    double ohms = 0, watts = 0; ///< of the load, and what it is made for; 0 ohm: watts are not judged
    double dcVolts = 0.1;       ///< [V] across the load; an output transformer or a coupling capacitor passes none
};
inline constexpr double loudspeakerWatts = 1; ///< the most that a measurement plays into a loudspeaker [W]
/// Of the resistor at the end of a channel's path; loudspeakerWatts where a loudspeaker stands there in its place. A
/// square wave of a tone's crest has twice its power.
LoadLimits loadLimitsOf(const std::vector<Stage>& stages, const TakeRequest& request);

/// A short tone at the amplifier's input [V RMS]; what was across the load.
inline constexpr double approachStep = 3.1623; ///< 10 dB, the most from one step to the next
using PlayTone = std::function<Expected<signal::Capture>(double inputRms)>;
struct ApproachStep {
    double inputRms = 0, outputRms = 0; ///< [V] of the tone
    double watts = 0;                   ///< in the load, with all that is not the tone; 0 where not judged
    double dcVolts = 0;
};
inline constexpr double approachFrom = 0.01; ///< share of the take's level: 40 dB below it
inline constexpr double approachSeconds = 0.4;
/// Frequency of the tones before a take [Hz]: a tone's own from 200 Hz, else 1 kHz, where no amplifier falls off yet.
double approachHertz(const TakeRequest& request);

/// Steps of 10 dB at most, smaller ones where a limit is near, ending 1 dB or more below `inputRms`, from where the
/// take itself keeps within the limits. A Problem says with its numbers what ended it: DC across the load, watts beyond
/// the load's rating, the recorder's full scale, or a signal that does not arrive.
/// `from`: the first step [V RMS], where louder ones went well already; 0: 40 dB below.
Expected<std::vector<ApproachStep>> approach(double inputRms, double hertz, const LoadLimits& limits,
                                             const PlayTone& play, const TakeWatch& watch = {}, double from = 0);

} // namespace ember::bench
