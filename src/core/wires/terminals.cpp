#include "terminals.h"

#include "core/chassis/pins.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <map>
#include <numbers>
#include <numeric>
#include <set>

namespace ember::wires {

using namespace schematic;

const Terminal* Terminals::find(std::string_view name) const {
    const auto at = std::find_if(list.begin(), list.end(), [&](const Terminal& t) { return t.name == name; });
    return at == list.end() ? nullptr : &*at;
}

std::string terminalName(const Part& p, const Pin& pin) {
    std::string name = pin.number > 0 ? std::to_string(pin.number) : pin.name;
    std::replace(name.begin(), name.end(), ' ', '-');
    return p.id + "." + name;
}

std::string spoken(const std::string& terminal) {
    const auto dot = terminal.rfind('.');
    if (dot == std::string::npos) return terminal;
    std::string part = upper(terminal.substr(0, dot)), pin = terminal.substr(dot + 1);
    for (const char* placed :
         {"INLET", "EARTH", "SWITCH", "INPUT-", "OUTPUT-", "TRIMMER-"}) // words, not ids of the drawing
        if (part.starts_with(placed)) part = terminal.substr(0, dot);
    std::replace(part.begin(), part.end(), '-', ' ');
    if (pin == "-") return part + " −";
    std::replace(pin.begin(), pin.end(), '-', ' ');
    const bool number = pin.find_first_not_of("0123456789") == std::string::npos;
    return fmt::format("{} {}{}", part, !number ? "" : part.starts_with('V') ? "pin " : "end ", pin);
}

namespace {

/// Of a part's tags below its mounting plane [m]: on a bench board never nearer than 5 mm to the wood, so that those of
/// iron, which stands on it, are beside it and above.
double tagDepth(const Chassis& c, const PlacedPart& p) {
    constexpr double overWood = 5e-3;
    if (chassis::wiredFromBelow(c) || !isPlate(p.face)) return solderDepth;
    return std::min(solderDepth, -chassis::sunkBy(c, p) - overWood);
}

constexpr double boardReach = 0.12, leadReach = 0.06; // [m]

class Placing {
  public:
    Placing(const Build& build, const Schematic& schematic) : c(build.chassis), s(schematic) {
        home.resize(s.parts().size());
        for (std::size_t k = 0; k < s.parts().size(); ++k) home[k] = placed(s.parts()[k].id);
        for (const Board& board : build.wiring.boards) layOut(board);
        pinsOf.resize(s.nets().size());
        for (std::size_t k = 0; k < s.parts().size(); ++k)
            for (const Pin& pin : s.parts()[k].pins)
                if (pin.net.index >= 0) pinsOf[static_cast<std::size_t>(pin.net.index)].push_back(k);
        own.reserve(home.size());
        for (const auto& at : home) own.push_back(at.has_value());
        // Loads are outside.
        std::set<std::string> outside;
        for (const Channel& ch : build.channels)
            for (const Stage& stage : ch.stages)
                for (const StagePart& p : stage.parts)
                    if (p.slot == "load" || p.slot == "cable") outside.insert(idOf(p.part));
        for (int pass = 0; pass < 4; ++pass) {
            auto next = home;
            for (std::size_t k = 0; k < home.size(); ++k)
                if (!home[k] && !outside.contains(s.parts()[k].id)) next[k] = nearby(k);
            if (next == home) break;
            home = std::move(next);
        }
    }

    [[nodiscard]] std::optional<Terminal> terminal(PinId id) const {
        const auto k = static_cast<std::size_t>(id.part.index);
        const Part& p = s[id.part];
        const Pin& pin = p.pins[static_cast<std::size_t>(id.pin)];
        if (!home[k] || pin.net.index < 0) return std::nullopt;
        Terminal t{id, terminalName(p, pin), pin.net, *home[k], {}};
        const auto laid = onBoard.find(p.id);
        if (laid != onBoard.end()) {
            const auto& [board, part] = laid->second;
            if (const int lug = id.pin == 0 ? part->from : id.pin == 1 ? part->to : 0; lug > 0) {
                t.lug = lug;
                t.joined = first.at({board, lug});
                t.at = lugAt(c, c.parts[t.spot], *board, lug);
                return t;
            }
        }
        t.at = own[k] && laid == onBoard.end() ? pinAt(*home[k], pin, id.pin, static_cast<int>(p.pins.size()))
                                               : middle(*home[k]);
        if (!own[k] || laid != onBoard.end()) atSocket(t);
        return t;
    }

  private:
    /// Its parts stand on it; lugs that jumpers join become one place.
    void layOut(const Board& board) {
        std::optional<std::size_t> on;
        for (std::size_t k = 0; k < c.parts.size(); ++k)
            if (!board.on.empty() && c.parts[k].id == board.on) on = k;
        if (!on) return;
        std::vector<int> root(static_cast<std::size_t>(board.lugs()) + 1);
        std::iota(root.begin(), root.end(), 0);
        const auto of = [&](int lug) {
            while (root[static_cast<std::size_t>(lug)] != lug) lug = root[static_cast<std::size_t>(lug)];
            return lug;
        };
        const auto there = [&](int lug) { return lug >= 1 && lug <= board.lugs(); };
        for (const BoardPart& p : board.parts)
            if (p.part.empty() && there(p.from) && there(p.to)) {
                const int a = of(p.from), z = of(p.to);
                root[static_cast<std::size_t>(std::max(a, z))] = std::min(a, z);
            }
        for (int lug = 1; lug <= board.lugs(); ++lug) first[{&board, lug}] = of(lug);
        for (const BoardPart& p : board.parts) {
            const auto part = p.part.empty() ? std::nullopt : s.find(p.part);
            if (!part || (p.from > 0 && !there(p.from)) || (p.to > 0 && !there(p.to))) continue;
            home[static_cast<std::size_t>(part->index)] = on;
            onBoard[p.part] = {&board, &p};
        }
        for (const Junction& j : board.junctions) {
            const auto part = s.find(junctionPart(board.on, j.lug));
            if (!part || !there(j.lug)) continue;
            junctions.push_back({{}, s[*part].id, j.lug, 0, false});
            home[static_cast<std::size_t>(part->index)] = on;
            onBoard[s[*part].id] = {&board, &junctions.back()};
        }
    }
    [[nodiscard]] std::optional<std::size_t> placed(const std::string& id) const {
        for (std::size_t k = 0; k < c.parts.size(); ++k)
            if (!id.empty() && c.parts[k].of == id) return k;
        for (std::size_t k = 0; k < c.parts.size(); ++k) // parts that a layout has by their kind
            if (c.parts[k].kind == id || (id == earthPart && c.parts[k].body == "earth-bolt")) return k;
        if (id == inletPart) // a captive lead comes in by its strain relief
            for (std::size_t k = 0; k < c.parts.size(); ++k)
                if (c.parts[k].kind == "relief") return k;
        for (std::size_t k = 0; k < c.parts.size(); ++k) // on the board that is placed for several
            if (c.parts[k].kind == "supply-board" && id.starts_with(c.parts[k].of + "-")) return k;
        return std::nullopt;
    }
    [[nodiscard]] Vector middle(std::size_t spot) const {
        return chassis::toChassis(chassis::frameOf(c, c.parts[spot]), 0, 0, -tagDepth(c, c.parts[spot]));
    }
    [[nodiscard]] Vector pinAt(std::size_t spot, const Pin& pin, int index, int count) const {
        const PlacedPart& p = c.parts[spot];
        const chassis::Base base = chassis::baseOf(p);
        if (p.kind == "socket" && base.pins > 0) {
            const int number = pin.number > 0 && pin.number < topCap ? pin.number
                               : pin.stands > 0                      ? pin.stands
                                                                     : index % base.pins + 1;
            return socketPinAt(c, p, number);
        }
        const double apart = p.kind == "can" ? 0.008 : 0.006; // tags side by side
        return chassis::toChassis(chassis::frameOf(c, p),
                                  apart * (index - 0.5 * (count - 1)) / std::max(1, count - 1) * 2, 0, -tagDepth(c, p));
    }
    /// Moves an end that belongs to a valve's electrode to the socket.
    void atSocket(Terminal& t) const {
        if (s[t.net].kind == NetKind::Heater || t.net == Schematic::ground) return;
        for (const std::size_t k : pinsOf[static_cast<std::size_t>(t.net.index)]) {
            if (!own[k] || c.parts[*home[k]].kind != "socket") continue;
            const Part& valve = s.parts()[k];
            for (std::size_t pin = 0; pin < valve.pins.size(); ++pin)
                if (valve.pins[pin].net == t.net) {
                    const Vector at =
                        pinAt(*home[k], valve.pins[pin], static_cast<int>(pin), static_cast<int>(valve.pins.size()));
                    if ((at - t.at).norm() > leadReach) continue;
                    t.spot = *home[k];
                    t.at = at;
                    return;
                }
        }
    }
    /// The board, else the part, nearest to what part `k` is connected to: by its signal nets first.
    [[nodiscard]] std::optional<std::size_t> nearby(std::size_t k) const {
        for (const bool signalOnly : {true, false}) {
            Vector sum = Vector::Zero();
            std::vector<std::size_t> near;
            for (const Pin& pin : s.parts()[k].pins) {
                if (pin.net.index <= 0) continue;
                const NetKind kind = s[pin.net].kind;
                if (signalOnly && kind != NetKind::Signal) continue;
                for (const std::size_t other : pinsOf[static_cast<std::size_t>(pin.net.index)])
                    if (other != k && home[other]) {
                        sum += middle(*home[other]);
                        near.push_back(*home[other]);
                    }
            }
            if (near.empty()) continue;
            const Vector centre = sum / static_cast<double>(near.size());
            const auto nearest = [&](auto holds) {
                std::optional<std::size_t> best;
                for (std::size_t n = 0; n < c.parts.size(); ++n)
                    if (holds(n) && (!best || (middle(n) - centre).norm() < (middle(*best) - centre).norm())) best = n;
                return best;
            };
            const auto board = nearest([&](std::size_t n) { return c.parts[n].kind == "board"; });
            if (board && (middle(*board) - centre).norm() <= boardReach) return board;
            return nearest([&](std::size_t n) { return std::find(near.begin(), near.end(), n) != near.end(); });
        }
        return std::nullopt;
    }

    const Chassis& c;
    const Schematic& s;
    std::vector<std::optional<std::size_t>> home;
    std::vector<bool> own;                        // placed by itself
    std::vector<std::vector<std::size_t>> pinsOf; // parts, by net
    std::map<std::string, std::pair<const Board*, const BoardPart*>> onBoard;
    std::map<std::pair<const Board*, int>, int> first; // lug of those that jumpers join
    std::deque<BoardPart> junctions;                   // as parts with one end
};

} // namespace

Vector socketPinAt(const Chassis& c, const PlacedPart& socket, int number) {
    // Pin circles of IEC 60067: octal 17.5 mm, noval 11.9 mm.
    const chassis::Base base = chassis::baseOf(socket);
    const double way = (chassis::pinDirection(socket, number) - socket.angle) * std::numbers::pi / 180,
                 radius = base.pins >= 8 && base.step > 40 ? 0.009 : 0.006;
    return chassis::toChassis(chassis::frameOf(c, socket), radius * std::cos(way), radius * std::sin(way),
                              -tagDepth(c, socket));
}

Vector lugAt(const Chassis& c, const PlacedPart& on, const Board& board, int lug) {
    const auto body = std::find_if(on.bodies.begin(), on.bodies.end(),
                                   [](const Body& b) { return b.id == "board" || b.id == "strip"; });
    const double depth = body == on.bodies.end() ? 0.04 : body->depth,
                 low = body == on.bodies.end() ? -solderDepth : body->bottom,
                 high = body == on.bodies.end() ? -solderDepth : body->bottom + body->height;
    constexpr double rim = 0.008; // from the edge to the middle of a lug
    const int column = (lug - 1) % board.columns, row = (lug - 1) / board.columns;
    const double x = (column - 0.5 * (board.columns - 1)) * board.pitch,
                 y = board.rows == 1 ? 0 : (row == 0 ? 1 : -1) * (depth / 2 - rim);
    const bool beneath =
        std::any_of(board.beneath.begin(), board.beneath.end(), [&](const BeneathLug& l) { return l.lug == lug; });
    return chassis::toChassis(chassis::frameOf(c, on), x, y, beneath ? high : low);
}

Terminals terminalsOf(const Build& b, const Catalogue& catalogue) {
    Terminals out{wholeAmplifier(b, catalogue), {}};
    const Schematic& s = out.whole.schematic;
    const Placing placing(b, s);
    for (std::size_t k = 0; k < s.parts().size(); ++k)
        for (std::size_t pin = 0; pin < s.parts()[k].pins.size(); ++pin)
            if (auto t = placing.terminal({{static_cast<int>(k)}, static_cast<int>(pin)}))
                out.list.push_back(std::move(*t));
    return out;
}

} // namespace ember::wires
