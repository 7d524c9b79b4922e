#pragma once
// Current laws of the nonlinear devices: currents into their ports and the slopes, from one evaluation.
// Each stays finite for every voltage; each says where it stops being true.

#include <variant>

namespace ember::circuit {

/// Rectifier valve: i = emission K (v - threshold)^1.5 above the threshold, else 0 (Child 1911, Langmuir 1913).
/// Good from a few mA to the peak plate current; a real valve departs below 1 V (contact potential).
struct VacuumLaw {
    double perveance = 1e-3; ///< K [A/V^1.5], 1e-6 .. 1e-2; see perveanceFromDrop()
    double threshold = 0;    ///< [V]; of a mercury-vapour valve, whose arc takes nearly constant volts: 10 .. 12
    bool operator==(const VacuumLaw&) const = default;
};

/// K [A/V^1.5] from one published drop: `drop` [V, > 0] across one plate at `current` [A, > 0].
double perveanceFromDrop(double drop, double current);

/// Silicon junction: i = Is (exp(v / (N Vt)) - 1), Vt = 0.02585 V (Shockley 1949), continued as a straight line
/// above 1 kA so that an iteration which strays stays finite. The series resistance is a Resistor of its own.
struct DiodeLaw {
    double saturation = 4e-9; ///< Is [A]
    double ideality = 1.85;   ///< N, 1 .. 2
    bool operator==(const DiodeLaw&) const = default;
};
inline constexpr double thermalVolts = 0.02585; ///< kT/q at 300 K [V]

/// A grid's own current: ig = perveance s^1.5 with s = w ln(1 + exp((vg - onset) / w)), the 3/2 law (Langmuir 1913)
/// above the onset with the exponential tail of the electrons' initial velocities below it; w = 0: the 3/2 law alone.
/// The onset is negative by the contact potential of grid and cathode.
struct GridLaw {
    double perveance = 3e-4; ///< [A/V^1.5]
    double onset = 0;        ///< [V], -1.5 .. 0
    double width = 0;        ///< w [V]; 0.13 gives the tail of a cathode at 1000 K, 1.5/w = e/kT
    double gas = 0;          ///< ions of what gas is left, out of the grid: this share of the cathode's current
    bool operator==(const GridLaw&) const = default;
};

/// Triode, the phenomenological equation of N. Koren (1996): with vp plate and vg grid volts to the cathode,
///   E1 = (vp / kp) ln(1 + exp(kp (1/mu + (vg + contact) / sqrt(kvb + vp^2)))),  ip = E1^x / kg.
/// Fitted to published points; poor far outside them and with the grid more than a volt or two positive.
struct TriodeLaw {
    double mu = 20, exponent = 1.4, kp = 100, kvb = 300, kg = 1000;
    GridLaw grid;
    double contact = 0; ///< [V] added to the grid's volts: contact potential and what the points' scatter asks
    bool operator==(const TriodeLaw&) const = default;
};

/// Pentode and beam tetrode: Koren's (1996) space current E1^x / kg with the screen in the plate's place,
///   E1 = (vs / kp) ln(1 + exp(kp (1/mu + (vg + contact) / vs))),
/// divided between plate and screen (current division after Spangenberg 1948) by the share that reaches the plate,
///   reach = share ((1 - beam) (2/pi) atan(t) + beam tanh(t)),  t = vp / (knee + kneeRise E1),
///   ip = space * reach * (1 + slope vp),  is = space * (1 - reach).
/// `beam` sharpens the knee, `kneeRise` moves it up with the current. Below 0 V on the plate everything goes to the
/// screen. A factor 1 - exp(-vs / 1 V) takes the space current to nothing as the screen nears the cathode: without it a
/// positive grid would leave a jump there, and no circuit a solution.
struct PentodeLaw {
    double mu = 20, exponent = 1.4, kp = 100, kg = 500;
    double share = 0.9;    ///< of the space current that reaches a plate far above the knee, 0.6 .. 0.99
    double kneeVolts = 15; ///< [V], 2 .. 60
    double slope = 1e-4;   ///< [1/V] rise of plate current with plate volts; sets rp
    GridLaw grid{5e-4, 0, 0};
    double contact = 0;  ///< [V]
    double beam = 0;     ///< 0 .. 1
    double kneeRise = 0; ///< [V/V], 0 .. 5
    bool operator==(const PentodeLaw&) const = default;
};

/// A tungsten filament or a valve's heater: a conductor whose resistance follows its temperature,
///   R = Rhot (T/Thot)^1.2, radiated P = Phot (T/Thot)^4  (so steady V ~ T^2.6, R ~ V^0.46).
/// The temperature is a slow state, moved by the solver; see thermal.h.
struct IncandescentLaw {
    double ratedVolts = 230, ratedWatts = 60;
    double hotKelvin = 2700;    ///< at ratedVolts
    double timeConstant = 0.05; ///< [s] of small changes near the rated point: Cth = 4 P tau / T
    double kelvin = 293;        ///< now
    [[nodiscard]] double ohms() const;
    [[nodiscard]] double radiated() const; ///< [W] given off now, net of what 293 K surroundings return
    bool operator==(const IncandescentLaw&) const = default;
};

/// A contact with its resistance: i = emission v / ohms, so that `emission` 0 is open and 1 closed.
struct ContactLaw {
    double ohms = 0.05; ///< > 0
    bool operator==(const ContactLaw&) const = default;
};

/// A constant current that ends where there are no volts left to drive it, as a regulator's or a current source's does:
/// i = emission I (1 - exp(-v / knee)) for v > 0, else 0; from 40 knees on exactly I.
struct SinkLaw {
    double amps = 0.01;   ///< I >= 0
    double kneeVolts = 2; ///< > 0
    bool operator==(const SinkLaw&) const = default;
};

/// What an iron core draws beyond its constant inductance: i = I (p/100)^9, odd, with p the flux in percent of the
/// rated one; a straight line from twice the rated flux on, where the iron is air. Anhysteretic: the same up and down.
/// Of output iron and gapped chokes, I is a quarter of what the constant inductance carries at the rated flux: typical
/// of what is called full power, or rated current.
inline constexpr double gappedCoreShare = 0.25;
struct CoreLaw {
    double amps = 1e-3; ///< I at the rated flux, seen at the first winding
    bool operator==(const CoreLaw&) const = default;
};

/// A series regulator: from its input to its output flows what holds the output at `volts` above the reference, unless
/// too few volts are left from input to output, and never more than `limitAmps`. With e = volts - output and h = input
/// - output, i = least(e / outputOhms, (h - fixedDrop) / dropOhms, limitAmps), not below 0; `least` and `not below` are
/// rounded off over a thousandth of the limit, so that the slopes are continuous. What it draws itself is left out.
struct RegulatorLaw {
    double volts = 6.3;       ///< [V]
    double outputOhms = 0.01; ///< of its output while it regulates [ohm], > 0
    double fixedDrop = 0;     ///< below so many volts from input to output it carries nothing [V]
    double dropOhms = 0.5;    ///< and beyond it what it carries rises with this slope [ohm], > 0
    double limitAmps = 3;     ///< [A], > 0
    bool operator==(const RegulatorLaw&) const = default;
};

using PortLaw = std::variant<VacuumLaw, DiodeLaw, TriodeLaw, PentodeLaw, IncandescentLaw, ContactLaw, SinkLaw, CoreLaw,
                             RegulatorLaw>;

/// Number of ports: 1 for two-terminal devices; regulator: input, reference (2), both to the output; triode: grid,
/// plate (2); pentode: grid, screen, plate (3), all to the
/// cathode, in this order. A core's port is measured in percent of its flux.
int portCount(const PortLaw& law);

/// Currents `i` [A] into the ports at volts `v`, and `g` [S] = di/dv, row-major portCount x portCount.
/// `emission` 0 .. 1 scales what a heated cathode gives.
void evaluate(const PortLaw& law, double emission, const double* v, double* i, double* g);

} // namespace ember::circuit
