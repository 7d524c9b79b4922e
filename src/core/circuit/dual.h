#pragma once
// Forward automatic differentiation with N inputs: a value and its N slopes, from one evaluation.

#include <array>
#include <cmath>
#include <cstddef>

namespace ember::circuit {

template <int N>
struct Dual {
    double value = 0;
    std::array<double, N> slope{};

    Dual() = default;
    Dual(double constant) : value(constant) {}
    static Dual variable(double v, int index) {
        Dual d(v);
        d.slope[static_cast<std::size_t>(index)] = 1;
        return d;
    }

    /// f(this) for a scalar function with value `f` and derivative `df` at this->value.
    [[nodiscard]] Dual chain(double f, double df) const {
        Dual d(f);
        for (std::size_t k = 0; k < N; ++k) d.slope[k] = df * slope[k];
        return d;
    }

    friend Dual operator+(Dual a, const Dual& b) {
        a.value += b.value;
        for (std::size_t k = 0; k < N; ++k) a.slope[k] += b.slope[k];
        return a;
    }
    friend Dual operator-(Dual a, const Dual& b) {
        a.value -= b.value;
        for (std::size_t k = 0; k < N; ++k) a.slope[k] -= b.slope[k];
        return a;
    }
    friend Dual operator*(const Dual& a, const Dual& b) {
        Dual d(a.value * b.value);
        for (std::size_t k = 0; k < N; ++k) d.slope[k] = a.slope[k] * b.value + a.value * b.slope[k];
        return d;
    }
    friend Dual operator/(const Dual& a, const Dual& b) {
        Dual d(a.value / b.value);
        for (std::size_t k = 0; k < N; ++k) d.slope[k] = (a.slope[k] - d.value * b.slope[k]) / b.value;
        return d;
    }
};

template <int N>
Dual<N> sqrt(const Dual<N>& a) {
    const double r = std::sqrt(a.value);
    return a.chain(r, 0.5 / r);
}

template <int N>
Dual<N> atan(const Dual<N>& a) {
    return a.chain(std::atan(a.value), 1 / (1 + a.value * a.value));
}

template <int N>
Dual<N> tanh(const Dual<N>& a) {
    const double f = std::tanh(a.value);
    return a.chain(f, 1 - f * f);
}

template <int N>
Dual<N> pow(const Dual<N>& a, double exponent) {
    const double p = std::pow(a.value, exponent);
    return a.chain(p, a.value > 0 ? exponent * p / a.value : 0);
}

/// ln(1 + e^a), finite for every a.
template <int N>
Dual<N> softplus(const Dual<N>& a) {
    const double x = a.value;
    if (x > 30) return a;
    const double e = std::exp(x);
    return a.chain(e > 1e-3 ? std::log(1 + e) : std::log1p(e), e / (1 + e)); // to 1e-13 the same, and quicker
}

} // namespace ember::circuit
