#pragma once
// What the series share: tones whose level is raised in steps and kept within what the load is made for.

#include "series.h"

#include <array>
#include <map>

namespace ember::bench {

/// What one tone showed.
struct ToneTaken {
    double inputRms = 0, rms = 0; ///< [V]; everything but DC
    double fundamental = 0;       ///< RMS of it [V]
    double watts = 0;             ///< in the load of its setup; 0: no resistor there
    double thdPercent = 0, thdNoisePercent = 0;
    std::array<double, 11> percent{}; ///< by order, of the fundamental
    /// By how much the flatter half wave's crest is below the fundamental's, as a share. NaN above 5 kHz, where a
    /// period has too few samples.
    double flattening = plan::unknown;
};

class SeriesRun {
  public:
    SeriesRun(const SeriesRequest& r, const SeriesContext& c, const Taker& t, const TakeWatch& w)
        : request(r),
          context(c),
          watch(w),
          take(t) {}

    /// At this input level [V RMS], rounded to four digits. Louder than any before it in this channel and setup: come
    /// to in steps of 10 dB. A Problem: DC across the load, more watts than it is made for, nothing that arrives, the
    /// recorder's end, cancelled.
    Expected<ToneTaken> tone(double inputRms, double hertz, const Setup& setup, std::size_t channel);
    Expected<ToneTaken> tone(double inputRms, double hertz, const Setup& setup) {
        return tone(inputRms, hertz, setup, request.channel);
    }
    /// The tone that makes these watts in the load, within 0.05 dB.
    Expected<ToneTaken> toneOf(double watts, double hertz, const Setup& setup);
    Expected<signal::Capture> capture(const TakeRequest& wanted);
    /// Volts over volts at 1 kHz in this setup, from the newest tone there, else as expected.
    [[nodiscard]] double gain(const Setup& setup, std::size_t channel) const;
    [[nodiscard]] const SeriesChannel& channel() const { return context.channels[request.channel]; }
    [[nodiscard]] double ohms(const Setup& setup, std::size_t channel) const; ///< 0: no resistor
    void share(double done) const {
        if (watch.progress) watch.progress(done);
    }
    [[nodiscard]] bool cancelled() const { return watch.stop.stop_requested(); }

    const SeriesRequest& request;
    const SeriesContext& context;
    const TakeWatch& watch;

  private:
    Expected<ToneTaken> taken(double inputRms, double hertz, const Setup& setup, std::size_t channel);
    struct Known {
        Setup setup;
        std::size_t channel = 0;
        double loudest = 0, gain = plan::unknown; ///< [V]
    };
    Known& known(const Setup& setup, std::size_t channel);
    const Taker& take;
    std::vector<Known> all;
};

/// Third-octave frequencies about 1 kHz, `every` of them [Hz].
std::vector<double> thirds(double from, double to, int every = 1);
/// What of a response lies within `decibels` of 1 kHz [Hz]; NaN: the end was not reached.
struct Ends {
    double low = plan::unknown, high = plan::unknown;
};
Ends endsOf(const SeriesLine& response, double decibels);

Expected<SeriesResult> runPower(SeriesRun& run);
Expected<SeriesResult> runDistortionByPower(SeriesRun& run);
Expected<SeriesResult> runDistortionByFrequency(SeriesRun& run);
Expected<SeriesResult> runDriveByControl(SeriesRun& run);
Expected<SeriesResult> runControlTracking(SeriesRun& run);
Expected<SeriesResult> runResponseAtSettings(SeriesRun& run);
Expected<SeriesResult> runResponseWithLoudspeaker(SeriesRun& run);
Expected<SeriesResult> runOutputImpedance(SeriesRun& run);
Expected<SeriesResult> runSag(SeriesRun& run);

} // namespace ember::bench
