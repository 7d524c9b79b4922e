#pragma once
// Temperatures of incandescent devices through time: Cth dT/dt = v i - radiated, with Cth = 4 P tau / T at the rated
// point.

#include "ports.h"

namespace ember::circuit {

class Filaments {
  public:
    explicit Filaments(const System& system);

    /// After a step of `h` [s] that ended at the ports' present volts and currents: moves every temperature and hands
    /// it to the ports. Split from the electrical step: right where h is far below the time constant, as on the mains'
    /// ladder.
    void step(PortSolver& ports, double h);

    [[nodiscard]] double kelvin(const System& system, DeviceId device) const;

  private:
    struct Filament {
        int port;
        IncandescentLaw law;
    };
    std::vector<Filament> all;
};

} // namespace ember::circuit
