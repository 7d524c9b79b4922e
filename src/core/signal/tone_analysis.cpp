#include "tone_analysis.h"

#include "spectrum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::signal {

namespace {

bool ranIntoItsEnd(std::span<const double> x, double fullScale) {
    if (fullScale <= 0) return false;
    int run = 0;
    for (const double v : x) {
        run = std::abs(v) >= 0.9999 * fullScale ? run + 1 : 0;
        if (run >= 2) return true;
    }
    return false;
}

} // namespace

Expected<ToneAnalysis> analyseTone(std::span<const double> all, double rate, double fullScale) {
    if (all.size() < 1024)
        return Problem{"", fmt::format("the capture has {} samples; at least 1024 are needed", all.size())};
    if (!(rate >= 1000 && rate <= 10e6))
        return Problem{"", fmt::format("a sample rate of {} Hz makes no sense here", rate)};
    for (const double v : all)
        if (!std::isfinite(v)) return Problem{"", "the capture holds values that are no numbers"};
    ToneAnalysis out;
    out.clipped = ranIntoItsEnd(all, fullScale);
    const PowerSpectrum s = powerSpectrum(all, rate);
    constexpr auto lobe = PowerSpectrum::lobe;
    out.dc = s.dc;
    out.binHertz = s.binHertz;
    const auto bins = std::ssize(s.power);
    const auto energy = [&](std::ptrdiff_t from, std::ptrdiff_t to) { return s.energy(from, to); };
    const auto first = static_cast<std::ptrdiff_t>(std::max(10.0 / out.binHertz, lobe + 1.0)); // above the DC lobe
    if (first >= bins) return Problem{"", "the capture is too short for any tone"};
    const auto peak = std::max_element(s.power.begin() + first, s.power.end()) - s.power.begin();
    const double total = energy(first, bins - 1);
    out.level = std::sqrt(total);
    const double fundamental = energy(peak - lobe, peak + lobe);
    if (!(fundamental > 0) || fundamental < 0.2 * total)
        return Problem{"", "no single tone stands out in this capture; feed a steady sine and capture again"};
    const double place = s.place(peak);
    out.fundamental = place * out.binHertz;

    double distortion = 0;
    std::vector<std::ptrdiff_t> lobes;
    for (int order = 1; order <= 10; ++order) {
        const double hertz = order * out.fundamental;
        const auto at = static_cast<std::ptrdiff_t>(std::lround(order * place));
        if (hertz >= rate / 2 || at + lobe >= bins) break;
        const double e = order == 1 ? fundamental : energy(at - lobe, at + lobe);
        if (order > 1) distortion += e;
        lobes.push_back(at);
        const double rms = std::sqrt(e), ratio = std::sqrt(e / fundamental);
        out.harmonics.push_back({order, hertz, rms, 20 * std::log10(std::max(1e-12, ratio)), 100 * ratio});
    }
    out.thdPercent = 100 * std::sqrt(distortion / fundamental);
    const auto low = static_cast<std::ptrdiff_t>(std::ceil(20 / out.binHertz)),
               high = static_cast<std::ptrdiff_t>(std::floor(20000 / out.binHertz));
    const double band = energy(std::max(low, static_cast<std::ptrdiff_t>(lobe + 1)), high);
    const double others = std::max(0.0, band - fundamental);
    out.thdNoisePercent = band > 0 ? 100 * std::sqrt(others / band) : 0;
    double tones = 0;
    for (const auto at : lobes)
        if (at <= high) tones += energy(at - lobe, at + lobe);
    out.noiseFloor = std::sqrt(std::max(0.0, band - tones));
    for (const double p : s.power) out.spectrum.push_back(std::sqrt(p));
    return out;
}

} // namespace ember::signal
