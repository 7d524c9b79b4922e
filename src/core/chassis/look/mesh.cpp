#include "mesh.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis::look {

void Mesh::add(const Mesh& o) {
    const int base = static_cast<int>(points.size());
    points.insert(points.end(), o.points.begin(), o.points.end());
    normals.insert(normals.end(), o.normals.begin(), o.normals.end());
    for (const auto& f : o.faces) faces.push_back({f[0] + base, f[1] + base, f[2] + base});
}

namespace {

/// Edges and corners as a sphere's grid whose octants are moved to the corners, and the two sides that close it.
void roundedBox(Mesh& m, const Pose& pose, const Point& middle, const Point& half, float round) {
    constexpr int steps = 3, across = 2 * steps + 2; // pieces of a quarter turn; rings, the equator twice
    const Point inner = half - Point::Constant(round);
    const int around = 4 * (steps + 1), base = static_cast<int>(m.points.size());
    for (int j = 0; j < across; ++j) {
        const bool upper = j >= steps + 1;
        const int jj = upper ? j - 1 : j; // the equator twice
        const float latitude = std::numbers::pi_v<float> / 2 * (static_cast<float>(jj) / steps - 1);
        for (int i = 0; i < around; ++i) {
            const int quarter = i / (steps + 1), ii = i - quarter; // each quarter's end is the next one's start, twice
            const float longitude = std::numbers::pi_v<float> / 2 * static_cast<float>(ii) / steps;
            const Point n(std::cos(latitude) * std::cos(longitude), std::cos(latitude) * std::sin(longitude),
                          std::sin(latitude));
            const Point corner((quarter == 0 || quarter == 3 ? 1.F : -1.F) * inner.x(),
                               (quarter < 2 ? 1.F : -1.F) * inner.y(), (upper ? 1.F : -1.F) * inner.z());
            m.points.push_back(pose.at(middle + corner + round * n));
            m.normals.push_back(pose.axes * n);
        }
    }
    for (int j = 0; j + 1 < across; ++j)
        for (int i = 0; i < around; ++i) {
            const int next = (i + 1) % around, a = base + j * around + i, b = base + j * around + next;
            m.faces.push_back({a, b, b + around});
            m.faces.push_back({a, b + around, a + around});
        }
    for (const bool top : {false, true}) {
        const float z = top ? half.z() : -half.z();
        const Point u(2 * inner.x(), 0, 0), v(0, 2 * inner.y(), 0), corner = middle + Point(-inner.x(), -inner.y(), z);
        m.add(top ? plane(pose, corner, u, v) : plane(pose, corner, v, u));
    }
}

} // namespace

Mesh plane(const Pose& pose, const Point& corner, const Point& u, const Point& v, int cellsU, int cellsV) {
    Mesh m;
    const Point normal = pose.axes * u.cross(v).normalized();
    for (int j = 0; j <= cellsV; ++j)
        for (int i = 0; i <= cellsU; ++i) {
            const float a = static_cast<float>(i) / static_cast<float>(cellsU),
                        b = static_cast<float>(j) / static_cast<float>(cellsV);
            m.points.push_back(pose.at(corner + a * u + b * v));
            m.normals.push_back(normal);
        }
    for (int j = 0; j < cellsV; ++j)
        for (int i = 0; i < cellsU; ++i) {
            const int k = j * (cellsU + 1) + i, up = k + cellsU + 1;
            m.faces.push_back({k, k + 1, up + 1});
            m.faces.push_back({k, up + 1, up});
        }
    return m;
}

Mesh box(const Pose& pose, const Point& middle, const Point& half, float round) {
    Mesh m;
    round = std::min(round, 0.98F * half.minCoeff());
    if (round > 0) {
        roundedBox(m, pose, middle, half, round);
        return m;
    }
    for (int axis = 0; axis < 3; ++axis)
        for (const bool far : {false, true}) {
            Point u = Point::Zero(), v = Point::Zero(), corner = middle - half;
            u[(axis + 1) % 3] = 2 * half[(axis + 1) % 3], v[(axis + 2) % 3] = 2 * half[(axis + 2) % 3];
            if (far) corner[axis] += 2 * half[axis];
            m.add(far ? plane(pose, corner, u, v) : plane(pose, corner, v, u));
        }
    return m;
}

Mesh turned(const Pose& pose, float x, float y, const std::vector<std::array<float, 2>>& profile, int around) {
    Mesh m;
    const auto pieces = profile.size() - 1;
    std::vector<Eigen::Vector2f> across(pieces); // normals of the pieces, outward: radius and height
    for (std::size_t k = 0; k < pieces; ++k) {
        const Eigen::Vector2f along(profile[k + 1][0] - profile[k][0], profile[k + 1][1] - profile[k][1]);
        across[k] = Eigen::Vector2f(along.y(), -along.x()).normalized();
    }
    const auto ring = [&](const std::array<float, 2>& at, const Eigen::Vector2f& normal) {
        const int base = static_cast<int>(m.points.size());
        for (int i = 0; i < around; ++i) {
            const float turn = 2 * std::numbers::pi_v<float> * static_cast<float>(i) / static_cast<float>(around);
            const float c = std::cos(turn), s = std::sin(turn);
            m.points.push_back(pose.at({x + at[0] * c, y + at[0] * s, at[1]}));
            m.normals.push_back(pose.axes * Point(normal.x() * c, normal.x() * s, normal.y()));
        }
        return base;
    };
    const float sharp = std::cos(40 * std::numbers::pi_v<float> / 180);
    const auto normalAt = [&](std::size_t piece, bool end) {
        const std::size_t other = end ? piece + 1 : piece - 1;
        if ((end && other >= pieces) || (!end && piece == 0) || across[piece].dot(across[other]) < sharp)
            return across[piece];
        return Eigen::Vector2f((across[piece] + across[other]).normalized());
    };
    for (std::size_t k = 0; k < pieces; ++k) {
        const int low = ring(profile[k], normalAt(k, false)), high = ring(profile[k + 1], normalAt(k, true));
        for (int i = 0; i < around; ++i) {
            const int next = (i + 1) % around;
            m.faces.push_back({low + i, low + next, high + next});
            m.faces.push_back({low + i, high + next, high + i});
        }
    }
    return m;
}

} // namespace ember::chassis::look
