#pragma once
// What can be measured in one take: the signal that is played for it, at which level, for how long.

#include "core/base/result.h"
#include "setup.h"

#include "core/signal/stimulus.h"

#include <array>
#include <cstddef>
#include <vector>

namespace ember::bench {

enum class TakeKind { Tone, Sweep, Square, Modulation, Difference, Noise, Burst };
struct TakeForm {
    TakeKind kind;
    const char* id;          ///< in words for files and commands
    const char* caption;     ///< in a menu
    bool atFrequency;        ///< the builder says which
    signal::Stimulus signal; ///< its frequency replaced where `atFrequency`
    bool alone = true;       ///< else only within a series
};
/// One entry for each TakeKind, in its order.
const std::array<TakeForm, 7>& takeForms();
const TakeForm& formOf(TakeKind kind);

struct TakeRequest {
    TakeKind kind = TakeKind::Tone;
    std::size_t channel = 0;
    double inputRms = 0.1; ///< of a tone of the same crest [V]; without a part in Noise
    double hertz = 1000;
    double seconds = 0;      ///< 0: as the form has it
    bool levelTried = false; ///< a take of this level just went well: no need to raise it in steps again
    Setup setup = {};
    int node = 0; ///< supply node whose volts are recorded, 1 is the rectifier's output; 0: the load's
};
/// What is played as samples of full scale 1, silence behind it where the capture may be late.
Expected<std::vector<double>> samplesOf(const TakeRequest& request);
/// The same as volts at the amplifier's input; silence for Noise.
Expected<std::vector<double>> voltsOf(const TakeRequest& request);
/// The same, no longer than its analysis needs: ten periods of the lowest tone in it, and what coupling capacitors need
/// to settle.
TakeRequest shortened(TakeRequest request);
inline constexpr double takeRate = 48000; ///< [Hz]

} // namespace ember::bench
