#include "placing.h"

#include "potentials.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ember::drawing {

using namespace schematic;

namespace {

constexpr double pairApart = 100, branchApart = 8; ///< rows from one side to the other, and between branches

class Placing {
  public:
    Placing(const Subject& s, const SymbolMaker& m, const Form& f)
        : subject(s),
          circuit(*s.schematic),
          symbols(m),
          form(f),
          potential(potentials(s)) {}

    std::vector<Element> run() {
        collect();
        std::size_t stages = 0;
        for (const Element& e : all)
            if (e.stage != noStage) stages = std::max(stages, e.stage + 1);
        if (subject.input.index >= 0) {
            Element e;
            e.stage = 0;
            symbols.terminal(e, subject.input, subject.inputName, false);
            settle(e, 0, 0);
            all.push_back(std::move(e));
            known[subject.input.index] = {0, 0};
        }
        for (std::size_t k = 0; k < stages; ++k) stage(k);
        output();
        beneath();
        return std::move(all);
    }

  private:
    /// A net that has its place: the row of its signal, and the column where it was reached.
    struct Known {
        double row = 0, column = 0;
    };

    [[nodiscard]] bool flagged(NetId n) const {
        return n == Schematic::ground || subject.flagged[static_cast<std::size_t>(n.index)];
    }
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
    [[nodiscard]] double height(NetId n) const { return potential[static_cast<std::size_t>(n.index)]; }

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

    void collect() {
        for (std::size_t k = 0; k < circuit.parts().size(); ++k) {
            if (subject.hidden[k]) continue;
            const Part& p = circuit.parts()[k];
            const auto* bottle = std::get_if<Bottle>(&p.element);
            const std::size_t systems = bottle ? bottle->sections.size() : 1;
            for (std::size_t s = 0; s < systems; ++s) {
                Element e;
                e.part = {static_cast<int>(k)};
                e.section = static_cast<int>(s);
                e.stage = subject.stageOf[k];
                e.id = subject.names.empty() ? upper(p.id) : subject.names[k];
                if (bottle && (systems > 1 || bottle->sections[s].number > 1))
                    e.id += fmt::format(".{}", bottle->sections[s].number);
                all.push_back(std::move(e));
            }
        }
        // A bottle is shared: each system belongs to the stage of what is at its grid or its cathode.
        for (Element& e : all)
            if (isValve(e)) e.stage = stageOfValve(e);
    }
    [[nodiscard]] std::size_t stageOfValve(const Element& valve) const {
        const Electrodes at = electrodesOf(valve);
        for (const NetId n : {at.grid, at.plate, at.cathode}) {
            if (flagged(n)) continue;
            // The latest stage that brings a part to the grid; the earliest at plate or cathode, which later ones take
            // from.
            std::size_t found = noStage;
            for (const Element& e : all) {
                if (isValve(e) || e.stage == noStage) continue;
                const auto& pins = partOf(e).pins;
                if (std::none_of(pins.begin(), pins.end(), [&](const schematic::Pin& p) { return p.net == n; }))
                    continue;
                found = found == noStage ? e.stage : n == at.grid ? std::max(found, e.stage) : std::min(found, e.stage);
            }
            if (found != noStage && n != at.grid) return found;
            if (found != noStage && n == at.grid) {
                // A part at the grid may be the load of the stage before, in a direct coupling: then its cathode tells.
                std::size_t below = noStage;
                for (const Element& e : all)
                    if (!isValve(e) && e.stage != noStage && !flagged(at.cathode))
                        for (const schematic::Pin& p : partOf(e).pins)
                            if (p.net == at.cathode) below = below == noStage ? e.stage : std::min(below, e.stage);
                return below == noStage ? found : std::max(found, below);
            }
        }
        return valve.stage;
    }

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
    [[nodiscard]] double next() { return leftOf > -1e8 ? (leftOf -= 1e-2) : (cursor += 1); }

    void stand(Element& e, bool upright, NetId firstNet, double column, double row) {
        symbols.twoEnded(e, upright, first(e) == firstNet ? 0 : 1);
        settle(e, column, row);
    }

    // A stage.
    void stage(std::size_t k) {
        now = k;
        done.clear();
        cursor = std::floor(last) + 1;
        const double begin = cursor;
        // What comes in: nets that stand already and that a part of this stage touches. Two on one row become two
        // sides.
        std::vector<std::pair<double, NetId>> entries;
        for (const auto& [net, at] : known) {
            const NetId n{net};
            if (std::any_of(all.begin(), all.end(), [&](const Element& e) {
                    return mine(e) && !e.placed && (isValve(e) ? electrodesOf(e).grid == n : hasPin(e, n));
                }))
                entries.emplace_back(at.row, n);
        }
        std::stable_sort(entries.begin(), entries.end(), [&](const auto& a, const auto& b) {
            return a.first != b.first ? a.first < b.first : height(a.second) > height(b.second);
        });
        for (std::size_t i = 1; i < entries.size(); ++i)
            if (entries[i].first < entries[i - 1].first + pairApart / 2)
                entries[i].first = entries[i - 1].first + pairApart;
        double reached = begin;
        for (const auto& [row, net] : entries) {
            cursor = begin;
            spread(net, row);
            reached = std::max(reached, cursor);
        }
        cursor = reached;
        for (bool more = true; more;) {
            more = leftOver() || tails();
            cursor = std::max(cursor, std::floor(last));
            more = iron() || more;
        }
        bridges();
    }
    [[nodiscard]] bool mine(const Element& e) const { return e.stage == now; }
    [[nodiscard]] bool hasPin(const Element& e, NetId n) const {
        const auto& pins = partOf(e).pins;
        return std::any_of(pins.begin(), pins.end(), [&](const schematic::Pin& p) { return p.net == n; });
    }

    /// Everything of this stage that begins at a net, and from there on.
    void spread(NetId n, double row) {
        if (flagged(n) || !done.insert(n.index).second) return;
        know(n, row, cursor);
        for (std::size_t k = 0; k < all.size(); ++k) // what hangs on it
            if (Element& e = all[k];
                !e.placed && mine(e) && e.part.index >= 0 && twoEnded(e) && touches(e, n) && flagged(otherEnd(e, n))) {
                const bool above = (circuit[otherEnd(e, n)].kind == NetKind::HighVoltage) != turned.contains(n.index);
                stand(e, true, above ? otherEnd(e, n) : n, next(), row + (above ? -1 : 1));
            }
        for (std::size_t k = 0; k < all.size(); ++k)
            if (Element& e = all[k]; !e.placed && mine(e) && e.part.index >= 0 && isTrack(e) && hasPin(e, n)) {
                symbols.track(e);
                for (const schematic::Pin& p : partOf(e).pins) know(p.net, row, cursor + 1);
                settle(e, next(), row + 1);
                for (const schematic::Pin& p : partOf(all[k]).pins)
                    if (p.net != n && p.net.index >= 0) spread(p.net, row);
            }
        // What leads on: each branch from the same column, beneath the one before.
        const double begin = cursor;
        double lane = row, reached = cursor;
        const auto branch = [&](const auto& go) {
            if (leftOf < -1e8) cursor = begin;
            go(lane);
            reached = std::max(reached, cursor);
            lane += branchApart;
        };
        for (std::size_t k = 0; k < all.size(); ++k)
            if (const Element& e = all[k];
                !e.placed && mine(e) && e.part.index >= 0 && isValve(e) && electrodesOf(e).grid == n)
                branch([&](double at) { valve(k, at); });
        for (std::size_t k = 0; k < all.size(); ++k) {
            Element& e = all[k];
            if (e.placed || !mine(e) || e.part.index < 0 || !twoEnded(e) || !touches(e, n)) continue;
            const NetId m = otherEnd(e, n);
            if (flagged(m) || isKnown(m)) continue;
            if (electrode.contains(n.index) && conducts(e) && std::abs(height(m) - height(n)) > 1e-3) {
                const bool above = (height(m) > height(n)) != turned.contains(n.index);
                if (turned.contains(n.index)) turned.insert(m.index);
                stand(e, true, above ? m : n, next(), row + (above ? -1 : 1));
                spread(m, row + (above ? -1 : 1));
                reached = std::max(reached, cursor);
            } else {
                branch([&](double at) {
                    stand(all[k], false, n, next(), at);
                    spread(m, at);
                });
            }
        }
        if (leftOf < -1e8) cursor = reached;
    }

    void valve(std::size_t k, double row) {
        const Electrodes at = electrodesOf(all[k]);
        // The other of a pair that shares its cathode with this one alone.
        std::size_t partner = all.size();
        int sharing = 0;
        for (std::size_t j = 0; j < all.size(); ++j)
            if (j != k && mine(all[j]) && all[j].part.index >= 0 && isValve(all[j]) && !flagged(at.cathode) &&
                electrodesOf(all[j]).cathode == at.cathode)
                partner = j, ++sharing;
        const bool pair = sharing == 1, second = pair && all[partner].placed;
        double column = next();
        const bool lower = form.turnPairs && second && all[partner].row < row;
        if (lower) column = align(partner, column, row);
        symbols.valve(all[k], lower);
        settle(all[k], column, row);
        for (const NetId n : {at.plate, at.cathode, at.screen})
            if (n.index >= 0 && !flagged(n)) {
                electrode.insert(n.index);
                if (lower && n != at.cathode) turned.insert(n.index);
            }
        std::vector<std::pair<NetId, double>> then;
        if (!flagged(at.plate)) {
            then.emplace_back(at.plate, row);
            chain(at.plate, column, row, lower ? 1 : -1, true, then);
        }
        if (sharing > 0) {
            if (pair ? second : true) tail.insert(at.cathode.index);
        } else if (!flagged(at.cathode)) {
            then.emplace_back(at.cathode, row);
            chain(at.cathode, column, row, 1, false, then);
        }
        if (at.screen.index >= 0 && !flagged(at.screen)) then.emplace_back(at.screen, row);
        for (const auto& [n, r] : then) know(n, r, column);
        std::reverse(then.begin(), then.end());
        for (const auto& [n, r] : then) spread(n, r);
    }

    /// Brings the upper valve of a pair, and what stands on its side to the right of it, above the lower one's column.
    double align(std::size_t upper, double column, double row) {
        const double from = all[upper].column, by = column - from;
        if (by <= 0) return taken.contains({from, row}) ? column : from;
        for (Element& e : all) {
            if (!e.placed || !mine(e) || e.column < from || e.row > row - branchApart / 2) continue;
            taken.erase({e.column, e.row});
            e.column += by;
            taken.insert({e.column, e.row});
        }
        for (auto& [net, at] : known)
            if (at.column >= from && at.row <= row - branchApart / 2) at.column += by;
        last = std::max(last, column);
        return column;
    }

    /// The line of a current from `n` on: parts that lead further up (or down), one above the other, another valve on
    /// the way included.
    void chain(NetId n, double column, double row, int step, bool up, std::vector<std::pair<NetId, double>>& then) {
        while (!flagged(n)) {
            std::size_t best = all.size();
            for (std::size_t k = 0; k < all.size(); ++k) {
                const Element& e = all[k];
                if (e.placed || !mine(e) || e.part.index < 0) continue;
                if (isValve(e)) {
                    const Electrodes at = electrodesOf(e);
                    if (up ? at.cathode == n : at.plate == n) best = k;
                    continue;
                }
                if (!conducts(e) || !touches(e, n)) continue;
                const double lead = (height(otherEnd(e, n)) - height(n)) * (up ? 1 : -1);
                if (lead <= 1e-3 || (best < all.size() && isValve(all[best]))) continue;
                if (best == all.size() || lead > (height(otherEnd(all[best], n)) - height(n)) * (up ? 1 : -1)) best = k;
            }
            if (best == all.size()) return;
            row += step;
            Element& e = all[best];
            if (isValve(e)) {
                const Electrodes at = electrodesOf(e);
                symbols.valve(e, false);
                settle(e, column, row);
                for (const NetId x : {at.plate, at.cathode, at.screen})
                    if (x.index >= 0 && !flagged(x)) electrode.insert(x.index);
                if (!flagged(at.grid)) then.emplace_back(at.grid, row);
                n = up ? at.plate : at.cathode;
            } else {
                const NetId m = otherEnd(e, n);
                const NetId topNet = (up && step < 0) || (!up && step < 0) ? m : n;
                stand(e, true, topNet, column, row);
                n = m;
            }
            if (!flagged(n)) then.emplace_back(n, row);
        }
    }

    /// Valves that no path has reached: the second of a pair, whose grid is held.
    bool leftOver() {
        for (std::size_t k = 0; k < all.size(); ++k) {
            if (all[k].placed || !mine(all[k]) || all[k].part.index < 0 || !isValve(all[k])) continue;
            const Electrodes at = electrodesOf(all[k]);
            double row = pairApart;
            for (std::size_t j = 0; j < all.size(); ++j)
                if (all[j].placed && all[j].part.index >= 0 && isValve(all[j]) &&
                    electrodesOf(all[j]).cathode == at.cathode && !flagged(at.cathode)) {
                    row = all[j].row + pairApart;
                    leftOf = all[j].column;
                }
            const double back = leftOf;
            if (leftOf > -1e8) leftOf += 1e-2; // at its partner's column
            const bool gridKnown = !flagged(at.grid) && isKnown(at.grid);
            valve(k, row);
            leftOf = back;
            if (!flagged(at.grid) && !gridKnown) {
                done.erase(at.grid.index);
                spread(at.grid, row);
            }
            leftOf = -1e9;
            return true;
        }
        // Parts on nets that are known by now.
        for (std::size_t k = 0; k < all.size(); ++k) {
            Element& e = all[k];
            if (e.placed || !mine(e) || e.part.index < 0 || isValve(e) || isIron(e)) continue;
            for (const schematic::Pin& p : partOf(e).pins)
                if (p.net.index >= 0 && !flagged(p.net) && isKnown(p.net) && !tail.contains(p.net.index)) {
                    const bool before = e.placed;
                    done.erase(p.net.index);
                    spread(p.net, known[p.net.index].row);
                    if (all[k].placed != before) return true;
                }
        }
        return false;
    }

    /// What the cathodes of a pair have in common stands beside them, between the two.
    bool tails() {
        if (tail.empty()) return false;
        const NetId n{*tail.begin()};
        tail.erase(tail.begin());
        double low = 1e9, high = -1e9;
        int count = 0;
        for (const Element& e : all)
            if (e.placed && e.part.index >= 0 && isValve(e) && electrodesOf(e).cathode == n) {
                low = std::min(low, e.row), high = std::max(high, e.row);
                ++count;
            }
        cursor = std::max(cursor, std::floor(last));
        std::vector<std::pair<NetId, double>> then;
        const double row = count == 2 ? (low + high) / 2 : high + 1;
        then.emplace_back(n, row);
        known[n.index].row = row;
        chain(n, next(), row, 1, false, then);
        for (const auto& [net, r] : then) {
            know(net, r, cursor);
            done.erase(net.index);
            spread(net, r);
        }
        return true;
    }

    bool iron() {
        for (std::size_t k = 0; k < all.size(); ++k) {
            Element& e = all[k];
            if (e.placed || !mine(e) || e.part.index < 0 || !isIron(e)) continue;
            // Between what it hangs on; of a single primary the supply's end lies on top.
            double sum = 0;
            std::set<double> rows;
            for (const schematic::Pin& p : partOf(e).pins)
                if (p.net.index >= 0 && !flagged(p.net) && isKnown(p.net)) rows.insert(known[p.net.index].row);
            if (rows.empty()) continue;
            for (const double row : rows) sum += row;
            const bool pair = *rows.rbegin() - *rows.begin() > pairApart / 2;
            symbols.windings(e, [&](NetId n) {
                if (flagged(n)) return circuit[n].kind == NetKind::HighVoltage ? -1e6 : 1e6;
                return isKnown(n) ? known[n.index].row : 1e5;
            });
            const double row = pair ? (*rows.begin() + *rows.rbegin()) / 2 : *rows.begin();
            settle(e, next(), row);
            for (const schematic::Pin& p : partOf(all[k]).pins)
                if (p.net.index >= 0 && !flagged(p.net)) spread(p.net, row);
            return true;
        }
        return false;
    }

    /// Parts whose two ends stand already: beside what they are parallel to, or between their nets.
    void bridges() {
        for (std::size_t k = 0; k < all.size(); ++k) {
            Element& e = all[k];
            if (e.placed || !mine(e) || e.part.index < 0) continue;
            if (!twoEnded(e)) continue;
            bridge(e);
        }
    }
    void bridge(Element& e) {
        const NetId a = first(e), b = second(e);
        for (const Element& o : all) {
            if (!o.placed || o.part.index < 0 || !twoEnded(o) || &o == &e) continue;
            if (!(touches(o, a) && touches(o, b))) continue;
            if (o.upright) {
                const NetId top = o.pins[0].net;
                stand(e, true, top, o.column + 1e-3, o.row);
            } else {
                double row = o.row - 0.5;
                while (taken.contains({o.column, row})) row -= 0.01;
                stand(e, false, o.pins[0].net, o.column, row);
            }
            return;
        }
        const auto ra = flagged(a) ? known[b.index] : known[a.index], rb = flagged(b) ? known[a.index] : known[b.index];
        if (std::abs(ra.row - rb.row) > 0.4) {
            const bool aUp = ra.row < rb.row;
            stand(e, true, aUp ? a : b, std::max(ra.column, rb.column) + 0.4, (ra.row + rb.row) / 2 + 0.003);
        } else {
            const bool aLeft = ra.column <= rb.column;
            double row = ra.row - 0.5;
            const double column = (ra.column + rb.column) / 2 + 0.003;
            while (taken.contains({column, row})) row -= 0.01;
            stand(e, false, aLeft ? a : b, column, row);
        }
    }

    void output() {
        if (subject.output.index < 0 || !isKnown(subject.output)) return;
        Element e;
        for (const Element& o : all)
            if (o.stage != noStage) e.stage = e.stage == noStage ? o.stage : std::max(e.stage, o.stage);
        symbols.terminal(e, subject.output, subject.outputName, true);
        settle(e, std::floor(last) + 1, known[subject.output.index].row);
        all.push_back(std::move(e));
    }

    /// Feedback and loose parts: in rows beneath the path, from the net that is furthest left to the right.
    void beneath() {
        double low = 0;
        std::set<double> columns;
        for (const Element& e : all)
            if (e.placed) low = std::max(low, e.row), columns.insert(e.column);
        double row = low + 1;
        now = noStage;
        for (bool more = true; more;) {
            more = false;
            std::size_t start = all.size();
            double left = 1e9;
            NetId from;
            for (std::size_t k = 0; k < all.size(); ++k) {
                if (all[k].placed) continue;
                for (const schematic::Pin& p : partOf(all[k]).pins) {
                    if (p.net.index < 0 || flagged(p.net) || !isKnown(p.net)) continue;
                    if (known[p.net.index].column < left) left = known[p.net.index].column, start = k, from = p.net;
                }
            }
            if (start == all.size()) break;
            more = true;
            const auto side = form.beside.find(all[start].part.index);
            if (!between(start, side == form.beside.end() ? Beside::Right : side->second))
                row = along(from, left, row, columns) + 1;
        }
        double column = std::floor(last) + 1;
        for (Element& e : all) // on flags alone, or on nothing that is drawn
            if (!e.placed) {
                now = e.stage;
                if (isValve(e))
                    symbols.valve(e, false), settle(e, column, 0);
                else if (isIron(e))
                    symbols.windings(e, [](NetId) { return 0.0; }), settle(e, column, 0);
                else if (isTrack(e))
                    symbols.track(e), settle(e, column, 0);
                else
                    stand(e, true, height(first(e)) >= height(second(e)) ? first(e) : second(e), column, 0);
                column += 1;
            }
    }
    /// A string of parts from one net of the path to another, or to a flag, stands upright beside the first, if it may.
    bool between(std::size_t start, Beside side) {
        if (side == Beside::Beneath || !twoEnded(all[start])) return false;
        std::vector<std::size_t> string{start};
        NetId from, to;
        for (const NetId n : {first(all[start]), second(all[start])})
            if (!flagged(n) && isKnown(n)) from = n;
        if (from.index < 0) return false;
        for (to = otherEnd(all[start], from); !flagged(to) && !isKnown(to);) {
            std::size_t next = all.size(), count = 0;
            for (std::size_t k = 0; k < all.size(); ++k)
                if (!all[k].placed && all[k].part.index >= 0 && hasPin(all[k], to) &&
                    std::find(string.begin(), string.end(), k) == string.end())
                    next = k, ++count;
            if (count != 1 || !twoEnded(all[next])) return false;
            string.push_back(next);
            to = otherEnd(all[next], to);
        }
        const Known a = known[from.index];
        double column = a.column, row = a.row, step = 1;
        if (flagged(to)) {
            step = circuit[to].kind == NetKind::HighVoltage ? -1 : 1;
        } else {
            const Known b = known[to.index];
            if (std::abs(a.row - b.row) < 2) return false;
            if (a.row > b.row) {
                std::swap(from, to);
                std::reverse(string.begin(), string.end());
            }
            column = std::max(a.column, b.column);
            row = (a.row + b.row) / 2;
            step = 0.01;
        }
        column += side == Beside::Right ? 0.5 : -0.5;
        for (const std::size_t k : string) {
            const NetId next = otherEnd(all[k], from);
            stand(all[k], true, step < 0 ? next : from, column, row += step);
            from = next;
        }
        return true;
    }

    /// Every part that hangs on `n` and is not placed, in a row from the column after `left`; returns the last row
    /// used.
    double along(NetId n, double left, double row, const std::set<double>& columns) {
        const auto column = [&](double after, double at) {
            for (auto c = columns.upper_bound(after); c != columns.end(); ++c)
                if (!taken.contains({*c, at})) return *c;
            return std::floor(last) + 1;
        };
        double lowest = row;
        bool firstOne = true;
        for (std::size_t k = 0; k < all.size(); ++k) {
            if (all[k].placed || all[k].part.index < 0 || !hasPin(all[k], n)) continue;
            Element& e = all[k];
            const double at = firstOne ? row : lowest + 1;
            const double c = column(left, at);
            if (isTrack(e))
                symbols.track(e), settle(e, c, at);
            else if (!twoEnded(e))
                continue;
            else if (flagged(otherEnd(e, n)))
                stand(e, true, circuit[otherEnd(e, n)].kind == NetKind::HighVoltage ? otherEnd(e, n) : n, c, at);
            else
                stand(e, false, n, c, at);
            lowest = std::max(lowest, at);
            firstOne = false;
            for (const schematic::Pin& p : partOf(all[k]).pins)
                if (p.net.index >= 0 && p.net != n && !flagged(p.net) && known[p.net.index].column == c)
                    lowest = std::max(lowest, along(p.net, c, at, columns));
        }
        return lowest;
    }

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
    double cursor = 0, last = 0, leftOf = -1e9;
};

} // namespace

std::vector<Element> place(const Subject& subject, const SymbolMaker& symbols, const Form& form) {
    return Placing(subject, symbols, form).run();
}

} // namespace ember::drawing
