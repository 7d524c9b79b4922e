#pragma once
// Instruments as the stations see them; a real one and the virtual amplifier's stand behind the same calls.

#include "core/base/result.h"
#include "core/signal/capture.h"

#include <functional>
#include <stop_token>

namespace ember::bench {

class Voltmeter {
  public:
    virtual ~Voltmeter() = default;
    /// What the display shows at a test point, in the unit of the point.
    virtual Expected<double> read(const std::string& point) = 0;
};

/// A take under way.
struct TakeWatch {
    std::function<void(double share)> progress = {}; ///< from the thread that takes
    std::stop_token stop = {};
    std::function<void(double inputRms)> approaching = {}; ///< a tone on the way up is about to play [V]
};

/// Generator and recorder together.
class Player {
  public:
    virtual ~Player() = default;
    /// Volts into the amplifier's input, evenly spaced at `rate` [Hz]; what was across the channel's load from the
    /// first of them on, as long as they are. A Problem says why the take cannot be used.
    virtual Expected<signal::Capture> play(std::size_t channel, const std::vector<double>& volts, double rate,
                                           const TakeWatch& watch) = 0;
};

} // namespace ember::bench
