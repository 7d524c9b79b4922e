#pragma once
// Surfaces as triangles: what the solid picture is made of. Lengths in metres, in chassis coordinates.

#include <Eigen/Dense>

#include <array>
#include <vector>

namespace ember::chassis::look {

using Point = Eigen::Vector3f;

struct Mesh {
    std::vector<Point> points, normals;    ///< as many of each; normals of unit length, outward
    std::vector<std::array<int, 3>> faces; ///< counter-clockwise seen from outside
    /// Another surface beside this one.
    void add(const Mesh& other);
};

/// Where a shape stands: its own directions as columns, and its origin.
struct Pose {
    Eigen::Matrix3f axes = Eigen::Matrix3f::Identity();
    Point origin = Point::Zero();
    [[nodiscard]] Point at(const Point& own) const { return origin + axes * own; }
};

/// A rectangle from `corner` along `u` and `v`, seen from where u x v points, in so many cells each way: for light that
/// changes over it.
Mesh plane(const Pose& pose, const Point& corner, const Point& u, const Point& v, int cellsU = 1, int cellsV = 1);
/// A box about its middle, its edges rounded by `round`.
Mesh box(const Pose& pose, const Point& middle, const Point& half, float round = 0);
/// A profile turned about the third direction through (x, y): pairs of radius and height, from below to above. Edges of
/// more than 40 degrees between two pieces stay sharp.
Mesh turned(const Pose& pose, float x, float y, const std::vector<std::array<float, 2>>& profile, int around = 32);

} // namespace ember::chassis::look
