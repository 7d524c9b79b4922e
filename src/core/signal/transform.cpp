#include "transform.h"

#include <fftw3.h>

#include <algorithm>
#include <memory>
#include <mutex>

namespace ember::signal {

namespace {

struct FftwFree {
    void operator()(void* p) const { fftw_free(p); }
};
using Buffer = std::unique_ptr<double, FftwFree>;

bool isSmooth(std::size_t n) {
    if (n % 2) return false;
    for (const std::size_t p : {2u, 3u, 5u, 7u})
        while (n % p == 0) n /= p;
    return n == 1;
}

/// The library's planner has one state for all threads and all kinds of plans.
std::mutex planning;

template <typename Make>
void execute(Make make) {
    fftw_plan plan = nullptr;
    {
        const std::lock_guard lock(planning);
        plan = make();
    }
    fftw_execute(plan);
    const std::lock_guard lock(planning);
    fftw_destroy_plan(plan);
}

} // namespace

std::vector<std::complex<double>> transformOf(std::span<const double> x, std::size_t n) {
    const Buffer data(fftw_alloc_real(n + 2));
    std::copy_n(x.begin(), std::min(n, x.size()), data.get());
    std::fill(data.get() + std::min(n, x.size()), data.get() + n + 2, 0.0);
    auto* out = reinterpret_cast<fftw_complex*>(data.get());
    execute([&] { return fftw_plan_dft_r2c_1d(static_cast<int>(n), data.get(), out, FFTW_ESTIMATE); });
    std::vector<std::complex<double>> bins(n / 2 + 1);
    for (std::size_t k = 0; k < bins.size(); ++k) bins[k] = {out[k][0], out[k][1]};
    return bins;
}

std::vector<double> recordOf(std::vector<std::complex<double>> bins, std::size_t n) {
    bins.resize(n / 2 + 1);
    const Buffer data(fftw_alloc_real(n));
    execute([&] {
        return fftw_plan_dft_c2r_1d(static_cast<int>(n), reinterpret_cast<fftw_complex*>(bins.data()), data.get(),
                                    FFTW_ESTIMATE);
    });
    std::vector<double> out(data.get(), data.get() + n);
    for (double& v : out) v /= static_cast<double>(n);
    return out;
}

std::size_t smoothLength(std::size_t n) {
    for (std::size_t k = n; k > n / 2; --k)
        if (isSmooth(k)) return k;
    return n;
}

std::size_t smoothLengthFrom(std::size_t n) {
    while (!isSmooth(n)) ++n;
    return n;
}

} // namespace ember::signal
