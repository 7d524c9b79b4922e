#include "device_limits.h"

#include <cmath>

namespace ember::bench {

DeviceLimits limitsOf(const SoundCalibration& c) {
    return {c.ownThdPercent, c.ownNoise * c.recordedVolts};
}

Span ownDistortion(double measuredPercent, double devicePercent) {
    return {std::abs(measuredPercent - devicePercent), measuredPercent + devicePercent};
}

double withoutNoise(double measured, double device) {
    const double rest = measured * measured - device * device;
    return rest < device * device ? SoundCalibration::unknown : std::sqrt(rest);
}

double noisePerBin(double noiseVolts, double binHertz) {
    return noiseVolts * std::sqrt(binHertz / (20000.0 - 20.0));
}

} // namespace ember::bench
