#pragma once
// A capture in words and figures, by what was played for it: what Measure shows, and what the log keeps.

#include "app/document/document.h"
#include "core/bench/device_limits.h"

#include <QString>

#include <array>

namespace ember::app {

/// What stands above the figures of a sweep.
inline constexpr std::array sweepCaptions{"-3 dB, low end", "-3 dB, high end", "", ""};

struct TakeReading {
    struct Figure {
        QString caption, value;
    };
    std::array<Figure, 4> figures;
    QString words;
    QString beside; ///< what the recorder's second input adds; empty: it has none
    bool good = true;
    std::string log;                    ///< empty: nothing to keep
    std::vector<double> wave;           ///< [V], from its first moment on
    double waveStep = 0;                ///< [s]
    std::vector<double> spectrum;       ///< RMS per bin [V]
    double binHertz = 0, reference = 1; ///< what 0 dB is [V]
    QString referenceWord;
    double floor = plan::unknown; ///< RMS per bin of the sound device alone [V]; NaN: not known, or not taken with one
    double floorThd = plan::unknown;                                                 ///< [%]
    double level = plan::unknown, watts = plan::unknown, thdPercent = plan::unknown; ///< of a tone [V, W, %]
};

/// What a take is read with: of the bench, and of the plan beside it; NaN: not known.
struct TakeContext {
    double load = 0;                 ///< [ohm]; 0: none
    bool line = false;               ///< its output is read in volts, not in watts
    double inputRms = plan::unknown; ///< [V]
    double mainsHertz = 50;
    std::string next;                 ///< name of the channel that the recorder's second input may be at
    double clipVolts = plan::unknown; ///< planned, RMS at clipping [V]
    double humVolts = plan::unknown, weightedHum = plan::unknown; ///< planned [V]
    bench::DeviceLimits device;                                   ///< that the capture was made with
};
TakeContext contextOf(const Document::Solved& plan, std::size_t channel, double inputRms);
/// A Problem where nothing can be said.
Expected<TakeReading> readTake(const bench::TakeRequest& request, const signal::Capture& capture,
                               const TakeContext& context);

/// What the plan answers to the same signal.
struct PlannedReading {
    QString words;              ///< one sentence; empty: the analysis found nothing
    std::vector<double> period; ///< of a square [V]
    double periodSeconds = 0;
};
/// `planned`: the plan's own capture first, then those of healthy amplifiers, from which the ranges in its words come.
PlannedReading readPlanned(const bench::TakeRequest& request, const std::vector<signal::Capture>& planned);

} // namespace ember::app
