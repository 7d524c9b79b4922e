#include "laws.h"

#include "dual.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::circuit {

namespace {

struct Branch {
    double current, slope;
};

Branch childLangmuir(double perveance, double v) {
    if (v <= 0) return {0, 0};
    const double root = std::sqrt(v);
    return {perveance * v * root, 1.5 * perveance * root};
}

Branch gridCurrent(const GridLaw& law, double emission, double v) {
    const double over = v - law.onset;
    if (law.width <= 0 || over > 30 * law.width) return childLangmuir(law.perveance * emission, over);
    if (over < -30 * law.width) return {0, 0}; // below 1e-24 of what it is at the onset
    const double e = std::exp(over / law.width);
    const Branch b = childLangmuir(law.perveance * emission, law.width * std::log1p(e));
    return {b.current, b.slope * e / (1 + e)};
}

Branch shockley(const DiodeLaw& d, double v) {
    const double nvt = d.ideality * thermalVolts;
    // Far in reverse the exponential is below 2e-9 of the saturation current: nothing is lost, and the port rests.
    if (v < -20 * nvt) return {-d.saturation, 0};
    const double knee =
        v < 10 * nvt ? 10 * nvt : nvt * std::log(1e3 / d.saturation); // a straight line takes over there
    if (v > knee) {
        const double slope = 1e3 / nvt;
        return {1e3 + (v - knee) * slope, slope};
    }
    const double e = std::exp(v / nvt);
    return {d.saturation * (e - 1), d.saturation * e / nvt};
}

void triode(const TriodeLaw& t, double emission, const double* v, double* i, double* g) {
    using D = Dual<2>;
    const auto grid = gridCurrent(t.grid, emission, v[0]);
    i[0] = grid.current;
    g[0] = grid.slope;
    g[1] = 0;
    i[1] = g[2] = g[3] = 0;
    if (v[1] <= 0 || emission <= 0) return;
    const D vg = D::variable(v[0], 0) + D(t.contact);
    const D vp = D::variable(v[1], 1);
    const D e1 = vp / D(t.kp) * softplus(D(t.kp) * (D(1 / t.mu) + vg / sqrt(D(t.kvb) + vp * vp)));
    const D ip = pow(e1, t.exponent) * D(emission / t.kg);
    i[1] = ip.value;
    g[2] = ip.slope[0];
    g[3] = ip.slope[1];
    i[0] -= t.grid.gas * i[1];
    for (int k = 0; k < 2; ++k) g[k] -= t.grid.gas * g[2 + k];
}

void pentode(const PentodeLaw& p, double emission, const double* v, double* i, double* g) {
    using D = Dual<3>;
    const auto grid = gridCurrent(p.grid, emission, v[0]);
    i[0] = grid.current;
    g[0] = grid.slope;
    for (int k = 1; k < 9; ++k) g[k] = 0;
    i[1] = i[2] = 0;
    if (v[1] <= 0 || emission <= 0) return;
    const D vg = D::variable(v[0], 0) + D(p.contact);
    const D vs = D::variable(v[1], 1);
    const D vp = D::variable(v[2], 2);
    const D e1 = vs / D(p.kp) * softplus(D(p.kp) * (D(1 / p.mu) + vg / vs));
    D space = pow(e1, p.exponent) * D(emission / p.kg);
    if (v[1] < 40) space = space * vs.chain(1 - std::exp(-v[1]), std::exp(-v[1])); // beyond, 1 to the last digit
    D reach(0);
    D rise(1);
    if (v[2] > 0) {
        const D t = vp / (D(p.kneeVolts) + D(p.kneeRise) * e1);
        reach = D(p.share * (1 - p.beam) * 2 / std::numbers::pi) * atan(t);
        if (p.beam > 0) reach = reach + D(p.share * p.beam) * tanh(t);
        rise = D(1) + D(p.slope) * vp;
    }
    const D plate = space * reach * rise;
    const D screen = space * (D(1) - reach);
    i[1] = screen.value;
    i[2] = plate.value;
    for (int k = 0; k < 3; ++k) {
        g[3 + k] = screen.slope[static_cast<std::size_t>(k)];
        g[6 + k] = plate.slope[static_cast<std::size_t>(k)];
        g[k] -= p.grid.gas * (g[3 + k] + g[6 + k]);
    }
    i[0] -= p.grid.gas * (i[1] + i[2]);
}

/// A value and its slopes by the two ports' volts.
struct Sloped {
    double value, byInput, byReference;
};
/// The lesser of two, rounded off over about `width`.
Sloped lesser(const Sloped& a, const Sloped& b, double width) {
    const double apart = a.value - b.value, root = std::sqrt(apart * apart + width * width),
                 ofA = (1 - apart / root) / 2;
    return {(a.value + b.value - root) / 2, ofA * a.byInput + (1 - ofA) * b.byInput,
            ofA * a.byReference + (1 - ofA) * b.byReference};
}

/// Ports: input to output, reference to output.
void regulator(const RegulatorLaw& law, const double* v, double* i, double* g) {
    const double width = 1e-3 * law.limitAmps;
    const Sloped asked{(law.volts + v[1]) / law.outputOhms, 0, 1 / law.outputOhms},
        possible{(v[0] - law.fixedDrop) / law.dropOhms, 1 / law.dropOhms, 0}, limit{law.limitAmps, 0, 0};
    const Sloped least = lesser(lesser(asked, possible, width), limit, width);
    const Sloped negative = lesser({-least.value, -least.byInput, -least.byReference}, {0, 0, 0}, width);
    i[0] = -negative.value;
    i[1] = 0;
    g[0] = -negative.byInput;
    g[1] = -negative.byReference;
    g[2] = g[3] = 0;
}

} // namespace

double perveanceFromDrop(double drop, double current) {
    return current / (drop * std::sqrt(drop));
}

double IncandescentLaw::ohms() const {
    return ratedVolts * ratedVolts / ratedWatts * std::pow(kelvin / hotKelvin, 1.2);
}

double IncandescentLaw::radiated() const {
    const auto fourth = [](double x) { return x * x * x * x; };
    return ratedWatts * (fourth(kelvin / hotKelvin) - fourth(293.0 / hotKelvin));
}

int portCount(const PortLaw& law) {
    if (std::holds_alternative<TriodeLaw>(law) || std::holds_alternative<RegulatorLaw>(law)) return 2;
    return std::holds_alternative<PentodeLaw>(law) ? 3 : 1;
}

void evaluate(const PortLaw& law, double emission, const double* v, double* i, double* g) {
    if (const auto* vacuum = std::get_if<VacuumLaw>(&law)) {
        const auto b = childLangmuir(vacuum->perveance * emission, *v - vacuum->threshold);
        *i = b.current;
        *g = b.slope;
    } else if (const auto* diode = std::get_if<DiodeLaw>(&law)) {
        const auto b = shockley(*diode, *v);
        *i = b.current;
        *g = b.slope;
    } else if (const auto* t = std::get_if<TriodeLaw>(&law)) {
        triode(*t, emission, v, i, g);
    } else if (const auto* p = std::get_if<PentodeLaw>(&law)) {
        pentode(*p, emission, v, i, g);
    } else if (const auto* contact = std::get_if<ContactLaw>(&law)) {
        *g = emission / contact->ohms;
        *i = *g * *v;
    } else if (const auto* core = std::get_if<CoreLaw>(&law)) {
        constexpr double straight = 2; // times the rated flux
        const double share = *v / 100, within = std::clamp(share, -straight, straight), square = within * within;
        const double eighth = square * square * square * square;
        *i = core->amps * eighth * (within + 9 * (share - within));
        *g = core->amps * 9 * eighth / 100;
    } else if (const auto* reg = std::get_if<RegulatorLaw>(&law)) {
        regulator(*reg, v, i, g);
    } else if (const auto* sink = std::get_if<SinkLaw>(&law)) {
        const double knees = *v / sink->kneeVolts;
        const double rest = knees > 40 ? 0 : std::exp(-std::max(0.0, knees)); // of the current, that is missing
        *i = emission * sink->amps * (1 - rest);
        *g = knees > 0 ? emission * sink->amps * rest / sink->kneeVolts : 0;
    } else {
        *g = 1 / std::get<IncandescentLaw>(law).ohms();
        *i = *g * *v;
    }
}

} // namespace ember::circuit
