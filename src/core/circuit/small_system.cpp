#include "small_system.h"

#include "small_product.h"
#include "wide.h"

#include <cmath>
#include <utility>

namespace ember::circuit {

namespace {

using namespace wide;

/// row -= factor * other, from `begin` to `end`, a multiple of four numbers.
EMBER_KERNEL inline __attribute__((always_inline)) void
subtract(double* __restrict row, double factor, const double* __restrict other, Eigen::Index begin, Eigen::Index end) {
    const Four f = {factor, factor, factor, factor};
    for (Eigen::Index c = begin; c < end; c += 4) {
        Four a, b;
        load(a, row + c);
        load(b, other + c);
        store(row + c, a - f * b);
    }
}

/// Columns left of the pivot's group of four are done; those within it are overwritten, and not read again.
EMBER_KERNEL inline __attribute__((always_inline)) void
eliminate(double* m, Eigen::Index n, Eigen::Index sidesAt, Eigen::Index stride, double* factors, Eigen::Index* pivots) {
    for (Eigen::Index k = 0; k < n; ++k) {
        Eigen::Index pivot = k;
        for (Eigen::Index r = k + 1; r < n; ++r)
            if (std::fabs(m[r * stride + k]) > std::fabs(m[pivot * stride + k])) pivot = r;
        double* top = m + k * stride;
        pivots[k] = pivot;
        if (pivot != k)
            for (Eigen::Index c = k; c < stride; ++c) {
                const double kept = top[c];
                top[c] = m[pivot * stride + c];
                m[pivot * stride + c] = kept;
            }
        const double inverse = 1 / top[k];
        for (Eigen::Index r = k + 1; r < n; ++r) {
            double* row = m + r * stride;
            const double factor = row[k] * inverse;
            factors[r * n + k] = factor;
            if (factor != 0) subtract(row, factor, top, (k + 1) / 4 * 4, stride);
        }
        top[k] = inverse;
    }
    for (Eigen::Index k = n - 1; k >= 0; --k) {
        double* row = m + k * stride;
        for (Eigen::Index c = k + 1; c < n; ++c) subtract(row, row[c], m + c * stride, sidesAt, stride);
        for (Eigen::Index c = sidesAt; c < stride; ++c) row[c] *= row[k];
    }
}

EMBER_KERNEL void forAny(double* m, Eigen::Index n, Eigen::Index sidesAt, Eigen::Index stride, double* factors,
                         Eigen::Index* pivots) {
    eliminate(m, n, sidesAt, stride, factors, pivots);
}
EMBER_KERNEL EMBER_WIDE void forWide(double* m, Eigen::Index n, Eigen::Index sidesAt, Eigen::Index stride,
                                     double* factors, Eigen::Index* pivots) {
    eliminate(m, n, sidesAt, stride, factors, pivots);
}

} // namespace

void SmallSystem::resize(Eigen::Index unknowns, Eigen::Index rightHandSides) {
    count = unknowns;
    sides = rightHandSides;
    sidesAt = inFours(unknowns);
    stride = sidesAt + inFours(sides);
    if (values.size() < count * stride) values.resize(count * stride);
    if (factors.size() < count * count) factors.resize(count * count);
    if (std::ssize(pivots) < count) pivots.resize(static_cast<std::size_t>(count));
    // The padding takes part in the sums, and must not carry what an earlier system left there.
    for (Eigen::Index r = 0; r < count; ++r) {
        for (Eigen::Index c = count; c < sidesAt; ++c) values[r * stride + c] = 0;
        for (Eigen::Index c = sidesAt + sides; c < stride; ++c) values[r * stride + c] = 0;
    }
}

void SmallSystem::solve() {
    static const auto chosen = wide::available() ? forWide : forAny;
    wide::mayTouch(values.data(), count * stride);
    if (count > 0) chosen(values.data(), count, sidesAt, stride, factors.data(), pivots.data());
}

void SmallSystem::solveAgain(double* x) const {
    for (Eigen::Index k = 0; k < count; ++k) {
        std::swap(x[k], x[pivots[static_cast<std::size_t>(k)]]);
        for (Eigen::Index r = k + 1; r < count; ++r) x[r] -= factors[r * count + k] * x[k];
    }
    for (Eigen::Index k = count - 1; k >= 0; --k) {
        const double* row = values.data() + k * stride;
        for (Eigen::Index c = k + 1; c < count; ++c) x[k] -= row[c] * x[c];
        x[k] *= row[k]; // holds the pivot's inverse
    }
}

} // namespace ember::circuit
