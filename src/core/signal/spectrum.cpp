#include "spectrum.h"

#include "transform.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::signal {

namespace {

constexpr std::array<double, 7> terms{0.27105140069342, 0.43329793923448, 0.21812299954311, 0.06592544638803,
                                      0.01081174209837, 0.00077658482522, 0.00001388721735};

} // namespace

PowerSpectrum powerSpectrum(std::span<const double> all, double rate) {
    const auto x = all.first(smoothLength(all.size()));
    const std::size_t n = x.size();
    std::vector<double> windowed(n);
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
    double weighted = 0, weights = 0, squares = 0;
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
        windowed[k] = x[k] * w;
        weighted += x[k] * w;
        weights += w;
        squares += w * w;
    }
    PowerSpectrum out;
    out.dc = weighted / weights;
    out.binHertz = rate / static_cast<double>(n);
    const auto bins = transformOf(windowed, n);
    out.power.reserve(bins.size());
    // Mean square of a component = 2 sum |X|^2 / (n sum w^2) over its lobe.
    for (const auto& b : bins) out.power.push_back(std::norm(b) * 2 / (static_cast<double>(n) * squares));
    return out;
}

double PowerSpectrum::energy(std::ptrdiff_t from, std::ptrdiff_t to) const {
    double sum = 0;
    const auto last = static_cast<std::ptrdiff_t>(power.size()) - 1;
    for (auto k = std::max<std::ptrdiff_t>(0, from); k <= std::min(last, to); ++k)
        sum += power[static_cast<std::size_t>(k)];
    return sum;
}

double PowerSpectrum::between(double low, double high) const {
    return energy(static_cast<std::ptrdiff_t>(std::ceil(low / binHertz)),
                  static_cast<std::ptrdiff_t>(std::floor(high / binHertz)));
}

std::ptrdiff_t PowerSpectrum::bin(double hertz) const {
    return static_cast<std::ptrdiff_t>(std::lround(hertz / binHertz));
}

double PowerSpectrum::at(double hertz) const {
    return std::sqrt(energy(bin(hertz) - lobe, bin(hertz) + lobe));
}

double PowerSpectrum::place(std::ptrdiff_t peak) const {
    const auto level = [&](std::ptrdiff_t k) {
        return std::log(
            std::max(1e-300, power[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(k, 0, std::ssize(power) - 1))]));
    };
    const double l = level(peak - 1), m = level(peak), r = level(peak + 1), bend = l - 2 * m + r;
    return static_cast<double>(peak) + (bend < 0 ? 0.5 * (l - r) / bend : 0);
}

std::ptrdiff_t PowerSpectrum::strongest(double low, double high) const {
    const auto from = std::clamp<std::ptrdiff_t>(bin(low), 0, std::ssize(power) - 1),
               to = std::clamp<std::ptrdiff_t>(bin(high), from, std::ssize(power) - 1);
    return std::max_element(power.begin() + from, power.begin() + to + 1) - power.begin();
}

} // namespace ember::signal
