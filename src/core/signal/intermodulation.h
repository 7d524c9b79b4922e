#pragma once
// Two tones and what they make of each other (IEC 60268-3).

#include "capture.h"

#include "core/base/result.h"

#include <vector>

namespace ember::signal {

struct IntermodulationProduct {
    double hertz = 0, db = 0; ///< of the reference
    int order = 2;
};
struct Intermodulation {
    bool difference = false;  ///< two high tones near each other; else a low and a high one
    double low = 0, high = 0; ///< the tones [Hz]
    double percent = 0;
    std::vector<IntermodulationProduct> products;
};
/// Modulation: sidebands of the high tone at its distance of one and two times the low one, each order as the sum of
/// both sides, over the high tone. Difference: f2 - f1, 2 f1 - f2, 2 f2 - f1, over the sum of both tones. Orders add as
/// squares.
Expected<Intermodulation> analyseIntermodulation(const Capture& capture);

} // namespace ember::signal
