#pragma once
// What alternating fields induce along a wire: the line integral of the vector potential, so that the sum round any
// closed way is the flux through it.

#include "harness.h"

#include "core/chassis/stray_field.h"

namespace ember::wires {

/// Vector potential [V s/m = T m] of a dipole: mu0/4pi m x r / r^3, held at its surface value nearer than its reach.
Vector potentialOf(const chassis::Dipole& dipole, const Vector& at);
/// The same for 1 A from `from` to `to` along a straight wire: mu0/4pi u ln((R1 + R2 + l) / (R1 + R2 - l)).
Vector potentialOf(const Vector& from, const Vector& to, const Vector& at);

/// A short piece of a pair, 1 A out and back: a small loop.
struct PairPiece {
    Vector centre, moment; ///< [m], [A m2]
    Vector along, across;  ///< from the centre to an end; to the first wire [m]
};
/// Pieces that stand together; seen from far they are one loop.
struct LoopGroup {
    Vector centre = Vector::Zero(), moment = Vector::Zero(); ///< of all together
    double radius = 0;                                       ///< of the group [m]
    std::vector<PairPiece> loops;
};
Vector potentialOf(const LoopGroup& group, const Vector& at);

/// A source of alternating field with its current, or its moment, at each harmonic of the mains.
struct FieldSource {
    bool heater = false;
    std::vector<chassis::Dipole> dipoles;         ///< of moment 1 in full
    std::vector<std::pair<Vector, Vector>> wires; ///< straight pieces that carry its current
    std::vector<LoopGroup> pairs;
    plan::Phasors amplitude;                            ///< RMS: of the moment's share, or amperes
    [[nodiscard]] Vector at(const Vector& point) const; ///< of amplitude 1
};

/// A pair with its current out and back as a row of small loops, `spacing` between the middles of its wires [m];
/// twisted with its pitch, a group for each turn, or side by side (pitch 0).
std::vector<LoopGroup> pairLoops(const std::vector<Vector>& path, double spacing, double pitch);
inline constexpr double twistedSpacing = 0.002, straightSpacing = 0.004; ///< [m]

/// Integral along a path of a source's potential, of amplitude 1 [V s].
double linkage(const FieldSource& source, const std::vector<Vector>& path);
/// EMF [V RMS] at each harmonic along a path with this linkage: -j w times it times the amplitude.
std::complex<double> emfAt(const FieldSource& source, double linkage, std::size_t harmonic, double mainsHertz);

/// Area that a closed polygon encloses [m2]: half the norm of the sum of cross products.
double enclosedArea(const std::vector<Vector>& polygon);

} // namespace ember::wires
