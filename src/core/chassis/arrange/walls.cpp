#include "walls.h"

#include "core/chassis/fit.h"
#include "core/chassis/tower.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis::arrange {

namespace {

constexpr double apart = 6e-3;        // [m] between neighbours on a wall
constexpr double usualCorner = 12e-3; // [m] left free at both ends of a wall: the other wall's bend and fixings
constexpr double step = 2.5e-3;       // [m] of the search for a free place

struct Wish {
    std::size_t part;
    double x; ///< of the chassis [m]
    double half;
};

/// Wishes moved apart as little as possible, evenly about where they meet: least squares with the order kept.
void pushApart(std::vector<Wish>& all, double low, double high) {
    std::stable_sort(all.begin(), all.end(), [](const Wish& a, const Wish& b) { return a.x < b.x; });
    struct Cluster {
        std::size_t from, to; // of `all`
        double sum;           // of wished positions, each less its own place in the cluster
        double length;
    };
    std::vector<Cluster> clusters;
    const auto start = [](const Cluster& c) { return c.sum / static_cast<double>(c.to - c.from); };
    for (std::size_t k = 0; k < all.size(); ++k) {
        clusters.push_back({k, k + 1, all[k].x - all[k].half, 2 * all[k].half + apart});
        while (clusters.size() > 1) {
            Cluster& before = clusters[clusters.size() - 2];
            const Cluster& last = clusters.back();
            if (start(before) + before.length <= start(last) + 1e-9) break;
            before.sum += last.sum - before.length * static_cast<double>(last.to - last.from);
            before.length += last.length;
            before.to = last.to;
            clusters.pop_back();
        }
    }
    for (const Cluster& c : clusters) {
        double at = std::clamp(start(c), low, std::max(low, high - c.length + apart));
        for (std::size_t k = c.from; k < c.to; ++k) {
            all[k].x = at + all[k].half;
            at += 2 * all[k].half + apart;
        }
    }
}

} // namespace

bool isOfMains(const PlacedPart& p) {
    return carriesMains(p) || p.kind == "lamp" || p.kind == "earth";
}

std::vector<Spot> wallSpots(const PartGroups& groups, const Chassis& c, const std::vector<Spot>& top) {
    const auto middleOf = [&](const std::vector<std::size_t>& parts, double otherwise) {
        double sum = 0;
        std::size_t n = 0;
        for (const Spot& s : top)
            if (std::find(parts.begin(), parts.end(), s.part) != parts.end()) {
                sum += s.x;
                ++n;
            }
        return n ? sum / static_cast<double>(n) : otherwise;
    };
    // A channel without valves keeps its terminals at the end where the power transformer is not.
    const double afar = middleOf(groups.mains, c.width) < c.width / 2 ? c.width : 0;
    const auto first = [](std::initializer_list<const std::vector<std::size_t>*> lists) {
        for (const auto* list : lists)
            if (!list->empty()) return std::vector<std::size_t>{list->front()};
        return std::vector<std::size_t>{};
    };
    std::vector<std::size_t> firstValves;
    for (const ChannelParts& ch : groups.channels)
        for (const std::size_t k : first({&ch.smallValves, &groups.shared, &ch.outputValves, &ch.iron}))
            firstValves.push_back(k);
    const double corner = isTower(c) ? std::max(usualCorner, pillarReach(c)) : usualCorner;
    std::vector<Spot> out;
    for (const Face face : {Face::Front, Face::Back, Face::LowerFront, Face::LowerBack}) {
        const auto wish = [&](std::size_t part, double x) {
            const Footprint f = footprint(c.parts[part]);
            return Wish{part, x, (f.right - f.left) / 2};
        };
        std::vector<Wish> channels, others;
        for (const ChannelParts& ch : groups.channels) {
            for (const std::size_t k : ch.inputs)
                if (c.parts[k].face == face)
                    channels.push_back(
                        wish(k, middleOf(first({&ch.smallValves, &groups.shared, &ch.outputValves, &ch.iron}), afar)));
            for (const std::size_t k : ch.outputs)
                if (c.parts[k].face == face)
                    channels.push_back(wish(
                        k, middleOf(ch.iron.empty() ? first({&ch.outputValves, &ch.smallValves}) : ch.iron, afar)));
        }
        pushApart(channels, corner, c.width - corner);
        for (const std::size_t k : groups.wall) {
            if (c.parts[k].face != face) continue;
            others.push_back(wish(k, isOfMains(c.parts[k])                ? middleOf(groups.mains, c.width / 2)
                                     : c.parts[k].kind == "potentiometer" ? middleOf(firstValves, c.width / 2)
                                                                          : c.width / 2));
        }
        std::vector<Wish> standing = channels;
        for (Wish w : others) {
            const auto free = [&](double x) {
                return x - w.half >= corner && x + w.half <= c.width - corner &&
                       std::none_of(standing.begin(), standing.end(),
                                    [&](const Wish& s) { return std::abs(s.x - x) < s.half + w.half + apart - 1e-9; });
            };
            for (double off = 0; off < c.width; off += step) {
                if (free(w.x - off) || free(w.x + off)) {
                    w.x += free(w.x - off) ? -off : off;
                    break;
                }
            }
            standing.push_back(w);
        }
        for (const Wish& w : standing) {
            const PlacedPart& p = c.parts[w.part];
            out.push_back({w.part, upperOf(face) == Face::Back ? c.width - w.x : w.x, p.y, p.angle});
        }
    }
    return out;
}

} // namespace ember::chassis::arrange
