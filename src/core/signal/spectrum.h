#pragma once
// The windowed spectrum of a record: levels of components anywhere between its bins, and of what is between them.

#include <cstddef>
#include <span>
#include <vector>

namespace ember::signal {

/// Mean squares per bin [V2], so that a component's is the sum over its lobe and noise adds up (Parseval). Window:
/// Blackman-Harris family, seven terms (Albrecht 2001), side lobes below -170 dB.
struct PowerSpectrum {
    double binHertz = 0, dc = 0;
    std::vector<double> power;
    static constexpr std::ptrdiff_t lobe = 7; ///< bins on each side of a component
    [[nodiscard]] double energy(std::ptrdiff_t from, std::ptrdiff_t to) const;
    /// Between two frequencies [V2].
    [[nodiscard]] double between(double low, double high) const;
    /// RMS of the component at this frequency [V].
    [[nodiscard]] double at(double hertz) const;
    [[nodiscard]] std::ptrdiff_t bin(double hertz) const;
    /// Place of the peak nearest to a bin, in bins: the lobe is nearly Gaussian, its peak from three logarithms.
    [[nodiscard]] double place(std::ptrdiff_t peak) const;
    /// The strongest bin between two frequencies.
    [[nodiscard]] std::ptrdiff_t strongest(double low, double high) const;
};
/// Of the largest part of the record that is quick to transform.
PowerSpectrum powerSpectrum(std::span<const double> samples, double sampleRate);

} // namespace ember::signal
