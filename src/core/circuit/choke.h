#pragma once
// A choke whose inductance falls with the current through it, as an iron core with an air gap makes it.

#include "netlist.h"

namespace ember::circuit {

/// As printed on it, and as measured without direct current.
struct Choke {
    double inductance = 10; ///< for small changes around the rated current [H]
    double idle = 0;        ///< without direct current [H]; not above `inductance`: the core never saturates
    double amps = 0.1;      ///< rated [A]; 0: the core never saturates
    double ohms = 200;      ///< copper
};
/// Of one of which only the rated inductance is known: a gapped choke loses about a tenth up to its rated current.
inline constexpr double idleShare = 1.1;
inline double idleOf(double idle, double inductance) {
    return idle > 0 ? idle : idleShare * inductance;
}

/// A winding on a core: `idle` in parallel with what a saturating core draws (CoreLaw), such that the inductance at the
/// rated current is the rated one. An Inductor where the core never saturates.
Device chokeBetween(Node a, Node b, const Choke& choke);
/// The solver's state of that device while `amps` flow: what its constant inductance carries [A].
double chokeState(const Choke& choke, double amps);
/// For small changes while `amps` flow [H].
double inductanceAt(const Choke& choke, double amps);

} // namespace ember::circuit
