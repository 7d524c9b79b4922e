#pragma once
// Iron parts as magnetic dipoles at their centres, along their core axes.

#include "assembly.h"

#include <span>

namespace ember::chassis {

struct Dipole {
    std::size_t part = 0;
    Vector centre = Vector::Zero(), axis = Vector::UnitX(); ///< axis of unit length
    double moment = 0;                                      ///< [A m2] RMS, at the rated flux
    double reach = 0.005;                                   ///< half the part's length along its axis [m]
};

/// Every part with a core axis and volt-amperes. The moment is a choice: 20 uT RMS on the axis at 0.1 m for 100 VA, as
/// (VA/100)^0.75 (surface over volume), times the part's stray share, at the flux that it is rated for. Measured iron
/// differs by a factor of two either way.
std::vector<Dipole> dipolesOf(const Chassis& chassis, const Assembly& assembly);

/// Flux density of a dipole at a point [T RMS]: B = mu0/4pi (3 (m.r) r - m) / r^3; held at its surface value nearer
/// than `reach`.
Vector fieldAt(const Dipole& dipole, const Vector& point);
/// Root of the sum of squares of all: they differ in phase and frequency.
double fieldAt(std::span<const Dipole> all, const Vector& point);

/// k = [3 (ma.r)(mb.r) - ma.mb] / r^3 with unit axes [1/m3], signed.
double coupling(const Dipole& a, const Dipole& b);
/// The same in dB of the two parts coaxial and touching.
double couplingDb(const Dipole& a, const Dipole& b);

/// Turning `b` about its face's normal: the angle to add [degrees, -90 .. 90] for the least coupling, and what it
/// gives.
struct BestAngle {
    double turn = 0, db = 0;
    bool null = false; ///< the coupling passes through zero there
};
BestAngle bestAngle(const Dipole& a, const Dipole& b, const Vector& normal);

} // namespace ember::chassis
