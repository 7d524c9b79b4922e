// What the path from grid to plate does not reach: second valves of pairs, what they share, transformers, parts between
// nets that stand already, and what is beneath the path.
#include "placer.h"

namespace ember::drawing {

using namespace schematic;

bool Placing::leftOver() {
    for (std::size_t k = 0; k < all.size(); ++k) { // valve() wants the place in the list
        if (all[k].placed || !mine(all[k]) || all[k].part.index < 0 || !isValve(all[k])) continue;
        const Electrodes at = electrodesOf(all[k]);
        double row = pairApart;
        for (const Element& o : all)
            if (o.placed && o.part.index >= 0 && isValve(o) && electrodesOf(o).cathode == at.cathode &&
                !flagged(at.cathode)) {
                row = o.row + pairApart;
                leftOf = o.column;
            }
        const std::optional<double> back = leftOf;
        if (leftOf) *leftOf += 1e-2; // at its partner's column
        const bool gridKnown = !flagged(at.grid) && isKnown(at.grid);
        valve(k, row);
        leftOf = back;
        if (!flagged(at.grid) && !gridKnown) {
            done.erase(at.grid.index);
            spread(at.grid, row);
        }
        leftOf.reset();
        return true;
    }
    // Parts on nets that are known by now.
    for (Element& e : all) {
        if (e.placed || !mine(e) || e.part.index < 0 || isValve(e) || isIron(e)) continue;
        for (const schematic::Pin& p : partOf(e).pins)
            if (p.net.index >= 0 && !flagged(p.net) && isKnown(p.net) && !tail.contains(p.net.index)) {
                done.erase(p.net.index);
                spread(p.net, known[p.net.index].row);
                if (e.placed) return true;
            }
    }
    return false;
}

bool Placing::tails() {
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

bool Placing::iron() {
    for (Element& e : all) {
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
            if (flagged(n)) return highVoltage(n) ? -1e6 : 1e6;
            return isKnown(n) ? known[n.index].row : 1e5;
        });
        const double row = pair ? (*rows.begin() + *rows.rbegin()) / 2 : *rows.begin();
        settle(e, next(), row);
        for (const schematic::Pin& p : partOf(e).pins)
            if (!flagged(p.net)) spread(p.net, row);
        return true;
    }
    return false;
}

void Placing::bridges() {
    for (Element& e : all)
        if (!e.placed && mine(e) && e.part.index >= 0 && twoEnded(e)) bridge(e);
}

void Placing::bridge(Element& e) {
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

void Placing::output() {
    if (subject.output.index < 0 || !isKnown(subject.output)) return;
    Element e;
    for (const Element& o : all)
        if (o.stage != noStage) e.stage = e.stage == noStage ? o.stage : std::max(e.stage, o.stage);
    symbols.terminal(e, subject.output, subject.outputName, true);
    settle(e, std::floor(last) + 1, known[subject.output.index].row);
    all.push_back(std::move(e));
}

void Placing::beneath() {
    double low = 0;
    std::set<double> columns;
    for (const Element& e : all)
        if (e.placed) low = std::max(low, e.row), columns.insert(e.column);
    double row = low + 1;
    now = noStage;
    for (;;) {
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

bool Placing::between(std::size_t start, Beside side) {
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
        step = highVoltage(to) ? -1 : 1;
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

double Placing::along(NetId n, double left, double row, const std::set<double>& columns) {
    const auto column = [&](double after, double at) {
        for (auto c = columns.upper_bound(after); c != columns.end(); ++c)
            if (!taken.contains({*c, at})) return *c;
        return std::floor(last) + 1;
    };
    double lowest = row;
    bool firstOne = true;
    for (Element& e : all) {
        if (e.placed || e.part.index < 0 || !hasPin(e, n)) continue;
        const double at = firstOne ? row : lowest + 1;
        const double c = column(left, at);
        if (isTrack(e))
            symbols.track(e), settle(e, c, at);
        else if (!twoEnded(e))
            continue;
        else if (flagged(otherEnd(e, n)))
            stand(e, true, highVoltage(otherEnd(e, n)) ? otherEnd(e, n) : n, c, at);
        else
            stand(e, false, n, c, at);
        lowest = std::max(lowest, at);
        firstOne = false;
        for (const schematic::Pin& p : partOf(e).pins)
            if (p.net.index >= 0 && p.net != n && !flagged(p.net) && known[p.net.index].column == c)
                lowest = std::max(lowest, along(p.net, c, at, columns));
    }
    return lowest;
}

} // namespace ember::drawing
