#pragma once
// A captured tone to figures. The tone need not fit the record: a seven-term window keeps every component apart.

#include "core/base/result.h"

#include <cstddef>
#include <span>
#include <vector>

namespace ember::signal {

struct Harmonic {
    int order = 1;
    double hertz = 0, rms = 0, db = 0, percent = 0; ///< db and percent of the fundamental
};

struct ToneAnalysis {
    double fundamental = 0;          ///< [Hz]
    double level = 0;                ///< RMS of everything but DC [V]
    double dc = 0;                   ///< [V]
    double thdPercent = 0;           ///< root sum of harmonics 2..10 below half the sample rate, over the fundamental
    double thdNoisePercent = 0;      ///< everything but the fundamental from 20 Hz to 20 kHz, over the total there
    double noiseFloor = 0;           ///< RMS of what is neither fundamental nor harmonic, 20 Hz to 20 kHz [V]
    bool clipped = false;            ///< the capture itself ran into its converter's end
    std::vector<Harmonic> harmonics; ///< the fundamental first
    double binHertz = 0;
    std::vector<double> spectrum; ///< RMS volts per bin, for drawing
};

/// `samples` [V]; `fullScale` [V], 0 when unknown. Needs 1024 samples and a tone that stands out.
/// Window: Blackman-Harris family, seven terms (Albrecht 2001), side lobes below -170 dB; component levels by the
/// energy of their main lobes, so that no bin needs to be hit.
Expected<ToneAnalysis> analyseTone(std::span<const double> samples, double sampleRate, double fullScale);

} // namespace ember::signal
