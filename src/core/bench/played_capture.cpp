#include "played_capture.h"

#include "core/signal/resample.h"

#include <algorithm>
#include <cmath>

namespace ember::bench {

namespace {

constexpr std::size_t finer = 4; // samples that the computation gets of each that is played

}

Expected<signal::Capture> playedCapture(const Build& build, const Catalogue& catalogue, const plan::Steady& steady,
                                        std::size_t channel, const std::vector<double>& volts, double rate,
                                        const plan::Miswiring& wiring, const TakeWatch& watch) {
    plan::PlayedSignal signal;
    signal.volts = signal::resampled(volts, finer, 1);
    signal.rate = finer * rate;
    signal.outputRate = 2 * rate;
    signal.wiring = wiring;
    signal.progress = watch.progress;
    signal.stop = watch.stop;
    const auto played = plan::play(build, catalogue, steady, channel, signal);
    if (!played) return played.problem();
    signal::Capture out{signal::resampled(played->volts, 1, 2), rate, 1, ""};
    out.fullScale = std::max(1.0, 1.5 * signal::crestOf(out.volts));
    return out;
}

Expected<signal::Capture> plannedTake(const Build& build, const Catalogue& catalogue, const plan::Steady& steady,
                                      TakeRequest request, const TakeWatch& watch) {
    // Ten periods of the lowest tone in it, and what the coupling capacitors need to settle.
    const double lowest = formOf(request.kind).atFrequency ? request.hertz : formOf(request.kind).signal.from;
    request.seconds = std::min(formOf(request.kind).signal.seconds, std::max(0.2, 10 / lowest));
    auto volts = voltsOf(request);
    if (!volts) return volts.problem();
    volts->resize(static_cast<std::size_t>(request.seconds * takeRate)); // without the silence behind it
    return playedCapture(build, catalogue, steady, request.channel, *volts, takeRate, {}, watch);
}

} // namespace ember::bench
