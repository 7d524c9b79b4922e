#pragma once
// How place() works: the columns and rows of one subject as they grow.

#include "placing.h"
#include "potentials.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <set>

namespace ember::drawing {

using schematic::Bottle, schematic::Capacitance, schematic::NetId, schematic::NetKind, schematic::Part,
    schematic::Schematic, schematic::Track, schematic::ValveSection, schematic::Windings;

constexpr double pairApart = 100, branchApart = 8; ///< rows from one side to the other, and between branches

class Placing {
  public:
    Placing(const Subject& s, const SymbolMaker& m, const Form& f)
        : subject(s),
          circuit(*s.schematic),
          symbols(m),
          form(f),
          potential(potentials(s)) {}

    std::vector<Element> run();

  private:
    /// A net that has its place: the row of its signal, and the column where it was reached.
    struct Known {
        double row = 0, column = 0;
    };

    /// Ends in a symbol with its name, or leads nowhere: an unfinished stage has such ends.
    [[nodiscard]] bool flagged(NetId n) const {
        return n.index < 0 || n == Schematic::ground || subject.flagged[static_cast<std::size_t>(n.index)];
    }
    [[nodiscard]] bool highVoltage(NetId n) const { return n.index >= 0 && circuit[n].kind == NetKind::HighVoltage; }
    [[nodiscard]] const Part& partOf(const Element& e) const { return circuit[e.part]; }
    [[nodiscard]] bool isValve(const Element& e) const { return std::holds_alternative<Bottle>(partOf(e).element); }
    [[nodiscard]] bool isIron(const Element& e) const { return std::holds_alternative<Windings>(partOf(e).element); }
    /// A potentiometer whose wiper is on a net of its own.
    [[nodiscard]] bool isTrack(const Element& e) const {
        const Part& p = partOf(e);
        return std::holds_alternative<Track>(p.element) && p.pins[1].net != p.pins[0].net &&
               p.pins[1].net != p.pins[2].net;
    }
    [[nodiscard]] bool twoEnded(const Element& e) const { return !isValve(e) && !isIron(e) && !isTrack(e); }
    [[nodiscard]] bool conducts(const Element& e) const {
        return twoEnded(e) && !std::holds_alternative<Capacitance>(partOf(e).element);
    }
    /// Of two ends: the nets.
    [[nodiscard]] NetId first(const Element& e) const { return partOf(e).pins.front().net; }
    [[nodiscard]] NetId second(const Element& e) const { return partOf(e).pins.back().net; }
    [[nodiscard]] bool touches(const Element& e, NetId n) const { return first(e) == n || second(e) == n; }
    [[nodiscard]] NetId otherEnd(const Element& e, NetId n) const { return first(e) == n ? second(e) : first(e); }
    [[nodiscard]] double height(NetId n) const {
        return n.index < 0 ? 0 : potential[static_cast<std::size_t>(n.index)];
    }

    struct Electrodes {
        NetId grid, screen, plate, cathode;
    };
    [[nodiscard]] Electrodes electrodesOf(const Element& e) const {
        const Part& p = partOf(e);
        const ValveSection& s = std::get<Bottle>(p.element).sections[static_cast<std::size_t>(e.section)];
        const auto net = [&](std::size_t k) { return p.pins[static_cast<std::size_t>(s.pins[k])].net; };
        if (s.pins.size() == 4) return {net(0), net(1), net(2), net(3)};
        return {net(0), {}, net(1), net(2)};
    }

    void collect();
    [[nodiscard]] std::size_t stageOfValve(const Element& valve) const;

    // Where it stands.
    void settle(Element& e, double column, double row) {
        while (taken.contains({column, row})) column += 1e-4;
        taken.insert({column, row});
        e.column = column, e.row = row, e.placed = true;
        last = std::max(last, column);
        for (const Pin& p : e.pins) know(p.net, row, column);
    }
    void know(NetId n, double row, double column) {
        if (n.index >= 0 && !flagged(n)) known.try_emplace(n.index, Known{row, column});
    }
    [[nodiscard]] bool isKnown(NetId n) const { return known.contains(n.index); }
    [[nodiscard]] double next() { return leftOf ? *leftOf -= 1e-2 : cursor += 1; }

    void stand(Element& e, bool upright, NetId firstNet, double column, double row) {
        symbols.twoEnded(e, upright, first(e) == firstNet ? 0 : 1);
        settle(e, column, row);
    }

    // A stage.
    void stage(std::size_t k);
    [[nodiscard]] bool mine(const Element& e) const { return e.stage == now; }
    [[nodiscard]] bool hasPin(const Element& e, NetId n) const {
        const auto& pins = partOf(e).pins;
        return std::any_of(pins.begin(), pins.end(), [&](const schematic::Pin& p) { return p.net == n; });
    }

    /// Everything of this stage that begins at a net, and from there on.
    void spread(NetId n, double row);

    /// A valve whose grid is reached, with the lines of its current.
    void valve(std::size_t k, double row);

    /// Brings the upper valve of a pair, and what stands on its side to the right of it, above the lower one's column.
    double align(std::size_t upper, double column, double row);

    /// The line of a current from `n` on: parts that lead further up (or down), one above the other, another valve on
    /// the way included.
    void chain(NetId n, double column, double row, int step, bool up, std::vector<std::pair<NetId, double>>& then);

    /// Valves that no path has reached: the second of a pair, whose grid is held.
    bool leftOver();

    /// What the cathodes of a pair have in common stands beside them, between the two.
    bool tails();

    /// A transformer between the nets that it hangs on.
    bool iron();

    /// Parts whose two ends stand already: beside what they are parallel to, or between their nets.
    void bridges();
    void bridge(Element& e);

    void output();

    /// Feedback and loose parts: in rows beneath the path, from the net that is furthest left to the right.
    void beneath();
    /// A string of parts from one net of the path to another, or to a flag, stands upright beside the first, if it may.
    bool between(std::size_t start, Beside side);

    /// Every part that hangs on `n` and is not placed, in a row from the column after `left`; returns the last row
    /// used.
    double along(NetId n, double left, double row, const std::set<double>& columns);

    const Subject& subject;
    const Schematic& circuit;
    const SymbolMaker& symbols;
    const Form& form;
    std::vector<double> potential;
    std::vector<Element> all;
    std::map<int, Known> known;
    std::set<int> done, electrode, tail, turned;
    std::set<std::pair<double, double>> taken;
    std::size_t now = 0;
    double cursor = 0, last = 0;
    std::optional<double> leftOf; ///< parts are placed one by one to the left of it, not to the right of `cursor`
};

} // namespace ember::drawing
