#include "heater.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

namespace {

double fourth(double x) {
    return x * x * x * x;
}
constexpr double ambient = 293 / heaterHotKelvin;

/// d(tau)/ds of the reduced temperature tau = T/Thot with s in units of the heater's time constant, `v` volts over
/// rated.
double rate(double tau, double v) {
    return 0.25 * (v * v * std::pow(tau, -1.2) - fourth(tau) + fourth(ambient));
}

std::vector<double> follow(double tau, double v, double ds, std::size_t count, double& end) {
    std::vector<double> out;
    for (std::size_t k = 0; k < count; ++k) {
        out.push_back(emissionAt(tau * heaterHotKelvin));
        for (int inner = 0; inner < 4; ++inner) { // midpoint rule; ds is far below the time constant
            const double h = ds / 4, half = tau + 0.5 * h * rate(tau, v);
            tau += h * rate(half, v);
        }
    }
    end = tau;
    return out;
}

/// Reduced time from cold to half emission at rated volts.
double reducedHalfTime() {
    static const double s = [] {
        double tau = ambient, t = 0;
        constexpr double ds = 1e-4;
        while (emissionAt(tau * heaterHotKelvin) < 0.5) {
            tau += ds * rate(tau, 1);
            t += ds;
        }
        return t;
    }();
    return s;
}

double at(const std::vector<double>& curve, double seconds, double step) {
    const double x = std::clamp(seconds / step, 0.0, static_cast<double>(curve.size() - 1));
    const auto k = std::min(static_cast<std::size_t>(x), curve.size() - 2);
    return curve[k] + (curve[k + 1] - curve[k]) * (x - static_cast<double>(k));
}

} // namespace

circuit::IncandescentLaw heaterLaw(const Heater& h, int count) {
    return {h.volts, h.volts * h.amps * count, heaterHotKelvin, h.warmUp / reducedHalfTime(), 293};
}

circuit::IncandescentLaw limiterLaw(const Build& b, const Catalogue& catalogue) {
    circuit::IncandescentLaw lamp = catalogue.lamp(b.limiter.volts, b.limiter.watts).law();
    lamp.ratedVolts = b.limiter.volts;
    lamp.ratedWatts = b.limiter.watts;
    return lamp;
}

double emissionAt(double kelvin) {
    constexpr double exponent = 1.0 / (8.617e-5 * 1050), reserve = 10;
    const double available = reserve * std::exp(-exponent * (heaterHotKelvin / kelvin - 1));
    return (1 - std::exp(-available)) / (1 - std::exp(-reserve));
}

WarmUp::WarmUp(const Heater& heater, double share) {
    const double constant = heater.warmUp / reducedHalfTime();
    const auto count = static_cast<std::size_t>(60 / step);
    double end = ambient, ignored = 0;
    heating = follow(ambient, share, step / constant, count, end);
    cooling = follow(end, 0, step / constant, count, ignored);
}

double WarmUp::emission(double seconds) const {
    return at(heating, seconds, step);
}
double WarmUp::emissionCooling(double seconds) const {
    return at(cooling, seconds, step);
}

} // namespace ember::plan
