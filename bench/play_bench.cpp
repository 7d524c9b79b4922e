// A second of sound through both channels of the demo over time, each on its own thread: the peer is the second itself.
#include "median.h"

#include "core/bench/model_bench.h"
#include "core/build/starts.h"
#include "core/plan/steady.h"
#include "core/signal/stimulus.h"

#include <fmt/format.h>

#include <cmath>
#include <future>

using namespace ember;

namespace {

/// White noise made to fall by 3 dB an octave (P. Kellet's three poles, within 0.5 dB), as music does on the whole.
std::vector<double> fallingNoise() {
    std::vector<double> out = *signal::samplesOf({.kind = signal::StimulusKind::Noise, .seconds = 1});
    out.resize(48000);
    double a = 0, b = 0, c = 0;
    for (double& x : out) {
        a = 0.99765 * a + 0.0990460 * x;
        b = 0.96300 * b + 0.2965164 * x;
        c = 0.57000 * c + 1.0526913 * x;
        x = a + b + c + 0.1848 * x;
    }
    return out;
}

std::vector<double> of(signal::Stimulus signal) {
    signal.seconds = 1;
    std::vector<double> out = *signal::samplesOf(signal);
    out.resize(48000);
    return out;
}

} // namespace

int main() {
    const Catalogue& catalogue = Catalogue::shipped();
    const Build demo = startOf("push-pull-pentode")->build;
    const auto steady = plan::solveSteady(demo, catalogue, {demo.mains.volts});
    using signal::StimulusKind;
    struct Row {
        const char* name;
        std::vector<double> volts;
        double rms;
    };
    fmt::print("a second played through both channels, and its share of a second (1 allowed):\n");
    for (const Row& row :
         {Row{"tone of 1 kHz", of({.kind = StimulusKind::Tone, .hertz = 1000}), 0.1},
          {"tone of 1 kHz, near clipping", of({.kind = StimulusKind::Tone, .hertz = 1000}), 0.9},
          {"tone of 1 kHz, clipped", of({.kind = StimulusKind::Tone, .hertz = 1000}), 1.5},
          {"tone of 10 kHz", of({.kind = StimulusKind::Tone, .hertz = 10000}), 0.1},
          {"tone of 10 kHz, near clipping", of({.kind = StimulusKind::Tone, .hertz = 10000}), 0.6},
          {"tone of 10 kHz, clipped", of({.kind = StimulusKind::Tone, .hertz = 10000}), 1.2},
          {"tone of 10 kHz, 8 dB beyond that", of({.kind = StimulusKind::Tone, .hertz = 10000}), 3},
          {"sweep of 20 Hz to 20 kHz", of({.kind = StimulusKind::Sweep}), 0.6},
          {"the same, clipped", of({.kind = StimulusKind::Sweep}), 1.2},
          {"square of 1 kHz", of({.kind = StimulusKind::Square, .hertz = 1000}), 0.3},
          {"60 Hz and 7 kHz", of({.kind = StimulusKind::Intermodulation, .from = 60, .to = 7000}), 0.5},
          {"noise like music", fallingNoise(), 0.2},
          {"noise like music, peaks clipped", fallingNoise(), 0.5}}) {
        double sum = 0;
        for (const double v : row.volts) sum += v * v;
        std::vector<double> volts = row.volts;
        for (double& v : volts) v *= row.rms / std::sqrt(sum / static_cast<double>(volts.size()));
        const double ms = medianOf(3, [&] {
            const auto one = [&](std::size_t channel) {
                return bench::ModelBench(demo, catalogue, *steady, {}).play(channel, {}, volts, 48000, {}).ok();
            };
            auto other = std::async(std::launch::async, one, std::size_t{1});
            if (!one(0) || !other.get()) fmt::print("not solved: ");
        });
        fmt::print("{:34} {:.1f} V {:6.2f}\n", row.name, row.rms, ms / 1000);
    }
}
