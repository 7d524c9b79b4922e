#pragma once
#include <complex>
#include <span>

namespace ember::signal {

/// Crest and phase of a sinusoid of this frequency [Hz] in samples at `rate` [Hz], by correlation under a Hann window:
/// crest e^(j phase), the phase that of a cosine at the first sample. Zero of no samples.
std::complex<double> sinusoidIn(std::span<const double> samples, double rate, double hertz);

} // namespace ember::signal
