#include "intermodulation.h"

#include "spectrum.h"
#include "steady_part.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::signal {

Expected<Intermodulation> analyseIntermodulation(const Capture& c) {
    if (c.volts.size() < 4096)
        return Problem{"", fmt::format("the capture has {} samples; at least 4096 are needed", c.volts.size())};
    for (const double v : c.volts)
        if (!std::isfinite(v)) return Problem{"", "the capture holds values that are no numbers"};
    const PowerSpectrum s = powerSpectrum(steadyPart(c.volts, c.sampleRate), c.sampleRate);
    const double bottom = std::max(15.0, (PowerSpectrum::lobe + 1.0) * s.binHertz), top = 0.499 * c.sampleRate;
    constexpr auto lobe = PowerSpectrum::lobe;
    // The strongest tone, and the strongest that is not of its lobe.
    const auto first = s.strongest(bottom, top);
    std::ptrdiff_t second = -1;
    for (auto k = s.bin(bottom); k <= s.bin(top) && k < std::ssize(s.power); ++k)
        if (std::abs(k - first) > 2 * lobe &&
            (second < 0 || s.power[static_cast<std::size_t>(k)] > s.power[static_cast<std::size_t>(second)]))
            second = k;
    if (second < 0) return Problem{"", "no two tones are in it"};
    double a = s.place(first) * s.binHertz, z = s.place(second) * s.binHertz;
    if (a > z) std::swap(a, z);
    const double levelA = s.at(a), levelZ = s.at(z);
    if (levelA * levelA + levelZ * levelZ < 0.5 * s.between(bottom, top) ||
        std::min(levelA, levelZ) < 0.02 * std::max(levelA, levelZ))
        return Problem{"", "no two tones stand out in this capture; feed 60 Hz and 7 kHz at 4 : 1, or 19 and 20 kHz"};
    Intermodulation out;
    out.low = a, out.high = z;
    out.difference = z / a < 2;
    const double reference = out.difference ? levelA + levelZ : levelZ;
    double square = 0;
    const auto take = [&](int order, std::initializer_list<double> places) {
        double sum = 0;
        for (const double hertz : places) {
            if (!(hertz > bottom && hertz < top)) continue;
            const double level = s.at(hertz);
            sum += level;
            out.products.push_back({hertz, 20 * std::log10(std::max(1e-15, level / reference)), order});
        }
        square += sum * sum;
    };
    if (out.difference) {
        take(2, {z - a});
        take(3, {2 * a - z, 2 * z - a});
    } else {
        take(2, {z - a, z + a});
        take(3, {z - 2 * a, z + 2 * a});
    }
    out.percent = 100 * std::sqrt(square) / reference;
    return out;
}

} // namespace ember::signal
