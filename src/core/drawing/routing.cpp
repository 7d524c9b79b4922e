#include "routing.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <map>
#include <queue>

namespace ember::drawing {

using schematic::NetId;

namespace {

constexpr std::array<GridPoint, 4> ways{{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};
constexpr int opposite(int way) {
    return (way + 2) % 4;
}
constexpr int stepCost = 2, bendCost = 5, crossingCost = 16;
constexpr std::uint8_t straightAcross = 0b0101, straightDown = 0b1010; ///< masks of ways

/// What the wires of one net do at a point of the grid.
struct Use {
    int net = -1;
    std::uint8_t ways = 0;
    [[nodiscard]] int count() const { return std::popcount(ways); }
    [[nodiscard]] bool passes() const { return ways == straightAcross || ways == straightDown; }
};

struct NetPins {
    int net = -1;
    std::vector<GridPoint> pins, outs;
    std::vector<std::size_t> laid; ///< points of its wires
    [[nodiscard]] int span() const {
        int x1 = 1 << 20, x2 = -1, y1 = 1 << 20, y2 = -1;
        for (const GridPoint& p : pins)
            x1 = std::min(x1, p.x), x2 = std::max(x2, p.x), y1 = std::min(y1, p.y), y2 = std::max(y2, p.y);
        return x2 - x1 + y2 - y1;
    }
};

int distance(GridPoint a, GridPoint b) {
    return std::abs(a.x - b.x) + std::abs(a.y - b.y);
}

class Router {
  public:
    Router(const std::vector<Site>& all, int w, int h) : width(w), height(h), sites(all) {
        const auto count = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
        shut.assign(count, 0);
        uses.assign(count, {});
        reserved.assign(count, -1);
        best.assign(4 * count, {});
        for (const Site& s : sites) block(s);
        collect();
    }

    bool run(GridPoint& crowded) {
        std::vector<NetPins*> order;
        for (auto& [net, pins] : nets)
            if (pins.pins.size() > 1) order.push_back(&pins);
        std::stable_sort(order.begin(), order.end(),
                         [](const NetPins* a, const NetPins* b) { return a->span() < b->span(); });
        for (NetPins* n : order)
            if (!lay(*n, crowded)) return false;
        for (int sweep = 0; sweep < 2; ++sweep)
            for (NetPins* n : order) {
                const std::vector<Mark> kept = lift(*n);
                if (!lay(*n, crowded))
                    for (const Mark& m : kept) mark(*n, m.at, m.ways);
            }
        return true;
    }

    [[nodiscard]] Routed result() const {
        Routed out;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const auto& here = uses[index({x, y})];
                if (here[0].net >= 0 && here[1].net >= 0) ++out.crossings;
                for (const Use& u : here) {
                    if (u.net < 0) continue;
                    out.length += u.count();
                    if (u.count() >= 3) out.dots.push_back({static_cast<double>(x), static_cast<double>(y)});
                    if (u.count() == 2) continue;
                    for (int way = 0; way < 4; ++way) // each wire once: from its end that comes first
                        if ((u.ways >> way) & 1) follow({x, y}, way, u.net, out);
                }
            }
        out.length /= 2;
        return out;
    }

  private:
    [[nodiscard]] bool inside(GridPoint p) const { return p.x >= 0 && p.y >= 0 && p.x < width && p.y < height; }
    [[nodiscard]] std::size_t index(GridPoint p) const {
        return static_cast<std::size_t>(p.y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(p.x);
    }

    /// Points, and ways between points, that a box covers. Bits: 1 the point, 2 the way to the right, 4 the way down.
    void block(const Site& s) {
        const auto cover = [&](const Box& b) {
            const double x1 = s.axis.x + b.x - 0.01, x2 = s.axis.x + b.x + b.width + 0.01, y1 = s.axis.y + b.y - 0.01,
                         y2 = s.axis.y + b.y + b.height + 0.01;
            for (int y = static_cast<int>(std::floor(y1)); y <= static_cast<int>(std::ceil(y2)); ++y)
                for (int x = static_cast<int>(std::floor(x1)); x <= static_cast<int>(std::ceil(x2)); ++x) {
                    if (!inside({x, y})) continue;
                    const bool across = x >= x1 && x <= x2, down = y >= y1 && y <= y2;
                    std::uint8_t& at = shut[index({x, y})];
                    if (across && down) at |= 1;
                    if (down && x + 1 >= x1 && x <= x2) at |= 2;
                    if (across && y + 1 >= y1 && y <= y2) at |= 4;
                }
        };
        cover(s.element->body);
        if (s.element->value.width > 0) cover(s.element->value);
        for (const Word& w : s.element->words) cover({w.box.x - 0.25, w.box.y, w.box.width + 0.5, w.box.height});
        for (const Box& b : s.element->flags) cover(b);
    }
    [[nodiscard]] bool open(GridPoint p, int way) const {
        const GridPoint to{p.x + ways[static_cast<std::size_t>(way)].x, p.y + ways[static_cast<std::size_t>(way)].y};
        if (!inside(to) || (shut[index(to)] & 1)) return false;
        switch (way) {
        case 0: return !(shut[index(p)] & 2);
        case 1: return !(shut[index(p)] & 4);
        case 2: return !(shut[index(to)] & 2);
        default: return !(shut[index(to)] & 4);
        }
    }

    void collect() {
        for (const Site& s : sites)
            for (const Pin& p : s.element->pins) {
                if (p.flag || p.net.index < 0) continue;
                const GridPoint at{s.axis.x + p.at.x, s.axis.y + p.at.y}, out{s.axis.x + p.out.x, s.axis.y + p.out.y};
                NetPins& n = nets[p.net.index];
                n.net = p.net.index;
                if (std::find(n.pins.begin(), n.pins.end(), at) != n.pins.end()) continue;
                n.pins.push_back(at), n.outs.push_back(out);
                reserved[index(out)] = p.net.index;
            }
    }

    [[nodiscard]] static int wayOf(GridPoint from, GridPoint to) {
        return to.x > from.x ? 0 : to.y > from.y ? 1 : to.x < from.x ? 2 : 3;
    }
    void mark(NetPins& n, std::size_t at, std::uint8_t more) {
        auto& here = uses[at];
        Use& u = here[0].net == n.net || here[0].net < 0 ? here[0] : here[1];
        if (u.net < 0) n.laid.push_back(at);
        u.net = n.net;
        u.ways = static_cast<std::uint8_t>(u.ways | more);
    }
    void join(GridPoint a, GridPoint b, NetPins& n) {
        const int way = wayOf(a, b);
        mark(n, index(a), static_cast<std::uint8_t>(1 << way));
        mark(n, index(b), static_cast<std::uint8_t>(1 << opposite(way)));
    }
    /// Takes a net's wires away, and says what they were.
    struct Mark {
        std::size_t at;
        std::uint8_t ways;
    };
    std::vector<Mark> lift(NetPins& n) {
        std::vector<Mark> out;
        for (const std::size_t at : n.laid) {
            auto& here = uses[at];
            const bool second = here[1].net == n.net;
            out.push_back({at, here[second ? 1 : 0].ways});
            if (!second) here[0] = here[1];
            here[1] = {};
        }
        n.laid.clear();
        return out;
    }

    bool lay(NetPins& n, GridPoint& crowded) {
        std::vector<std::size_t> joined{0}, waiting;
        for (std::size_t k = 1; k < n.pins.size(); ++k) waiting.push_back(k);
        join(n.pins[0], n.outs[0], n);
        while (!waiting.empty()) {
            std::size_t next = 0;
            int nearest = 1 << 20;
            for (std::size_t w = 0; w < waiting.size(); ++w)
                for (const std::size_t j : joined)
                    if (const int d = distance(n.outs[waiting[w]], n.outs[j]); d < nearest) nearest = d, next = w;
            const std::size_t k = waiting[next];
            waiting.erase(waiting.begin() + static_cast<std::ptrdiff_t>(next));
            if (!connect(n, k)) {
                crowded = n.outs[k];
                lift(n);
                return false;
            }
            joined.push_back(k);
        }
        return true;
    }

    struct Reach {
        int cost = 1 << 28, from = -1; ///< `from`: state before
        int round = -1;
    };
    /// From a pin to the net's wires by the cheapest way.
    bool connect(NetPins& n, std::size_t k) {
        const GridPoint start = n.outs[k];
        const int first = wayOf(n.pins[k], start);
        ++round;
        int x1 = 1 << 20, x2 = -1, y1 = 1 << 20, y2 = -1;
        for (const std::size_t i : n.laid) {
            const int x = static_cast<int>(i) % width, y = static_cast<int>(i) / width;
            x1 = std::min(x1, x), x2 = std::max(x2, x), y1 = std::min(y1, y), y2 = std::max(y2, y);
        }
        const auto ahead = [&](GridPoint p) {
            return stepCost * (std::max({0, x1 - p.x, p.x - x2}) + std::max({0, y1 - p.y, p.y - y2}));
        };
        using Entry = std::pair<int, int>;
        std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
        const auto stateOf = [&](GridPoint p, int way) { return static_cast<int>(4 * index(p)) + way; };
        const auto at = [&](int state) { return GridPoint{(state / 4) % width, (state / 4) / width}; };
        const auto offer = [&](int state, int cost, int from) {
            Reach& r = best[static_cast<std::size_t>(state)];
            if (r.round == round && r.cost <= cost) return;
            r = {cost, from, round};
            queue.emplace(cost + ahead(at(state)), state);
        };
        offer(stateOf(start, first), 0, -1);
        while (!queue.empty()) {
            const auto [estimate, state] = queue.top();
            queue.pop();
            const Reach here = best[static_cast<std::size_t>(state)];
            const GridPoint p = at(state);
            const int way = state % 4;
            if (estimate > here.cost + ahead(p)) continue;
            const auto& u = uses[index(p)];
            const bool crossing = u[0].net >= 0 && u[0].net != n.net; // straight on only
            if (!crossing && u[0].net == n.net && u[1].net < 0) {
                // A wire of its own: joined where no more than three meet.
                const int comes = 1 << opposite(way);
                if (!(u[0].ways & comes) && u[0].count() < 3) {
                    finish(n, k, state);
                    return true;
                }
                continue;
            }
            for (int turn = 0; turn < 4; ++turn) {
                if (turn == opposite(way) || (crossing && turn != way) || !open(p, turn)) continue;
                const GridPoint to{p.x + ways[static_cast<std::size_t>(turn)].x,
                                   p.y + ways[static_cast<std::size_t>(turn)].y};
                const auto& v = uses[index(to)];
                const int owner = reserved[index(to)];
                if (owner >= 0 && owner != n.net) continue;
                if (v[1].net >= 0) continue;
                int cost = here.cost + stepCost + (turn == way ? 0 : bendCost);
                if (v[0].net >= 0 && v[0].net != n.net) {
                    const std::uint8_t along = turn % 2 == 0 ? straightDown : straightAcross;
                    if (v[0].ways != along) continue; // only squarely, and not at its bends and ends
                    cost += crossingCost;
                }
                offer(stateOf(to, turn), cost, state);
            }
        }
        return false;
    }
    void finish(NetPins& n, std::size_t k, int state) {
        const auto at = [&](int s) { return GridPoint{(s / 4) % width, (s / 4) / width}; };
        while (best[static_cast<std::size_t>(state)].from >= 0) {
            const int before = best[static_cast<std::size_t>(state)].from;
            join(at(before), at(state), n);
            state = before;
        }
        join(n.pins[k], n.outs[k], n);
    }

    /// A wire from an end or a dot to the next, taken down once.
    void follow(GridPoint from, int way, int net, Routed& out) const {
        std::vector<GridPoint> points{from};
        GridPoint p = from;
        for (;;) {
            p = {p.x + ways[static_cast<std::size_t>(way)].x, p.y + ways[static_cast<std::size_t>(way)].y};
            const auto& here = uses[index(p)];
            const Use& u = here[0].net == net ? here[0] : here[1];
            if (u.count() != 2) break;
            const int rest = u.ways & ~(1 << opposite(way));
            const int on = std::countr_zero(static_cast<unsigned>(rest));
            if (on != way) points.push_back(p);
            way = on;
        }
        points.push_back(p);
        if (std::pair(p.y, p.x) < std::pair(from.y, from.x)) return; // it is taken from the other end
        if (p == from && points.size() > 2 && distance(points[1], from) > distance(points[points.size() - 2], from))
            return;
        Wire w{NetId{net}, {}};
        for (const GridPoint& q : points) w.points.push_back({static_cast<double>(q.x), static_cast<double>(q.y)});
        out.wires.push_back(std::move(w));
    }

    int width, height, round = 0;
    const std::vector<Site>& sites;
    std::vector<std::uint8_t> shut;
    std::vector<std::array<Use, 2>> uses;
    std::vector<int> reserved;
    std::vector<Reach> best;
    std::map<int, NetPins> nets;
};

} // namespace

std::optional<Routed> route(const std::vector<Site>& sites, int width, int height, GridPoint& crowded) {
    Router router(sites, width, height);
    if (!router.run(crowded)) return std::nullopt;
    return router.result();
}

} // namespace ember::drawing
