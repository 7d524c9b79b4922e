#include "thermal.h"

#include <algorithm>
#include <cmath>

namespace ember::circuit {

Filaments::Filaments(const System& system) {
    for (const PortDevice& d : system.ports)
        if (const auto* law = std::get_if<IncandescentLaw>(&d.law)) all.push_back({d.first, *law});
}

void Filaments::step(PortSolver& ports, double h) {
    for (Filament& f : all) {
        IncandescentLaw& law = f.law;
        const double volts = ports.volts()[f.port];
        const double heatCapacity = 4 * law.ratedWatts * law.timeConstant / law.hotKelvin; // [J/K]
        const auto rate = [&] { return (volts * volts / law.ohms() - law.radiated()) / heatCapacity; };
        // A cold lamp across the mains heats at 1e5 K/s: inner steps are limited to a hundredth of the temperature.
        for (double left = h; left > 0;) {
            const double now = rate();
            const double part = std::min(left, 0.01 * law.kelvin / std::max(1e-9, std::abs(now)));
            const double before = law.kelvin;
            law.kelvin += 0.5 * part * now;
            const double middle = rate();
            law.kelvin = std::max(293.0, before + part * middle);
            left -= part;
        }
        ports.setKelvin(f.port, law.kelvin);
    }
}

double Filaments::kelvin(const System& system, DeviceId device) const {
    const int port = system.portOf[static_cast<std::size_t>(device)];
    const auto at = std::find_if(all.begin(), all.end(), [&](const Filament& f) { return f.port == port; });
    return at == all.end() ? 293 : at->law.kelvin;
}

} // namespace ember::circuit
