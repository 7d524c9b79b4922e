#include "solid.h"

#include <array>
#include <cmath>
#include <limits>
#include <numbers>

namespace ember::chassis {

Vector Solid::support(const Vector& direction) const {
    const Vector d = axes.transpose() * direction;
    Vector local;
    if (cylinder) {
        const double across = std::hypot(d.x(), d.y());
        local.x() = across > 0 ? half.x() * d.x() / across : 0;
        local.y() = across > 0 ? half.x() * d.y() / across : 0;
    } else {
        local.x() = std::copysign(half.x(), d.x());
        local.y() = std::copysign(half.y(), d.y());
    }
    local.z() = std::copysign(half.z(), d.z());
    return centre + axes * local;
}

bool Solid::contains(const Vector& point) const {
    const Vector p = axes.transpose() * (point - centre);
    if (std::abs(p.z()) > half.z()) return false;
    if (cylinder) return std::hypot(p.x(), p.y()) <= half.x();
    return std::abs(p.x()) <= half.x() && std::abs(p.y()) <= half.y();
}

double Solid::volume() const {
    const double base = cylinder ? std::numbers::pi * half.x() * half.x() : 4 * half.x() * half.y();
    return base * 2 * half.z();
}

namespace {

/// Up to four points of the difference of two solids.
struct Simplex {
    std::array<Vector, 4> points;
    int count = 0;
};

/// Nearest point to the origin on the segment, triangle or tetrahedron; the simplex is cut down to the part that holds
/// it.
Vector nearestOnSegment(Simplex& s) {
    const Vector a = s.points[0], ab = s.points[1] - a;
    const double t = -a.dot(ab), length = ab.squaredNorm();
    if (t <= 0 || length == 0) {
        s.count = 1;
        return a;
    }
    if (t >= length) {
        s.points[0] = s.points[1];
        s.count = 1;
        return s.points[0];
    }
    return a + t / length * ab;
}

/// Regions of a triangle after Ericson, Real-Time Collision Detection (2005), 5.1.5.
Vector nearestOnTriangle(Simplex& s) {
    const Vector a = s.points[0], b = s.points[1], c = s.points[2];
    const Vector ab = b - a, ac = c - a;
    const double d1 = -ab.dot(a), d2 = -ac.dot(a), d3 = -ab.dot(b), d4 = -ac.dot(b), d5 = -ab.dot(c), d6 = -ac.dot(c);
    const auto keep = [&](std::initializer_list<Vector> points) {
        s.count = 0;
        for (const Vector& p : points) s.points[static_cast<std::size_t>(s.count++)] = p;
    };
    if (d1 <= 0 && d2 <= 0) {
        keep({a});
        return a;
    }
    if (d3 >= 0 && d4 <= d3) {
        keep({b});
        return b;
    }
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) {
        keep({a, b});
        return nearestOnSegment(s);
    }
    if (d6 >= 0 && d5 <= d6) {
        keep({c});
        return c;
    }
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) {
        keep({a, c});
        return nearestOnSegment(s);
    }
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        keep({b, c});
        return nearestOnSegment(s);
    }
    const double sum = va + vb + vc;
    if (sum <= 0) { // flat: a sliver without area
        keep({a, b});
        return nearestOnSegment(s);
    }
    return a + ab * (vb / sum) + ac * (vc / sum);
}

Vector nearestOnTetrahedron(Simplex& s) {
    const std::array<Vector, 4> p = s.points;
    static constexpr std::array<std::array<int, 4>, 4> faces{{{0, 1, 2, 3}, {0, 2, 3, 1}, {0, 3, 1, 2}, {1, 3, 2, 0}}};
    double best = std::numeric_limits<double>::infinity();
    Vector nearest = Vector::Zero();
    Simplex found = s;
    bool outside = false;
    for (const auto& f : faces) {
        const auto at = [&](int k) { return p[static_cast<std::size_t>(f[static_cast<std::size_t>(k)])]; };
        const Vector normal = (at(1) - at(0)).cross(at(2) - at(0));
        const double origin = -normal.dot(at(0)), other = normal.dot(at(3) - at(0));
        if (origin * other > 0) continue; // the origin lies on the inner side
        outside = true;
        Simplex face{{at(0), at(1), at(2), Vector::Zero()}, 3};
        const Vector n = nearestOnTriangle(face);
        if (n.squaredNorm() < best) {
            best = n.squaredNorm();
            nearest = n;
            found = face;
        }
    }
    if (!outside) return Vector::Zero();
    s = found;
    return nearest;
}

Vector nearest(Simplex& s) {
    switch (s.count) {
    case 1: return s.points[0];
    case 2: return nearestOnSegment(s);
    case 3: return nearestOnTriangle(s);
    default: return nearestOnTetrahedron(s);
    }
}

} // namespace

double distance(const Solid& a, const Solid& b) {
    Simplex s;
    Vector v = a.centre - b.centre;
    if (v.squaredNorm() == 0) return 0;
    for (int pass = 0; pass < 64; ++pass) {
        const Vector w = a.support(-v) - b.support(v);
        const double length = v.norm();
        // v points to the nearest point found; w bounds the distance from below.
        if (s.count > 0 && length - v.dot(w) / length < 1e-8) return length;
        for (int k = 0; k < s.count; ++k)
            if ((s.points[static_cast<std::size_t>(k)] - w).squaredNorm() < 1e-20) return length;
        s.points[static_cast<std::size_t>(s.count++)] = w;
        v = nearest(s);
        if (s.count == 4 || v.norm() < 1e-9) return 0;
    }
    return v.norm();
}

} // namespace ember::chassis
