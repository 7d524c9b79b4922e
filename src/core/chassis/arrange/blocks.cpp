#include "blocks.h"

#include "core/chassis/fit.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

namespace ember::chassis::arrange {

namespace {

Block group(Block::Kind kind, std::vector<Block> of) {
    std::erase_if(of, [](const Block& b) { return b.empty(); });
    const bool supply = !of.empty() && std::all_of(of.begin(), of.end(), [](const Block& b) { return b.ofSupply; });
    return {kind, 0, 0, false, supply, std::move(of)};
}

double up(double length) {
    return std::ceil(length / grid - 1e-9) * grid;
}

Extent halfOf(const PlacedPart& p, double angle) {
    Footprint f = footprint(p, 0, 0, angle);
    const double turn = angle * std::numbers::pi / 180, c = std::cos(turn), s = std::sin(turn);
    for (const Hole& h : p.holes)
        if (isBolt(h)) {
            const double x = c * h.x - s * h.y, y = s * h.x + c * h.y, r = toolDiameter / 2;
            f = {std::min(f.left, x - r), std::max(f.right, x + r), std::min(f.near, y - r), std::max(f.far, y + r)};
        }
    return {std::max(-f.left, f.right), std::max(-f.near, f.far)};
}

/// Equal shares of `spare` for the `gaps` between and beside blocks [m].
double share(double spare, double gaps) {
    return spare > 0 ? std::floor(spare / gaps / grid + 1e-9) * grid : 0;
}

void place(const Block& b, const Chassis& c, double air, double left, double front, double width, double depth,
           Spare how, std::vector<Spot>& out) {
    if (b.kind == Block::Kind::Part) {
        out.push_back({b.part, left + width / 2, front + depth / 2, b.angle});
        return;
    }
    const Extent all = extentOf(b, c, air);
    const bool isRow = b.kind == Block::Kind::Row;
    // One gap before each block but the first, and one at each end; the ends take what the grid leaves over.
    std::vector<double> shares(b.of.size() + 1, 1);
    if (!isRow && how == Spare::Apart && b.of.size() > 1)
        for (std::size_t k = 0; k < shares.size(); ++k) shares[k] = k == 1;
    if (isRow && how != Spare::Even)
        for (std::size_t k = 0; k < shares.size(); ++k)
            shares[k] = k > 0 && k < b.of.size() && b.of[k - 1].ofSupply != b.of[k].ofSupply;
    double parts = std::accumulate(shares.begin(), shares.end(), 0.0);
    if (parts == 0) {
        std::fill(shares.begin(), shares.end(), 1);
        parts = static_cast<double>(shares.size());
    }
    const double gap = share(isRow ? width - all.width : depth - all.depth, parts);
    double used = isRow ? all.width : all.depth;
    for (std::size_t k = 1; k < b.of.size(); ++k) used += gap * shares[k];
    double at = isRow ? left + (width - used) / 2 : front + depth - (depth - used) / 2; // columns begin at the back
    for (std::size_t k = 0; k < b.of.size(); ++k) {
        const Extent own = extentOf(b.of[k], c, air);
        if (k > 0) at += (isRow ? 1 : -1) * gap * shares[k];
        if (isRow) {
            place(b.of[k], c, air, at, front, own.width, b.of[k].front ? own.depth : depth, how, out);
            at += own.width;
        } else {
            place(b.of[k], c, air, left, at - own.depth, width, own.depth, how, out);
            at -= own.depth;
        }
    }
}

} // namespace

Block one(std::size_t part, double angle) {
    return {Block::Kind::Part, part, angle, false, false, {}};
}
Block row(std::vector<Block> of) {
    return group(Block::Kind::Row, std::move(of));
}
Block column(std::vector<Block> of) {
    return group(Block::Kind::Column, std::move(of));
}
Block rowOf(const std::vector<std::size_t>& parts, double angle) {
    Block b = row({});
    for (const std::size_t k : parts) b.of.push_back(one(k, angle));
    return b;
}
Block columnOf(const std::vector<std::size_t>& parts, double angle) {
    Block b = rowOf(parts, angle);
    b.kind = Block::Kind::Column;
    return b;
}

Block atFront(Block b) {
    b.front = true;
    return b;
}

Block ofSupply(Block b) {
    b.ofSupply = true;
    return b;
}

Block mirrored(Block b) {
    if (b.kind == Block::Kind::Row) std::reverse(b.of.begin(), b.of.end());
    b.angle = std::fmod(360 - b.angle, 360);
    for (Block& inner : b.of) inner = mirrored(std::move(inner));
    return b;
}

Extent extentOf(const Block& b, const Chassis& c, double air) {
    if (b.kind == Block::Kind::Part) {
        const Extent half = halfOf(c.parts[b.part], b.angle);
        return {up(2 * (half.width + air)), up(2 * (half.depth + air))};
    }
    Extent all;
    for (const Block& inner : b.of) {
        const Extent own = extentOf(inner, c, air);
        const bool isRow = b.kind == Block::Kind::Row;
        all.width = isRow ? all.width + own.width : std::max(all.width, own.width);
        all.depth = isRow ? std::max(all.depth, own.depth) : all.depth + own.depth;
    }
    return all;
}

std::vector<Spot> placed(const Block& b, const Chassis& c, double air, double left, double front, double width,
                         double depth, Spare spare) {
    std::vector<Spot> out;
    if (!b.empty()) place(b, c, air, left, front, width, depth, spare, out);
    return out;
}

} // namespace ember::chassis::arrange
