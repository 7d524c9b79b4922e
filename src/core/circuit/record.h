#pragma once
// What a run keeps: chosen quantities at every stage, with the weights that integrate them exactly to third order.

#include "stepper.h"

#include <span>

namespace ember::circuit {

/// One quantity to keep: `scale` times a node's volts, a branch current, a port's current or volts, or a state's rate.
struct Probe {
    enum class Kind { Unknown, PortAmps, PortVolts, StateRate, State } kind = Kind::Unknown;
    int index = 0;
    double scale = 1;
};

Probe nodeVolts(const System& system, Node n);
/// Current through an inductor, a voltage source or a transformer's winding (a to b) [A].
Probe branchAmps(const System& system, DeviceId device, int winding = 0);
/// Current into port `k` of a nonlinear device [A].
Probe portAmps(const System& system, DeviceId device, int k = 0);
Probe portVolts(const System& system, DeviceId device, int k = 0);
/// Current of a capacitor of `farads` [A].
Probe capacitorAmps(const System& system, DeviceId device, double farads);

class Recording {
  public:
    explicit Recording(std::vector<Probe> wanted);

    void clear();
    void begin(const Stepper& stepper, const State& state);
    void add(const Stepper& stepper, const State& state, double h);

    [[nodiscard]] const std::vector<double>& times() const { return t; }
    [[nodiscard]] const std::vector<double>& of(std::size_t probe) const { return series[probe]; }
    [[nodiscard]] double mean(std::size_t probe) const;
    [[nodiscard]] double rms(std::size_t probe) const;
    /// RMS about the mean.
    [[nodiscard]] double ripple(std::size_t probe) const;
    /// Mean of the product of two probes: a power, when they are volts and amps.
    [[nodiscard]] double meanProduct(std::size_t a, std::size_t b) const;
    [[nodiscard]] double most(std::size_t probe) const;
    [[nodiscard]] double least(std::size_t probe) const;
    /// The series at `count` equally spaced instants over [from, to), cubic between samples.
    [[nodiscard]] std::vector<double> evenly(std::size_t probe, double from, double to, std::size_t count) const;

  private:
    void sample(const Stepper& stepper, const State& state, bool middle, double time);

    std::vector<Probe> probes;
    std::vector<double> t, w;
    std::vector<std::vector<double>> series;
    Unknowns x;
    bool anyUnknown = false;
};

} // namespace ember::circuit
