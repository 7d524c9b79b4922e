#include "noise_analysis.h"

#include "spectrum.h"

#include "core/quantity/weighting.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::signal {

namespace {

std::string verdictOf(const NoiseAnalysis& n) {
    const auto line = [&](int k) {
        for (const NoiseLine& l : n.lines)
            if (std::lround(l.hertz / n.mains) == k) return l.rms;
        return 0.0;
    };
    double hum = 0, even = 0, upper = 0;
    int strong = 0;
    for (const NoiseLine& l : n.lines) {
        hum += l.rms * l.rms;
        const long k = std::lround(l.hertz / n.mains);
        if (k % 2 == 0) even += l.rms * l.rms;
        if (k >= 5) upper += l.rms * l.rms;
    }
    for (const NoiseLine& l : n.lines) strong += l.rms * l.rms > 0.003 * hum;
    const double total = n.rms * n.rms;
    if (!(hum > 0.25 * total)) return "noise: no mains line stands over what is between them";
    if (strong >= 7 && upper > 0.08 * hum)
        return fmt::format("a comb of {} lines: charging pulses in a ground that the signal shares, or a loop round "
                           "the rectifier's wires",
                           strong);
    const double one = line(1) * line(1), two = line(2) * line(2);
    if (one > 0.5 * hum)
        return fmt::format("mostly {:.0f} Hz, the mains' own: heaters, a stray field, or a half-wave bias supply",
                           n.mains);
    if (even > 0.6 * hum && two > 0.3 * hum)
        return fmt::format("mostly {:.0f} Hz, twice the mains': ripple of the supply", 2 * n.mains);
    return fmt::format("{:.0f} and {:.0f} Hz alike: more than one source", n.mains, 2 * n.mains);
}

} // namespace

Expected<NoiseAnalysis> analyseNoise(const Capture& c, double mains) {
    if (!(mains > 40 && mains < 70)) return Problem{"--mains", fmt::format("{:g} Hz: 50 or 60 is expected", mains)};
    if (static_cast<double>(c.volts.size()) < 0.5 * c.sampleRate)
        return Problem{"", "half a second at least is needed to tell the mains' lines apart"};
    for (const double v : c.volts)
        if (!std::isfinite(v)) return Problem{"", "the capture holds values that are no numbers"};
    const PowerSpectrum s = powerSpectrum(c.volts, c.sampleRate);
    NoiseAnalysis out;
    const double low = std::max(20.0, (PowerSpectrum::lobe + 1.0) * s.binHertz),
                 top = std::min(20000.0, 0.5 * c.sampleRate);
    out.rms = std::sqrt(s.between(low, top));
    double weighted = 0;
    for (auto k = s.bin(low); k <= s.bin(top) && k < std::ssize(s.power); ++k)
        weighted += s.power[static_cast<std::size_t>(k)] * std::pow(weightA(static_cast<double>(k) * s.binHertz), 2);
    out.weighted = std::sqrt(weighted);
    // The mains is within 1 % of its name: as the strongest of its first four harmonics has it.
    double best = 0;
    out.mains = mains;
    for (int k = 1; k <= 4; ++k) {
        const auto peak = s.strongest(0.99 * k * mains, 1.01 * k * mains);
        const double level = s.energy(peak - PowerSpectrum::lobe, peak + PowerSpectrum::lobe);
        if (level > best)
            best = level, out.mains = std::clamp(s.place(peak) * s.binHertz / k, 0.99 * mains, 1.01 * mains);
    }
    for (int k = 1; k * out.mains < std::min(2000.0, 0.45 * c.sampleRate); ++k) {
        const double hertz = k * out.mains, rms = s.at(hertz);
        // Against what is between the lines.
        const double wide = (2 * PowerSpectrum::lobe + 1) * s.binHertz,
                     away = std::min(0.5 * out.mains - 0.5 * wide, 2 * wide);
        const double beside = 0.5 * (std::pow(s.at(hertz - away), 2) + std::pow(s.at(hertz + away), 2));
        if (away > 0.5 * wide && rms * rms > 6 * beside)
            out.lines.push_back({hertz, std::sqrt(std::max(0.0, rms * rms - beside))});
    }
    out.verdict = verdictOf(out);
    return out;
}

} // namespace ember::signal
