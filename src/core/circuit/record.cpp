#include "record.h"

#include <math.h> // pchip.hpp of Boost 1.74 wants isnan in the global namespace

#include <boost/math/interpolators/pchip.hpp>

#include <algorithm>
#include <cmath>

namespace ember::circuit {

namespace {
std::size_t place(DeviceId d) {
    return static_cast<std::size_t>(d);
}
} // namespace

Probe nodeVolts(const System& system, Node n) {
    return {Probe::Kind::Unknown, system.row(n)};
}
Probe branchAmps(const System& system, DeviceId device, int winding) {
    return {Probe::Kind::Unknown, system.branchOf[place(device)] + winding};
}
Probe portAmps(const System& system, DeviceId device, int k) {
    return {Probe::Kind::PortAmps, system.portOf[place(device)] + k};
}
Probe portVolts(const System& system, DeviceId device, int k) {
    return {Probe::Kind::PortVolts, system.portOf[place(device)] + k};
}
Probe capacitorAmps(const System& system, DeviceId device, double farads) {
    return {Probe::Kind::StateRate, system.stateOf[place(device)], farads};
}

Recording::Recording(std::vector<Probe> wanted) : probes(std::move(wanted)), series(probes.size()) {
    constexpr std::size_t usual = 256; // instants of a period
    t.reserve(usual), w.reserve(usual);
    for (auto& s : series) s.reserve(usual);
    anyUnknown =
        std::any_of(probes.begin(), probes.end(), [](const Probe& p) { return p.kind == Probe::Kind::Unknown; });
}

void Recording::clear() {
    t.clear();
    w.clear();
    for (auto& s : series) s.clear();
}

void Recording::begin(const Stepper& stepper, const State& state) {
    sample(stepper, state, false, state.t);
    w.push_back(0);
}

/// Weights of the quadratic through t, t + gamma h, t + h.
void Recording::add(const Stepper& stepper, const State& state, double h) {
    constexpr double g = Stepper::gamma;
    constexpr double wMiddle = 1 / (6 * g * (1 - g)), wEnd = 0.5 - g * wMiddle, wStart = 1 - wMiddle - wEnd;
    w.back() += wStart * h;
    sample(stepper, state, true, state.t - (1 - g) * h);
    w.push_back(wMiddle * h);
    sample(stepper, state, false, state.t);
    w.push_back(wEnd * h);
}

void Recording::sample(const Stepper& stepper, const State& state, bool middle, double time) {
    t.push_back(time);
    if (anyUnknown) middle ? stepper.middleUnknowns(x) : stepper.endUnknowns(x);
    for (std::size_t k = 0; k < probes.size(); ++k) {
        const Probe& p = probes[k];
        double value = 0;
        switch (p.kind) {
        case Probe::Kind::Unknown: value = x[p.index]; break;
        case Probe::Kind::PortAmps:
            value =
                stepper.system().lawAmps(p.index, (middle ? stepper.middlePortAmps() : stepper.endPortAmps())[p.index],
                                         (middle ? stepper.middlePortVolts() : stepper.endPortVolts())[p.index]);
            break;
        case Probe::Kind::PortVolts:
            value = (middle ? stepper.middlePortVolts() : stepper.endPortVolts())[p.index];
            break;
        case Probe::Kind::StateRate: value = (middle ? stepper.middleRates() : state.dy)[p.index]; break;
        case Probe::Kind::State: value = state.y[p.index]; break;
        }
        series[k].push_back(p.scale * value);
    }
}

double Recording::mean(std::size_t probe) const {
    double sum = 0;
    for (std::size_t k = 0; k < t.size(); ++k) sum += w[k] * series[probe][k];
    return sum / (t.back() - t.front());
}

double Recording::meanProduct(std::size_t a, std::size_t b) const {
    double sum = 0;
    for (std::size_t k = 0; k < t.size(); ++k) sum += w[k] * series[a][k] * series[b][k];
    return sum / (t.back() - t.front());
}

double Recording::rms(std::size_t probe) const {
    return std::sqrt(std::max(0.0, meanProduct(probe, probe)));
}

double Recording::ripple(std::size_t probe) const {
    const double m = mean(probe);
    double sum = 0;
    for (std::size_t k = 0; k < t.size(); ++k) sum += w[k] * (series[probe][k] - m) * (series[probe][k] - m);
    return std::sqrt(std::max(0.0, sum / (t.back() - t.front())));
}

double Recording::most(std::size_t probe) const {
    return *std::max_element(series[probe].begin(), series[probe].end());
}
double Recording::least(std::size_t probe) const {
    return *std::min_element(series[probe].begin(), series[probe].end());
}

std::vector<double> Recording::evenly(std::size_t probe, double from, double to, std::size_t count) const {
    const boost::math::interpolators::pchip<std::vector<double>> curve(std::vector<double>{t},
                                                                       std::vector<double>{series[probe]});
    std::vector<double> out(count);
    for (std::size_t k = 0; k < count; ++k) {
        const double at = from + (to - from) * static_cast<double>(k) / static_cast<double>(count);
        out[k] = curve(std::clamp(at, t.front(), t.back()));
    }
    return out;
}

} // namespace ember::circuit
