#pragma once
// What a sound device adds of its own to what it measures, known from its loop alone, and what is left without it.

#include "sound_bench.h"

namespace ember::bench {

struct DeviceLimits {
    /// Distortion of the device [%], as its loop had it at 6 dB under full scale; noise at the load, 20 Hz to 20 kHz
    /// [V RMS]. NaN: not looked at.
    double thdPercent = SoundCalibration::unknown, noiseVolts = SoundCalibration::unknown;
};
DeviceLimits limitsOf(const SoundCalibration& calibration);

struct Span {
    double least = 0, most = 0;
};
/// Of the amplifier's own distortion: harmonics of two devices in a row may add or cancel, so that by the triangle
/// inequality it lies between the difference of the two and their sum [%].
Span ownDistortion(double measuredPercent, double devicePercent);

/// Noises without relation add as powers. NaN where the device's is more than half of the power measured: the rest
/// would be a difference of nearly equal figures [V].
double withoutNoise(double measured, double device);

/// RMS in a spectrum's bin of noise that is even from 20 Hz to 20 kHz [V].
double noisePerBin(double noiseVolts, double binHertz);

} // namespace ember::bench
