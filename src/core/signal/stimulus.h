#pragma once
// Signals to be played through an amplifier.

#include "core/base/result.h"

#include <optional>
#include <string>
#include <vector>

namespace ember::signal {

enum class StimulusKind { Sweep, Tone, Square, Intermodulation, Noise, Burst };
/// By its name on the command line; nothing: there is none.
std::optional<StimulusKind> stimulusKind(const std::string& name);

struct Stimulus {
    StimulusKind kind = StimulusKind::Sweep;
    double from = 20, to = 20000; ///< of a sweep [Hz]; of two tones the lower and the higher
    double hertz = 1000;          ///< of a tone, square or burst [Hz]
    double seconds = 10;          ///< without the silence behind it
    double rate = 48000;          ///< [Hz]
    double level = -6;            ///< crest, in dB of full scale, at most 0
};
/// Silence behind a stimulus, so that what rings on is captured [s].
inline constexpr double silence = 1;

/// Samples of full scale 1, silence behind them. Sweep: exponential, sin(2 pi f1 L (exp(t / L) - 1)) with L = T /
/// ln(f2/f1) (Farina 2000), faded over the first and last hundredth. Square: the sum of its odd harmonics below half
/// the rate. Intermodulation: 60 Hz and 7 kHz at 4 : 1, or any two tones given, at 1 : 1 where their ratio is below 2
/// (IEC 60268-3). Noise: white, from a fixed seed. Burst: a tone from one tenth to one half of the time, silence before
/// and after it. A Problem where it cannot be made.
Expected<std::vector<double>> samplesOf(const Stimulus& stimulus);

} // namespace ember::signal
