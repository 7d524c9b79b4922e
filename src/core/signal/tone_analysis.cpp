#include "tone_analysis.h"

#include <fftw3.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <mutex>
#include <numbers>

namespace ember::signal {

namespace {

constexpr std::array<double, 7> terms{0.27105140069342, 0.43329793923448, 0.21812299954311, 0.06592544638803,
                                      0.01081174209837, 0.00077658482522, 0.00001388721735};
constexpr int lobe = 7; ///< bins on each side of a component

/// Largest length of only small prime factors up to `n`: quick to transform.
std::size_t smoothLength(std::size_t n) {
    for (std::size_t k = n; k > n / 2; --k) {
        std::size_t rest = k;
        for (const std::size_t p : {2u, 3u, 5u, 7u})
            while (rest % p == 0) rest /= p;
        if (rest == 1 && k % 2 == 0) return k;
    }
    return n;
}

struct FftwFree {
    void operator()(void* p) const { fftw_free(p); }
};

/// Squared magnitudes of the windowed record, one per bin. `gain`: sum of the squared window.
std::vector<double> powerSpectrum(std::span<const double> x, double& windowSquares, double& dc) {
    const std::size_t n = x.size();
    std::unique_ptr<double, FftwFree> data(fftw_alloc_real(n + 2));
    // cos(k theta) for k = 0..6 are Chebyshev polynomials of one cosine: nested by powers, evaluated by Horner.
    const auto& a = terms;
    const std::array<double, 7> c{a[0] - a[2] + a[4] - a[6],
                                  -a[1] + 3 * a[3] - 5 * a[5],
                                  2 * a[2] - 8 * a[4] + 18 * a[6],
                                  -4 * a[3] + 20 * a[5],
                                  8 * a[4] - 48 * a[6],
                                  -16 * a[5],
                                  32 * a[6]};
    const double step = 2 * std::numbers::pi / static_cast<double>(n);
    double weighted = 0, weights = 0;
    windowSquares = 0;
    double re = 1, im = 0; // a rotating pointer, set right every 256 samples
    const double cs = std::cos(step), sn = std::sin(step);
    for (std::size_t k = 0; k < n; ++k) {
        if (k % 256 == 0) {
            re = std::cos(step * static_cast<double>(k));
            im = std::sin(step * static_cast<double>(k));
        }
        const double w = c[0] + re * (c[1] + re * (c[2] + re * (c[3] + re * (c[4] + re * (c[5] + re * c[6])))));
        const double next = re * cs - im * sn;
        im = re * sn + im * cs;
        re = next;
        data.get()[k] = x[k] * w;
        weighted += x[k] * w;
        weights += w;
        windowSquares += w * w;
    }
    dc = weighted / weights;
    auto* out = reinterpret_cast<fftw_complex*>(data.get());
    static std::mutex planning; // FFTW plans are made one at a time
    fftw_plan plan = nullptr;
    {
        const std::lock_guard lock(planning);
        plan = fftw_plan_dft_r2c_1d(static_cast<int>(n), data.get(), out, FFTW_ESTIMATE);
    }
    fftw_execute(plan);
    {
        const std::lock_guard lock(planning);
        fftw_destroy_plan(plan);
    }
    std::vector<double> power(n / 2 + 1);
    for (std::size_t k = 0; k < power.size(); ++k) power[k] = out[k][0] * out[k][0] + out[k][1] * out[k][1];
    return power;
}

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
    const auto x = all.first(smoothLength(all.size()));
    const auto n = x.size();
    ToneAnalysis out;
    out.clipped = ranIntoItsEnd(all, fullScale);
    double squares = 0;
    auto power = powerSpectrum(x, squares, out.dc);
    // Mean square of a component = 2 sum |X|^2 / (n sum w^2) over its lobe (Parseval); the same holds for noise.
    const double scale = 2 / (static_cast<double>(n) * squares);
    for (double& p : power) p *= scale;
    out.binHertz = rate / static_cast<double>(n);
    const auto bins = static_cast<std::ptrdiff_t>(power.size());
    const auto energy = [&](std::ptrdiff_t from, std::ptrdiff_t to) {
        double sum = 0;
        for (auto k = std::max<std::ptrdiff_t>(0, from); k <= std::min(bins - 1, to); ++k)
            sum += power[static_cast<std::size_t>(k)];
        return sum;
    };
    const auto first = static_cast<std::ptrdiff_t>(std::max(10.0 / out.binHertz, lobe + 1.0)); // above the DC lobe
    if (first >= bins) return Problem{"", "the capture is too short for any tone"};
    const auto peak = std::max_element(power.begin() + first, power.end()) - power.begin();
    const double total = energy(first, bins - 1);
    out.level = std::sqrt(total);
    const double fundamental = energy(peak - lobe, peak + lobe);
    if (!(fundamental > 0) || fundamental < 0.2 * total)
        return Problem{"", "no single tone stands out in this capture; feed a steady sine and capture again"};
    // The lobe is nearly Gaussian: its peak from three logarithms.
    const auto level = [&](std::ptrdiff_t k) {
        return std::log(std::max(1e-300, power[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(k, 0, bins - 1))]));
    };
    const double l = level(peak - 1), m = level(peak), r = level(peak + 1);
    const double bend = l - 2 * m + r;
    const double place = static_cast<double>(peak) + (bend < 0 ? 0.5 * (l - r) / bend : 0);
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
    out.spectrum.resize(power.size());
    for (std::size_t k = 0; k < power.size(); ++k) out.spectrum[k] = std::sqrt(power[k]);
    return out;
}

} // namespace ember::signal
