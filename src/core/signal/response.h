#pragma once
// A captured sweep to the frequency response and every harmonic, by deconvolution (Farina 2000).

#include "capture.h"

#include "core/base/result.h"

#include <limits>
#include <string>
#include <vector>

namespace ember::signal {

struct ResponsePoint {
    double hertz = 0, db = 0;
    double degrees = 0; ///< without jumps, the impulse's own place taken off
};
struct HarmonicCurve {
    int order = 2;
    std::vector<ResponsePoint> points; ///< by the frequency that is played; dB of the fundamental there
};
struct Response {
    std::vector<ResponsePoint> points; ///< 24 an octave; dB of what was captured over what was played
    double lowCorner = std::numeric_limits<double>::quiet_NaN(),
           highCorner = std::numeric_limits<double>::quiet_NaN(); ///< [Hz] 3 dB below 1 kHz; NaN: not within the sweep
    std::vector<HarmonicCurve> harmonics;
    /// To a step at the input, from 1 ms before the impulse's place on, evenly spaced [volts over volts].
    std::vector<double> step;
    double stepRate = 48000;        ///< [Hz]
    double delay = 0;               ///< [s] of the capture behind the stimulus; negative: it began late
    double clockPpm = 0;            ///< the recorder's clock faster than the player's
    std::vector<std::string> trust; ///< what should not be trusted, and why
};

/// `stimulus`: the exponential sweep as played, silence behind it; the capture may begin before it or after, be longer,
/// and have another rate. `reference`: the same sweep captured without the amplifier, or nullptr; its response is taken
/// off. A Problem where the two do not belong together.
Expected<Response> sweepResponse(const Capture& capture, const Capture& stimulus, const Capture* reference = nullptr);

} // namespace ember::signal
