#pragma once
// Boxes and cylinders anywhere in space, and how far apart they are.

#include <Eigen/Dense>

namespace ember::chassis {

using Vector = Eigen::Vector3d;

/// A box or a cylinder (its axis is the third direction), in chassis coordinates [m].
struct Solid {
    bool cylinder = false;
    Vector centre = Vector::Zero();
    Eigen::Matrix3d axes = Eigen::Matrix3d::Identity(); ///< columns: its own directions, of unit length
    Vector half = Vector::Constant(0.01);               ///< half sides; a cylinder's radius in the first two

    /// The point farthest along `direction`.
    [[nodiscard]] Vector support(const Vector& direction) const;
    [[nodiscard]] bool contains(const Vector& point) const;
    [[nodiscard]] double lowest() const { return support(-Vector::UnitZ()).z(); }
    [[nodiscard]] double highest() const { return support(Vector::UnitZ()).z(); }
    [[nodiscard]] double reach() const { return half.norm(); } ///< no point is farther from the centre
    [[nodiscard]] double volume() const;
};

/// Least distance between two convex solids [m], 0 when they touch or overlap: the algorithm of Gilbert, Johnson and
/// Keerthi (1988), to 1e-7 m.
double distance(const Solid& a, const Solid& b);

} // namespace ember::chassis
