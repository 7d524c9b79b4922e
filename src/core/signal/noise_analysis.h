#pragma once
// Hum and noise of a capture with the input shorted: levels, the mains' lines, and what their pattern points to.

#include "capture.h"

#include "core/base/result.h"

#include <string>
#include <vector>

namespace ember::signal {

struct NoiseLine {
    double hertz = 0, rms = 0;
};
struct NoiseAnalysis {
    double rms = 0, weighted = 0; ///< 20 Hz .. 20 kHz; A-weighted (IEC 61672-1)
    double mains = 50;            ///< as found [Hz]
    std::vector<NoiseLine> lines; ///< at its harmonics up to 2 kHz that stand out
    std::string verdict;
};

/// `mains`: 50 or 60 [Hz].
Expected<NoiseAnalysis> analyseNoise(const Capture& capture, double mains);

} // namespace ember::signal
