#pragma once
// Real transforms on top of FFTW, their plans made one at a time.

#include <complex>
#include <cstddef>
#include <span>
#include <vector>

namespace ember::signal {

/// `n` / 2 + 1 bins of the record, zeros behind it up to `n` samples: sum of x exp(-2 pi i k m / n).
std::vector<std::complex<double>> transformOf(std::span<const double> samples, std::size_t n);
/// The record of `n` samples of such bins, so that it undoes transformOf().
std::vector<double> recordOf(std::vector<std::complex<double>> bins, std::size_t n);

/// Largest even length of factors 2, 3, 5 and 7 alone up to `n`; the least such length of at least `n`: quick to
/// transform.
std::size_t smoothLength(std::size_t n);
std::size_t smoothLengthFrom(std::size_t n);

} // namespace ember::signal
