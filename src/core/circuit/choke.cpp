#include "choke.h"

#include <cmath>

namespace ember::circuit {

namespace {

constexpr double beyond = gappedCoreShare;

bool saturates(const Choke& c) {
    return c.amps > 0 && c.idle > c.inductance * (1 + 1e-9);
}

/// With p the flux over the rated one, i = (rated / idle) (p + beyond p^9) and idle / L = 1 + 9 beyond p^8.
double ratedFlux(const Choke& c) {
    const double p = std::pow((c.idle / c.inductance - 1) / (9 * beyond), 1.0 / 8);
    return c.amps * c.idle / (p + beyond * std::pow(p, 9));
}

CoreLaw coreOf(const Choke& c) {
    return {beyond * ratedFlux(c) / c.idle};
}

} // namespace

Device chokeBetween(Node a, Node b, const Choke& c) {
    if (!saturates(c)) return Inductor{a, b, c.inductance, c.ohms};
    return Transformer{{{a, b, 1, c.ohms}}, c.idle, ratedFlux(c), coreOf(c), 0};
}

double chokeState(const Choke& c, double amps) {
    if (!saturates(c)) return amps;
    const double rated = ratedFlux(c);
    const CoreLaw law = coreOf(c);
    double most = std::abs(amps), least = 0; // the core's share has the same sign
    for (int k = 0; k < 60; ++k) {
        const double middle = (least + most) / 2, percent = 100 * middle * c.idle / rated;
        double drawn = 0, slope = 0;
        evaluate(law, 1, &percent, &drawn, &slope);
        (middle + drawn > std::abs(amps) ? most : least) = middle;
    }
    return std::copysign((least + most) / 2, amps);
}

double inductanceAt(const Choke& c, double amps) {
    if (!saturates(c)) return c.inductance;
    const double percentPerAmpere = 100 * c.idle / ratedFlux(c), percent = percentPerAmpere * chokeState(c, amps);
    double drawn = 0, slope = 0;
    evaluate(coreOf(c), 1, &percent, &drawn, &slope);
    return c.idle / (1 + slope * percentPerAmpere);
}

} // namespace ember::circuit
