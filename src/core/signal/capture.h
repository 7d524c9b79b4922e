#pragma once
#include <string>
#include <vector>

namespace ember::signal {

/// A sampled voltage across the load.
struct Capture {
    std::vector<double> volts;
    double sampleRate = 48000; ///< [Hz]
    double fullScale = 0;      ///< [V] at which the converter clips; 0: unknown
    std::string source;        ///< "practice", or a file's name
};

} // namespace ember::signal
