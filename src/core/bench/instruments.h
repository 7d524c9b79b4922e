#pragma once
// Instruments as the stations see them; a real one and the virtual amplifier's stand behind the same calls.

#include "core/base/result.h"
#include "core/signal/capture.h"

namespace ember::bench {

class Voltmeter {
  public:
    virtual ~Voltmeter() = default;
    /// What the display shows at a test point, in the unit of the point.
    virtual Expected<double> read(const std::string& point) = 0;
};

class Generator {
  public:
    virtual ~Generator() = default;
    virtual void set(double voltsRms, double hertz) = 0; ///< into the amplifier's input
};

class Recorder {
  public:
    virtual ~Recorder() = default;
    virtual Expected<signal::Capture> capture(std::size_t channel, double seconds) = 0;
};

} // namespace ember::bench
