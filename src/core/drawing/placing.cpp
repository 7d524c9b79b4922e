// The stages of a path, one after the other: what comes to a grid, the line of a current, what hangs where.
#include "placer.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

namespace ember::drawing {

using namespace schematic;

std::vector<Element> Placing::run() {
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

void Placing::collect() {
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

std::size_t Placing::stageOfValve(const Element& valve) const {
    const Electrodes at = electrodesOf(valve);
    for (const NetId n : {at.grid, at.plate, at.cathode}) {
        if (flagged(n)) continue;
        // The latest stage that brings a part to the grid; the earliest at plate or cathode, which later ones take
        // from.
        std::size_t found = noStage;
        for (const Element& e : all) {
            if (isValve(e) || e.stage == noStage) continue;
            const auto& pins = partOf(e).pins;
            if (std::none_of(pins.begin(), pins.end(), [&](const schematic::Pin& p) { return p.net == n; })) continue;
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

void Placing::stage(std::size_t k) {
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

void Placing::spread(NetId n, double row) {
    if (flagged(n) || !done.insert(n.index).second) return;
    know(n, row, cursor);
    for (Element& e : all) // what hangs on it
        if (!e.placed && mine(e) && e.part.index >= 0 && twoEnded(e) && touches(e, n) && flagged(otherEnd(e, n))) {
            const bool above = highVoltage(otherEnd(e, n)) != turned.contains(n.index);
            stand(e, true, above ? otherEnd(e, n) : n, next(), row + (above ? -1 : 1));
        }
    for (Element& e : all)
        if (!e.placed && mine(e) && e.part.index >= 0 && isTrack(e) && hasPin(e, n)) {
            symbols.track(e);
            for (const schematic::Pin& p : partOf(e).pins) know(p.net, row, cursor + 1);
            settle(e, next(), row + 1);
            for (const schematic::Pin& p : partOf(e).pins)
                if (p.net != n && p.net.index >= 0) spread(p.net, row);
        }
    // What leads on: each branch from the same column, beneath the one before.
    const double begin = cursor;
    double lane = row, reached = cursor;
    const auto branch = [&](const auto& go) {
        if (!leftOf) cursor = begin;
        go(lane);
        reached = std::max(reached, cursor);
        lane += branchApart;
    };
    for (std::size_t k = 0; k < all.size(); ++k)
        if (const Element& e = all[k];
            !e.placed && mine(e) && e.part.index >= 0 && isValve(e) && electrodesOf(e).grid == n)
            branch([&](double at) { valve(k, at); });
    for (Element& e : all) {
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
                stand(e, false, n, next(), at);
                spread(m, at);
            });
        }
    }
    if (!leftOf) cursor = reached;
}

void Placing::valve(std::size_t k, double row) {
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

double Placing::align(std::size_t upper, double column, double row) {
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

void Placing::chain(NetId n, double column, double row, int step, bool up,
                    std::vector<std::pair<NetId, double>>& then) {
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

std::vector<Element> place(const Subject& subject, const SymbolMaker& symbols, const Form& form) {
    return Placing(subject, symbols, form).run();
}

} // namespace ember::drawing
