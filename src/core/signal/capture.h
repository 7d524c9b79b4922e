#pragma once
#include <algorithm>
#include <cmath>
#include <span>
#include <string>
#include <vector>

namespace ember::signal {

/// A sampled voltage across the load.
struct Capture {
    std::vector<double> volts;
    double sampleRate = 48000; ///< [Hz]
    double fullScale = 0;      ///< [V] at which the converter clips; 0: unknown
    std::string source;        ///< "practice", or a file's name
    /// What the recorder's second input had at the same instants [V]; empty: it was not recorded.
    std::vector<double> second = {};
};

/// Largest size of a sample; 0 of none.
inline double crestOf(std::span<const double> samples) {
    double crest = 0;
    for (const double v : samples) crest = std::max(crest, std::abs(v));
    return crest;
}

} // namespace ember::signal
