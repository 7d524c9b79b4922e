#include "boards.h"

#include "wire_edits.h"

#include "core/chassis/layout_edits.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <numeric>
#include <set>

namespace ember::wires {

using namespace schematic;

namespace {

bool isBoard(const PlacedPart& p) {
    return p.kind == "board";
}

const Board* boardOn(const Build& b, const std::string& placement) {
    const auto& all = b.wiring.boards;
    const auto at = std::find_if(all.begin(), all.end(), [&](const Board& x) { return x.on == placement; });
    return at == all.end() ? nullptr : &*at;
}

/// An empty board of the placement's size.
Board bare(const PlacedPart& p) {
    Board board;
    board.on = p.id;
    double width = 0.06;
    for (const Body& body : p.bodies)
        if (body.id == "board" || body.id == "strip") width = body.width;
    board.rows = p.body.find("strip") == std::string::npos ? 2 : 1;
    board.pitch = board.rows == 2 ? 0.01 : 0.008;
    board.columns = std::max(2, static_cast<int>(std::floor((width - 0.004) / board.pitch)));
    return board;
}

/// What may meet at one lug: a net, and of the ground one point of the return network, so that no plan joins returns
/// that the way of grounding keeps apart.
struct Meeting {
    NetId net;
    std::size_t point = 0;
    auto operator<=>(const Meeting&) const = default;
};

/// A part's two ends as the layout without a plan has them.
struct BetweenLugs {
    PartId part;
    Meeting from, to;
    bool fromHere = false, toHere = false; ///< the end is on the board, not at a socket
};
std::vector<BetweenLugs> standingOn(const Harness& h, std::size_t spot) {
    std::vector<BetweenLugs> out;
    const Schematic& s = h.terminals.whole.schematic;
    std::map<PinId, std::size_t> points;
    for (std::size_t k = 0; k < h.points.size(); ++k)
        for (const PinId pin : h.points[k].pins) points[pin] = k + 1;
    const auto meeting = [&](PinId pin) {
        const auto at = points.find(pin);
        return Meeting{s.at(pin), at == points.end() ? 0 : at->second};
    };
    for (std::size_t k = 0; k < s.parts().size(); ++k) {
        const Part& p = s.parts()[k];
        if (p.pins.size() != 2 || std::holds_alternative<Connector>(p.element)) continue;
        const PartId id{static_cast<int>(k)};
        BetweenLugs x{id, meeting({id, 0}), meeting({id, 1})};
        bool any = false;
        for (const Terminal& t : h.terminals.list)
            if (t.pin.part == x.part && t.spot == spot) (t.pin.pin == 0 ? x.fromHere : x.toHere) = any = true;
        if (any) out.push_back(x);
    }
    return out;
}

/// Joins lugs, and says which are joined.
class Groups {
  public:
    explicit Groups(int count) : root(static_cast<std::size_t>(count) + 1) { std::iota(root.begin(), root.end(), 0); }
    int of(int lug) {
        while (root[at(lug)] != lug) lug = root[at(lug)] = root[at(root[at(lug)])];
        return lug;
    }
    void join(int a, int z) { root[at(of(a))] = of(z); }

  private:
    static std::size_t at(int lug) { return static_cast<std::size_t>(lug); }
    std::vector<int> root;
};

/// Jumpers so that the lugs of each net hang together: above between neighbours of a row, below where they would cross.
void addJumpers(Board& board, const std::vector<std::optional<Meeting>>& netOf) {
    std::map<Meeting, std::vector<int>> lugs;
    for (int lug = 1; lug <= board.lugs(); ++lug)
        if (netOf[static_cast<std::size_t>(lug)]) lugs[*netOf[static_cast<std::size_t>(lug)]].push_back(lug);
    for (const auto& [net, all] : lugs)
        for (std::size_t k = 1; k < all.size(); ++k) {
            BoardPart jumper;
            jumper.from = all[k - 1], jumper.to = all[k];
            const bool neighbours = all[k] == all[k - 1] + 1 && (all[k] - 1) % board.columns != 0;
            jumper.below = !neighbours;
            board.parts.push_back(jumper);
        }
}

Board proposedStrip(Board board, const Schematic& s, const std::vector<BetweenLugs>& parts) {
    std::map<Meeting, int> tag;
    const auto tagOf = [&](const Meeting& net) {
        const auto known = tag.find(net);
        if (known != tag.end()) return known->second;
        const int next = static_cast<int>(tag.size()) + 1;
        return next <= board.lugs() ? tag[net] = next : 0;
    };
    for (const BetweenLugs& x : parts) {
        const std::size_t before = tag.size();
        BoardPart p;
        p.part = s[x.part].id;
        if (x.fromHere) p.from = tagOf(x.from);
        if (x.toHere) p.to = tagOf(x.to);
        if ((x.fromHere && p.from == 0) || (x.toHere && p.to == 0)) { // no tag is left
            while (tag.size() > before)
                tag.erase(std::find_if(tag.begin(), tag.end(),
                                       [&](const auto& t) { return t.second == static_cast<int>(tag.size()); }));
            continue;
        }
        board.parts.push_back(p);
    }
    return board;
}

Board proposedTurrets(Board board, const Schematic& s, std::vector<BetweenLugs> parts) {
    std::vector<std::optional<Meeting>> netOf(static_cast<std::size_t>(board.lugs()) + 1);
    std::optional<Meeting> back, front;
    for (int column = 1; column <= board.columns && !parts.empty(); ++column) {
        // Next the one that goes on from its neighbour without a crossing.
        std::size_t best = 0;
        int bestScore = -1;
        bool turned = false;
        for (std::size_t k = 0; k < parts.size(); ++k)
            for (const bool turn : {false, true}) {
                const Meeting a = turn ? parts[k].to : parts[k].from, z = turn ? parts[k].from : parts[k].to;
                const int score = 2 * ((back && a == *back) + (front && z == *front));
                if (score > bestScore) bestScore = score, best = k, turned = turn;
            }
        const BetweenLugs x = parts[best];
        parts.erase(parts.begin() + static_cast<std::ptrdiff_t>(best));
        BoardPart p;
        p.part = s[x.part].id;
        const int backLug = column, frontLug = board.columns + column;
        p.from = turned ? frontLug : backLug;
        p.to = turned ? backLug : frontLug;
        netOf[static_cast<std::size_t>(p.from)] = x.from;
        netOf[static_cast<std::size_t>(p.to)] = x.to;
        back = netOf[static_cast<std::size_t>(backLug)];
        front = netOf[static_cast<std::size_t>(frontLug)];
        board.parts.push_back(p);
    }
    addJumpers(board, netOf);
    return board;
}

/// What is on which lug, and what does not agree with the schematic.
void check(const Build& b, const Harness& h, BoardFigures& f) {
    const Schematic& s = h.terminals.whole.schematic;
    const Board& board = f.board;
    const std::string name = chassis::tagOf(b.chassis.parts[f.spot]);
    using Kind = BoardProblem::Kind;
    const auto say = [&](Kind kind, int lug, std::string sentence) {
        f.problems.push_back({kind, lug, std::move(sentence)});
    };
    Groups jumpers(board.lugs());
    std::set<std::string> seen;
    const auto there = [&](int lug) { return lug >= 1 && lug <= board.lugs(); };
    for (const BoardPart& p : board.parts) {
        for (const int lug : {p.from, p.to})
            if (lug > board.lugs() || (p.part.empty() && lug < 1))
                say(Kind::Unknown, lug,
                    fmt::format("{}: there is no lug {} for {}", name, lug,
                                p.part.empty() ? "a jumper" : upper(p.part)));
        if (p.part.empty()) {
            if (there(p.from) && there(p.to)) jumpers.join(p.from, p.to);
            continue;
        }
        if (!s.find(p.part)) say(Kind::Unknown, 0, fmt::format("{}: the circuit has no {}", name, upper(p.part)));
        if (!seen.insert(p.part).second)
            say(Kind::Unknown, 0, fmt::format("{}: {} stands there twice", name, upper(p.part)));
    }
    for (int lug = 1; lug <= board.lugs(); ++lug)
        f.lugs.push_back({lug, lugAt(b.chassis, b.chassis.parts[f.spot], board, lug), {}, {}});
    std::map<int, std::map<NetId, std::vector<std::string>>> held; // by group of lugs: ends by net
    for (const Terminal& t : h.terminals.list) {
        if (t.spot != f.spot || t.lug < 1 || !there(t.lug)) continue;
        f.lugs[static_cast<std::size_t>(t.lug) - 1].ends.push_back(t.name);
        held[jumpers.of(t.lug)][t.net].push_back(t.name);
    }
    for (LugFigures& l : f.lugs)
        if (const auto at = held.find(jumpers.of(l.lug)); at != held.end())
            for (const auto& [net, ends] : at->second) l.nets.push_back(s[net].name);
    for (const auto& [group, nets] : held) {
        if (nets.size() < 2) continue;
        std::vector<std::string> words;
        for (const auto& [net, ends] : nets) words.push_back(fmt::format("{} ({})", spoken(ends.front()), s[net].name));
        say(Kind::Extra, group,
            fmt::format("{}: lug {} joins what the schematic keeps apart: {}", name, group, fmt::join(words, ", ")));
    }
    // Joined by jumpers and by wires, over the whole chassis: places of a net, and the metal as one of the ground's.
    using Place = std::array<int, 3>; // net, placed part, lug
    std::map<Place, Place> root;
    const std::function<Place(const Place&)> of = [&](const Place& x) {
        const auto at = root.find(x);
        return at == root.end() || at->second == x ? x : root[x] = of(at->second);
    };
    const auto whereOf = [](const Terminal* t) {
        return t ? Place{t->net.index, static_cast<int>(t->spot), t->joined} : Place{Schematic::ground.index, -1, 0};
    };
    for (const Run& r : h.runs) {
        const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
        if ((from || r.wire.from == chassisEnd) && (to || r.wire.to == chassisEnd))
            root[of(whereOf(from))] = of(whereOf(to));
    }
    std::map<NetId, std::map<Place, const Terminal*>> places;
    for (const Terminal& t : h.terminals.list)
        if (t.net.index >= 0 && s[t.net].kind != NetKind::Heater) places[t.net].try_emplace(of(whereOf(&t)), &t);
    for (const auto& [net, groups] : places) {
        if (groups.size() < 2) continue;
        for (const auto& [group, t] : groups)
            if (t->spot == f.spot && t->lug > 0)
                say(Kind::Missing, t->lug,
                    fmt::format(
                        "{}: a joint of {} is missing: lug {} ({}) is not joined to {}", name, s[net].name, t->lug,
                        spoken(t->name),
                        spoken(
                            (groups.begin()->second == t ? std::next(groups.begin()) : groups.begin())->second->name)));
    }
}

} // namespace

Board proposedBoard(const Build& b, const Harness& h, std::size_t spot) {
    const PlacedPart& on = b.chassis.parts[spot];
    const Board* own = boardOn(b, on.id);
    Board board = own ? *own : bare(on);
    board.parts.clear();
    const auto parts = standingOn(h, spot);
    return board.rows == 1 ? proposedStrip(std::move(board), h.terminals.whole.schematic, parts)
                           : proposedTurrets(std::move(board), h.terminals.whole.schematic, parts);
}

std::vector<BoardFigures> boardsOf(const Build& b, const Harness& h) {
    std::vector<BoardFigures> out;
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k) {
        const PlacedPart& p = b.chassis.parts[k];
        if (!isBoard(p)) continue;
        BoardFigures f;
        f.spot = k;
        const Board* own = boardOn(b, p.id);
        f.laidOut = own != nullptr;
        f.board = own ? *own : bare(p);
        std::set<std::string> there;
        for (const BoardPart& x : f.board.parts) there.insert(x.part);
        for (const BetweenLugs& x : standingOn(h, k))
            if (const std::string& id = h.terminals.whole.schematic[x.part].id; !there.contains(id))
                f.waiting.push_back(id);
        check(b, h, f);
        out.push_back(std::move(f));
    }
    return out;
}

Edit setBoard(const Build& b, const std::string& name, const Board& board) {
    std::vector<Edit> parts;
    for (std::size_t k = b.wiring.boards.size(); k-- > 0;)
        if (b.wiring.boards[k].on == board.on) parts.push_back(removeAt("", fmt::format("/wiring/boards/{}", k)));
    parts.push_back(insertAt("", "/wiring/boards/-", board));
    return together(name, parts);
}

std::vector<FreeLug> freeLugs(const Build& b, const Harness& h, const Run& run, std::size_t most) {
    std::vector<std::pair<double, FreeLug>> found;
    for (const BoardFigures& f : boardsOf(b, h)) {
        if (!f.laidOut) continue;
        for (const LugFigures& l : f.lugs)
            if (l.ends.empty() && l.nets.empty())
                found.emplace_back((l.at - run.path.front()).lpNorm<1>() + (run.path.back() - l.at).lpNorm<1>(),
                                   FreeLug{f.board.on,
                                           fmt::format("{}, lug {}", chassis::tagOf(b.chassis.parts[f.spot]), l.lug),
                                           l.lug});
    }
    std::sort(found.begin(), found.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
    std::vector<FreeLug> out;
    for (auto& [detour, lug] : found)
        if (out.size() < most) out.push_back(std::move(lug));
    return out;
}

Edit byWayOf(const Build& b, const Run& run, const FreeLug& lug) {
    const Board* own = boardOn(b, lug.on);
    Board board = own ? *own : Board{};
    board.on = lug.on;
    board.junctions.push_back({{}, lug.lug, run.net});
    return together(fmt::format("{} by way of {}", run.wire.id, lug.name),
                    {setBoard(b, "", board), byWayOf(b, run, schematic::junctionPart(lug.on, lug.lug) + ".1")});
}

std::optional<Edit> clearBoard(const Build& b, const std::string& placement) {
    for (std::size_t k = 0; k < b.wiring.boards.size(); ++k)
        if (b.wiring.boards[k].on == placement)
            return removeAt("take the board's plan away", fmt::format("/wiring/boards/{}", k));
    return std::nullopt;
}

} // namespace ember::wires
