#include "induction.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::wires {

namespace {
constexpr double mu0Over4Pi = 1e-7; // [V s/A m]
}

Vector potentialOf(const chassis::Dipole& d, const Vector& at) {
    const Vector r = at - d.centre;
    const double apart = std::max(r.norm(), d.reach);
    return mu0Over4Pi * d.moment * d.axis.cross(r) / (apart * apart * apart);
}

Vector potentialOf(const Vector& from, const Vector& to, const Vector& at) {
    const Vector way = to - from;
    const double length = way.norm();
    if (length < 1e-9) return Vector::Zero();
    constexpr double thick = 5e-4; // half a wire: nothing is nearer to its axis [m]
    const double sum = std::max((at - from).norm() + (at - to).norm(), std::sqrt(length * length + 4 * thick * thick));
    return mu0Over4Pi * way / length * std::log((sum + length) / (sum - length));
}

Vector FieldSource::at(const Vector& point) const {
    Vector a = Vector::Zero();
    for (const auto& d : dipoles) a += potentialOf(d, point);
    for (const auto& [from, to] : wires) a += potentialOf(from, to, point);
    for (const LoopGroup& g : pairs) a += potentialOf(g, point);
    return a;
}

Vector potentialOf(const LoopGroup& g, const Vector& at) {
    const auto far = [&](const Vector& r, const Vector& moment) -> Vector {
        const double apart = r.norm();
        return mu0Over4Pi * moment.cross(r) / (apart * apart * apart);
    };
    if ((at - g.centre).squaredNorm() > 25 * g.radius * g.radius) return far(at - g.centre, g.moment);
    Vector sum = Vector::Zero();
    for (const PairPiece& p : g.loops) {
        const Vector r = at - p.centre;
        if (r.squaredNorm() > 25 * (p.along.squaredNorm() + p.across.squaredNorm()))
            sum += far(r, p.moment);
        else // its two wires one by one
            sum += potentialOf(p.centre + p.across - p.along, p.centre + p.across + p.along, at) +
                   potentialOf(p.centre - p.across + p.along, p.centre - p.across - p.along, at);
    }
    return sum;
}

std::vector<LoopGroup> pairLoops(const std::vector<Vector>& path, double spacing, double pitch) {
    std::vector<LoopGroup> out;
    constexpr double sideBySide = 0.02; // a group's length of a straight pair [m]
    const double group = pitch > 0 ? pitch : sideBySide;
    constexpr int pieces = 6; // of a group
    double along = 0;
    for (std::size_t k = 0; k + 1 < path.size(); ++k) {
        const Vector way = path[k + 1] - path[k];
        const double length = way.norm();
        if (length < 1e-6) continue;
        Vector side = way.cross(Vector::UnitZ());
        if (side.norm() < 1e-6) side = Vector::UnitX();
        side.normalize();
        const Vector ahead = way / length, up = ahead.cross(side);
        const int groups = std::max(1, static_cast<int>(std::round(length / group)));
        for (int n = 0; n < groups; ++n) {
            LoopGroup g;
            g.centre = path[k] + way * (n + 0.5) / groups;
            g.radius = 0.5 * length / groups;
            const double piece = length / groups / pieces;
            for (int m = 0; m < pieces; ++m) {
                const double at = n * length / groups + (m + 0.5) * piece;
                const double turn = pitch > 0 ? 2 * std::numbers::pi * (along + at) / pitch : 0;
                const Vector across = std::cos(turn) * side + std::sin(turn) * up;
                g.loops.push_back({path[k] + ahead * at, piece * spacing * across.cross(ahead), 0.5 * piece * ahead,
                                   0.5 * spacing * across});
                g.moment += g.loops.back().moment;
            }
            out.push_back(std::move(g));
        }
        along += length;
    }
    return out;
}

double linkage(const FieldSource& s, const std::vector<Vector>& path) {
    double sum = 0;
    for (std::size_t k = 0; k + 1 < path.size(); ++k) {
        const Vector way = path[k + 1] - path[k];
        const int steps = std::clamp(static_cast<int>(std::ceil(way.norm() / 0.01)), 1, 200);
        // Gauss's two points in each piece.
        for (int n = 0; n < steps; ++n)
            for (const double x : {0.5 - 0.5 / std::sqrt(3.0), 0.5 + 0.5 / std::sqrt(3.0)})
                sum += 0.5 * s.at(path[k] + way * (n + x) / steps).dot(way) / steps;
    }
    return sum;
}

std::complex<double> emfAt(const FieldSource& s, double linkage, std::size_t h, double mainsHertz) {
    if (h >= s.amplitude.size()) return 0;
    return std::complex<double>(0, -2 * std::numbers::pi * mainsHertz * static_cast<double>(h + 1)) * linkage *
           s.amplitude[h];
}

double enclosedArea(const std::vector<Vector>& polygon) {
    Vector sum = Vector::Zero();
    for (std::size_t k = 0; k < polygon.size(); ++k) sum += polygon[k].cross(polygon[(k + 1) % polygon.size()]);
    return 0.5 * sum.norm();
}

} // namespace ember::wires
