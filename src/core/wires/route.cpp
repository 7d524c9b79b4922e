#include "route.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <queue>

namespace ember::wires {

namespace {

/// What lies lower belongs to a tower's lower chassis [m].
double middleOfStorey(const Chassis& c) {
    return chassis::isTower(c) ? -c.height - c.storey / 2 : -std::numeric_limits<double>::infinity();
}

/// Where wires go up without a hole that was made for them.
Vector usualRiser(const Chassis& c) {
    constexpr double fromBack = 0.03; // [m]
    return {c.width / 2, c.depth - fromBack, 0};
}

} // namespace

Obstacles::Obstacles(const Chassis& c)
    : assembly(chassis::assemble(c)),
      below(middleOfStorey(c)),
      columns(std::max(1, static_cast<int>(c.width / cell))),
      rows(std::max(1, static_cast<int>(c.depth / cell))) {
    for (auto& storey : parts) storey.resize(static_cast<std::size_t>(columns * rows));
    std::erase_if(assembly.bodies, [&](const chassis::PlacedBody& b) {
        // On a bench board wires lie on the wood, between whatever stands there.
        if (c.form == ChassisForm::Board) return b.solid.lowest() > 2 * wallGap;
        return b.outside || b.solid.lowest() > chassis::plateHeight(c, c.parts[b.part].face) - 0.005;
    });
    for (const chassis::PlacedBody& b : assembly.bodies) {
        const auto reach = [&](const Vector& way) { return b.solid.support(way); };
        const int left = std::max(0, static_cast<int>(reach(-Vector::UnitX()).x() / cell)),
                  right = std::min(columns - 1, static_cast<int>(reach(Vector::UnitX()).x() / cell)),
                  near = std::max(0, static_cast<int>(reach(-Vector::UnitY()).y() / cell)),
                  far = std::min(rows - 1, static_cast<int>(reach(Vector::UnitY()).y() / cell));
        auto& cells = parts[storeyOf(b.solid.centre)];
        for (int y = near; y <= far; ++y)
            for (int x = left; x <= right; ++x) cells[static_cast<std::size_t>(y * columns + x)].push_back(b.part);
    }
}

std::vector<Vector> Obstacles::detour(const Vector& a, const Vector& b, std::size_t from, std::size_t to) const {
    const auto column = [&](const Vector& p) { return std::clamp(static_cast<int>(p.x() / cell), 0, columns - 1); };
    const auto row = [&](const Vector& p) { return std::clamp(static_cast<int>(p.y() / cell), 0, rows - 1); };
    const int goal = row(b) * columns + column(b), first = row(a) * columns + column(a);
    const auto free = [&](int at) {
        const auto& in = parts[storeyOf(a)][static_cast<std::size_t>(at)];
        return at == goal || at == first ||
               std::all_of(in.begin(), in.end(), [&](std::size_t p) { return p == from || p == to; });
    };
    // A state is a cell and the direction it was come to by: turning costs three cells, so that ways stay straight.
    constexpr std::array<std::pair<int, int>, 4> ways{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};
    constexpr int turning = 3;
    std::vector<int> cost(static_cast<std::size_t>(columns * rows * 4), -1), back(cost.size(), -1);
    const auto ahead = [&](int at) { return std::abs(at % columns - column(b)) + std::abs(at / columns - row(b)); };
    using Open = std::pair<int, int>; // estimate, state
    std::priority_queue<Open, std::vector<Open>, std::greater<>> open;
    for (int d = 0; d < 4; ++d) {
        cost[static_cast<std::size_t>(first * 4 + d)] = 0;
        open.emplace(ahead(first), first * 4 + d);
    }
    int end = -1;
    while (!open.empty() && end < 0) {
        const auto [estimate, state] = open.top();
        open.pop();
        const int at = state / 4, by = state % 4, spent = cost[static_cast<std::size_t>(state)];
        if (estimate > spent + ahead(at)) continue; // a shorter way here was found since
        if (at == goal) {
            end = state;
            break;
        }
        for (int d = 0; d < 4; ++d) {
            const auto& [dx, dy] = ways[static_cast<std::size_t>(d)];
            const int x = at % columns + dx, y = at / columns + dy;
            if (x < 0 || y < 0 || x >= columns || y >= rows || !free(y * columns + x)) continue;
            const int next = (y * columns + x) * 4 + d, price = spent + 1 + (d == by ? 0 : turning);
            int& known = cost[static_cast<std::size_t>(next)];
            if (known >= 0 && known <= price) continue;
            known = price;
            back[static_cast<std::size_t>(next)] = state;
            open.emplace(price + ahead(next / 4), next);
        }
    }
    if (end < 0) return {};
    std::vector<Vector> path{b};
    const double z = std::min(a.z(), b.z());
    int direction = -1;
    for (int state = end; state >= 0; state = back[static_cast<std::size_t>(state)]) {
        const int at = state / 4;
        if (state % 4 != direction) path.emplace_back((at % columns + 0.5) * cell, (at / columns + 0.5) * cell, z);
        direction = state % 4;
    }
    path.push_back(a);
    std::reverse(path.begin(), path.end());
    return path;
}

std::vector<std::size_t> Obstacles::hit(const std::vector<Vector>& path, std::size_t from, std::size_t to) const {
    std::vector<std::size_t> out;
    for (const chassis::PlacedBody& body : assembly.bodies) {
        if (body.part == from || body.part == to) continue;
        bool inside = false;
        for (std::size_t k = 0; k + 1 < path.size() && !inside; ++k) {
            const Vector way = path[k + 1] - path[k];
            // Nearer than its reach at all?
            const double share = way.squaredNorm() > 0
                                     ? std::clamp((body.solid.centre - path[k]).dot(way) / way.squaredNorm(), 0.0, 1.0)
                                     : 0;
            if ((path[k] + share * way - body.solid.centre).norm() > body.solid.reach()) continue;
            const int steps = std::max(2, static_cast<int>(way.norm() / 0.003));
            for (int n = 0; n <= steps && !inside; ++n) inside = body.solid.contains(path[k] + way * n / steps);
        }
        if (inside && (out.empty() || out.back() != body.part)) out.push_back(body.part);
    }
    return out;
}

std::optional<std::size_t> riserHole(const Chassis& c) {
    std::optional<std::size_t> out;
    const auto far = [&](std::size_t k) {
        return std::hypot(c.parts[k].x - usualRiser(c).x(), c.parts[k].y - usualRiser(c).y());
    };
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        if (c.parts[k].kind == "grommet" && c.parts[k].face == Face::LowerTop && (!out || far(k) < far(*out))) out = k;
    return out;
}

std::vector<std::vector<Vector>> piecesUnder(const Chassis& c, bool lower, const std::vector<Vector>& path) {
    const double below = middleOfStorey(c);
    std::vector<std::vector<Vector>> out;
    bool going = false;
    for (const Vector& v : path) {
        const bool here = (v.z() < below) == lower;
        if (here && !going) out.emplace_back();
        if (here) out.back().push_back(v);
        going = here;
    }
    std::erase_if(out, [](const auto& piece) { return piece.size() < 2; });
    return out;
}

double lengthOf(const std::vector<Vector>& path) {
    double sum = 0;
    for (std::size_t k = 0; k + 1 < path.size(); ++k) sum += (path[k + 1] - path[k]).norm();
    return sum;
}

namespace {

/// Position along the walls, counter-clockwise from the left front corner, of the place nearest to a point.
struct Walls {
    double left, right, near, far, z;
    [[nodiscard]] double around() const { return 2 * (right - left + far - near); }
    [[nodiscard]] double nearest(const Vector& p) const {
        const double w = right - left, d = far - near, x = std::clamp(p.x(), left, right) - left,
                     y = std::clamp(p.y(), near, far) - near;
        const std::array<std::pair<double, double>, 4> walls{
            {{y, x}, {w - x, w + y}, {d - y, w + d + (w - x)}, {x, 2 * w + d + (d - y)}}};
        return std::min_element(walls.begin(), walls.end())->second;
    }
    [[nodiscard]] Vector at(double s) const {
        const double w = right - left, d = far - near;
        s = std::fmod(std::fmod(s, around()) + around(), around());
        if (s <= w) return {left + s, near, z};
        if (s <= w + d) return {right, near + s - w, z};
        if (s <= 2 * w + d) return {right - (s - w - d), far, z};
        return {left, far - (s - 2 * w - d), z};
    }
    /// From one place to another, counter-clockwise, with the corners between.
    [[nodiscard]] std::vector<Vector> between(double from, double to) const {
        const double w = right - left, d = far - near;
        if (to < from) to += around();
        std::vector<Vector> out{at(from)};
        for (int turn = 0; turn < 2; ++turn)
            for (const double corner : {0.0, w, w + d, 2 * w + d}) {
                const double s = corner + turn * around();
                if (s > from && s < to) out.push_back(at(s));
            }
        out.push_back(at(to));
        return out;
    }
};

} // namespace

std::vector<Vector> route(const Chassis& c, const Obstacles& obstacles, Way way, const Vector& a, const Vector& b,
                          std::size_t fromPart, std::size_t toPart) {
    const double below = middleOfStorey(c);
    if ((a.z() < below) != (b.z() < below)) {
        const auto hole = riserHole(c);
        const Vector at = hole ? Vector(c.parts[*hole].x, c.parts[*hole].y, 0) : usualRiser(c);
        const auto under = [&](const Vector& end) -> Vector {
            return {at.x(), at.y(), chassis::innerSide(c, end.z() < below ? Face::LowerTop : Face::Top) - wallGap};
        };
        std::vector<Vector> path = route(c, obstacles, way, a, under(a), fromPart, toPart);
        for (const Vector& v : route(c, obstacles, way, under(b), b, fromPart, toPart)) path.push_back(v);
        return path;
    }
    const Face plate = a.z() < below ? Face::LowerTop : Face::Top;
    std::vector<std::vector<Vector>> ways;
    const double across = (a - b).lpNorm<1>();
    if (way == Way::Walls && across < 0.1) way = Way::Square; // no way round is worth it
    if (way == Way::Straight) {
        ways = {{a, b}};
    } else if (way == Way::Square) {
        // At the level of the deeper end.
        const double z = std::min(a.z(), b.z());
        const Vector down(a.x(), a.y(), z), up(b.x(), b.y(), z);
        ways = {{a, down, {b.x(), a.y(), z}, up, b}, {a, down, {a.x(), b.y(), z}, up, b}};
    } else {
        const bool onBoard = c.form == ChassisForm::Board;
        const double gap = (onBoard ? 0 : c.thickness) + wallGap;
        const Walls walls{gap, c.width - gap, gap, c.depth - gap,
                          chassis::innerSide(c, plate) + (onBoard ? wallGap : -wallGap)};
        const double from = walls.nearest(a), to = walls.nearest(b);
        for (const bool forward : {true, false}) {
            std::vector<Vector> path = forward ? walls.between(from, to) : walls.between(to, from);
            if (!forward) std::reverse(path.begin(), path.end());
            path.insert(path.begin(), a);
            path.push_back(b);
            ways.push_back(std::move(path));
        }
    }
    if (way == Way::Walls) {
        std::erase_if(ways, [&](const auto& path) { return lengthOf(path) > 1.5 * across + 0.02; });
        if (ways.empty()) return route(c, obstacles, Way::Square, a, b, fromPart, toPart);
    }
    for (auto& path : ways)
        path.erase(std::unique(path.begin(), path.end(),
                               [](const Vector& x, const Vector& y) { return (x - y).norm() < 1e-6; }),
                   path.end());
    std::stable_sort(ways.begin(), ways.end(), [](const auto& x, const auto& y) { return lengthOf(x) < lengthOf(y); });
    for (auto& path : ways)
        if (path.size() < 2) path = {a, b};
    for (const auto& path : ways)
        if (obstacles.hit(path, fromPart, toPart).empty()) return path;
    const auto round = obstacles.detour(a, b, fromPart, toPart);
    return round.empty() ? ways.front() : round;
}

} // namespace ember::wires
