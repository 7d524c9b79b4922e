#include "wire_path.h"

#include "wire_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::wires {

namespace {

constexpr double near = 1e-3; // [m]

std::vector<std::string> withItsPair(const Run& run) {
    std::vector<std::string> ids{run.wire.id};
    if (run.pair()) ids.push_back(run.twistedWith);
    return ids;
}

} // namespace

std::vector<Vector> movePiece(const std::vector<Vector>& path, std::size_t piece, double share, double dx, double dy) {
    if (piece + 1 >= path.size()) return path;
    const Vector a = path[piece], z = path[piece + 1], way = z - a;
    std::vector<Vector> out(path.begin(), path.begin() + static_cast<std::ptrdiff_t>(piece) + 1);
    const bool alongX = std::abs(way.y()) < near, alongY = std::abs(way.x()) < near;
    if (alongX != alongY) {
        const Vector by(alongX ? 0 : dx, alongX ? dy : 0, 0);
        // An end stays at its pin: the piece leaves it by a corner of its own.
        if (piece > 0) out.pop_back();
        out.push_back(a + by);
        out.push_back(z + by);
        if (piece + 2 == path.size()) out.push_back(z);
    } else {
        out.push_back(a + share * way + Vector(dx, dy, 0));
        out.push_back(z);
    }
    out.insert(out.end(), path.begin() + static_cast<std::ptrdiff_t>(piece) + 2, path.end());
    std::vector<Vector> corners{out.front()};
    for (std::size_t k = 1; k + 1 < out.size(); ++k)
        if ((out[k] - corners.back()).norm() > near && (out[k] - out.back()).norm() > near) corners.push_back(out[k]);
    corners.push_back(out.back());
    return corners;
}

Edit movePath(const Build& b, const Run& run, const std::vector<Vector>& path) {
    std::vector<Corner> corners;
    for (std::size_t k = 1; k + 1 < path.size(); ++k) corners.push_back({{}, path[k].x(), path[k].y(), path[k].z()});
    if (corners.empty() && path.size() == 2) { // straight: a corner in the middle says that it is the builder's way
        const Vector middle = (path[0] + path[1]) / 2;
        corners.push_back({{}, middle.x(), middle.y(), middle.z()});
    }
    return changeWires(b, fmt::format("move {}", run.wire.id), withItsPair(run), [&](Wire& w) { w.by = corners; });
}

std::optional<Edit> proposedPath(const Build& b, const Run& run) {
    const Wire* own = wireIn(b, run.wire.id);
    if (!own || own->by.empty()) return std::nullopt;
    return changeWires(b, fmt::format("{} by the proposed way", run.wire.id), withItsPair(run),
                       [](Wire& w) { w.by.clear(); });
}

} // namespace ember::wires
