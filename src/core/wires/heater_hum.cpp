#include "heater_hum.h"

#include <cmath>
#include <numbers>

namespace ember::wires {

double unbalance(HeaterReference r) {
    switch (r) {
    case HeaterReference::CentreTap: return 0.04;
    case HeaterReference::Resistors: return 0.05;
    case HeaterReference::Potentiometer: return 0.01;
    case HeaterReference::OneSide:
    case HeaterReference::Floating: break;
    }
    return 1;
}

std::complex<double> heaterMiddle(const HeaterWinding& w, const plan::HeaterFeedFigures* feed, std::size_t k) {
    if (!w.rectified()) return k == 0 ? unbalance(w.reference) * (feed ? feed->out : w.volts) / 2 : 0;
    if (!feed || k >= feed->ripple.size()) return 0;
    return unbalance(w.reference) * feed->ripple[k] / 2.0;
}

double filamentSecondHarmonic(const circuit::PortLaw& law, const plan::ValvePoint& at, double filamentVolts) {
    const bool pentode = std::holds_alternative<circuit::PentodeLaw>(law);
    double slope = 0;
    const auto amps = [&](double shift) { // of the plate, with every electrode moved against the cathode
        double i[3] = {}, g[9] = {};
        const double grid = at.grid - at.cathode + shift, plate = at.plate - at.cathode + shift;
        const double triode[2] = {grid, plate}, five[3] = {grid, at.screen - at.cathode + shift, plate};
        circuit::evaluate(law, 1, pentode ? five : triode, i, g);
        slope = pentode ? g[6] : g[2];
        return pentode ? i[2] : i[1];
    };
    constexpr double step = 0.5;
    const double ends = amps(step) + amps(-step),
                 bend = (ends - 2 * amps(0)) / (step * step); // the slope is the last's
    return slope > 0 ? filamentVolts * filamentVolts / 24 * bend / slope / std::numbers::sqrt2 : 0;
}

} // namespace ember::wires
