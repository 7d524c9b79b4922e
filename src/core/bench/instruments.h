#pragma once
// Instruments as the stations see them; a real one and the virtual amplifier's stand behind the same calls.

#include "core/base/result.h"
#include "core/procedure/test_points.h"

namespace ember::bench {

class Voltmeter {
  public:
    virtual ~Voltmeter() = default;
    /// What the display shows at a test point, in the unit of the point.
    virtual Expected<double> read(const std::string& point) = 0;
};

/// A sampled voltage across the load.
struct Capture {
    std::vector<double> volts;
    double sampleRate = 48000; ///< [Hz]
    double fullScale = 0;      ///< [V] at which the converter clips; 0: unknown
    std::string source;        ///< "practice", or a file's name
};

class Generator {
  public:
    virtual ~Generator() = default;
    virtual void set(double voltsRms, double hertz) = 0; ///< into the amplifier's input
};

class Recorder {
  public:
    virtual ~Recorder() = default;
    virtual Expected<Capture> capture(std::size_t channel, double seconds) = 0;
};

} // namespace ember::bench
