#include "stray_field.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis {

namespace {

constexpr double mu0Over4Pi = 1e-7; // [T m/A], to nine digits since 2019

double toDb(double k, const Dipole& a, const Dipole& b) {
    const double touching = a.reach + b.reach;
    return 20 * std::log10(std::max(1e-12, std::abs(k) * touching * touching * touching / 2));
}

} // namespace

std::vector<Dipole> dipolesOf(const Chassis& c, const Assembly& assembly) {
    std::vector<Dipole> out;
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (p.core == CoreAxis::None || !(p.voltAmperes > 0)) continue;
        const int direction = p.core == CoreAxis::Width ? 0 : p.core == CoreAxis::Depth ? 1 : 2;
        Dipole d;
        d.part = k;
        d.centre = assembly.centres[k];
        d.axis = frameOf(c, p).axes.col(direction);
        const double onAxis = 20e-6 * std::pow(p.voltAmperes / 100, 0.75) * p.stray;
        d.moment = onAxis * 1e-3 / (2 * mu0Over4Pi);
        for (const std::size_t b : assembly.of[k])
            d.reach = std::max(d.reach, assembly.bodies[b].solid.half[direction]);
        out.push_back(d);
    }
    return out;
}

Vector fieldAt(const Dipole& d, const Vector& point) {
    Vector r = point - d.centre;
    const double length = std::max(r.norm(), 1e-6), held = std::max(length, d.reach);
    r /= length;
    return mu0Over4Pi * d.moment * (3 * d.axis.dot(r) * r - d.axis) / (held * held * held);
}

double fieldAt(std::span<const Dipole> all, const Vector& point) {
    double square = 0;
    for (const Dipole& d : all) square += fieldAt(d, point).squaredNorm();
    return std::sqrt(square);
}

double coupling(const Dipole& a, const Dipole& b) {
    Vector r = b.centre - a.centre;
    const double length = std::max(1e-4, r.norm());
    r /= length;
    return (3 * a.axis.dot(r) * b.axis.dot(r) - a.axis.dot(b.axis)) / (length * length * length);
}

double couplingDb(const Dipole& a, const Dipole& b) {
    return toDb(coupling(a, b), a, b);
}

/// k is linear in b's axis, and turning moves the axis on a circle: k = p cos t + q sin t + s, solved in closed form.
BestAngle bestAngle(const Dipole& a, const Dipole& b, const Vector& normal) {
    const Vector along = normal * normal.dot(b.axis), across = b.axis - along, side = normal.cross(across);
    const auto k = [&](const Vector& axis) {
        Dipole turned = b;
        turned.axis = axis;
        return coupling(a, turned);
    };
    const double p = k(across), q = k(side), s = k(along);
    const double swing = std::hypot(p, q);
    BestAngle best;
    double t = 0;
    if (swing > std::abs(s) && swing > 0) {
        // Two angles null it; the one nearer to where the part stands is the smaller job.
        const double phase = std::atan2(q, p), offset = std::acos(std::clamp(-s / swing, -1.0, 1.0));
        const auto wrap = [](double x) { return std::remainder(x, 2 * std::numbers::pi); };
        const double one = wrap(phase + offset), two = wrap(phase - offset);
        t = std::abs(one) < std::abs(two) ? one : two;
        best.null = true;
    } else if (swing > 0) {
        t = std::remainder(std::atan2(q, p) + (s > 0 ? std::numbers::pi : 0), 2 * std::numbers::pi);
    }
    best.turn = t * 180 / std::numbers::pi;
    best.db = toDb(p * std::cos(t) + q * std::sin(t) + s, a, b);
    return best;
}

} // namespace ember::chassis
