#pragma once
// How loud a frequency is heard.

namespace ember {

/// Weighting A of IEC 61672-1:2013, as a factor; 1 at 1 kHz.
double weightA(double hertz);

} // namespace ember
