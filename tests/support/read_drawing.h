#pragma once
// A drawing as a reader has it before him: what overlaps, which lines touch, what hangs together. Knows nothing of how
// it was made.
#include "core/drawing/drawing.h"

#include <QString>

#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace ember::tests {

class DrawingReader {
  public:
    DrawingReader(const drawing::Drawing& drawn, const drawing::Subject& of) : d(drawn), subject(of) {
        for (const drawing::Wire& w : d.wires)
            for (std::size_t k = 1; k < w.points.size(); ++k)
                pieces.push_back({w.net.index, w.points[k - 1], w.points[k]});
    }

    /// Bodies, words and the rooms of values that lie on one another.
    [[nodiscard]] QString overlap() const {
        std::vector<std::pair<QString, drawing::Box>> boxes;
        for (const drawing::Body& b : d.bodies) boxes.emplace_back("body " + QString::fromStdString(b.id), b.box);
        for (const drawing::Word& w : d.words) boxes.emplace_back("word " + QString::fromStdString(w.text), w.box);
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (std::size_t k = 0; k < i; ++k)
                if (overlaps(boxes[i].second, boxes[k].second)) return boxes[i].first + " on " + boxes[k].first;
        for (const drawing::Body& b : d.bodies)
            for (const auto& [name, box] : boxes)
                if (b.value.width > 0 && overlaps(b.value, box) && !holds(b.value, box))
                    return "the value of " + QString::fromStdString(b.id) + " on " + name;
        return {};
    }
    /// A wire through a body or a word.
    [[nodiscard]] QString struck() const {
        for (const Piece& p : pieces) {
            const drawing::Box line{std::min(p.a.x, p.b.x), std::min(p.a.y, p.b.y), std::abs(p.a.x - p.b.x),
                                    std::abs(p.a.y - p.b.y)};
            for (const drawing::Body& b : d.bodies)
                if (overlaps(line, b.box)) return name(p.net) + " through " + QString::fromStdString(b.id);
            for (const drawing::Word& w : d.words)
                if (overlaps(line, w.box)) return name(p.net) + " through \"" + QString::fromStdString(w.text) + "\"";
        }
        return {};
    }
    /// Wires of two nets that share more than a plain crossing; `crossings` counts those.
    [[nodiscard]] QString touching(int& crossings) const {
        crossings = 0;
        for (std::size_t i = 0; i < pieces.size(); ++i)
            for (std::size_t k = 0; k < i; ++k) {
                const Piece &p = pieces[i], &q = pieces[k];
                if (p.net == q.net) continue;
                const bool across = p.a.y == p.b.y, other = q.a.y == q.b.y;
                if (across == other) {
                    const double at = across ? p.a.y - q.a.y : p.a.x - q.a.x;
                    const auto [a, b] = range(p, across);
                    const auto [c, e] = range(q, across);
                    if (at == 0 && a <= e && c <= b) return name(p.net) + " on " + name(q.net);
                    continue;
                }
                const Piece &h = across ? p : q, &v = across ? q : p;
                const auto [x1, x2] = range(h, true);
                const auto [y1, y2] = range(v, false);
                const double x = v.a.x, y = h.a.y;
                if (x < x1 || x > x2 || y < y1 || y > y2) continue;
                if (x == x1 || x == x2 || y == y1 || y == y2) return name(h.net) + " ends on " + name(v.net);
                ++crossings;
            }
        return {};
    }
    /// Joined by their ends alone, the wires give the schematic's nets: a pin on a wrong one, or one that is not
    /// reached.
    [[nodiscard]] QString misread() const {
        std::map<std::pair<double, double>, int> places;
        std::vector<int> parent;
        const auto place = [&](const drawing::Point& p) {
            const auto [at, fresh] = places.try_emplace({p.x, p.y}, static_cast<int>(parent.size()));
            if (fresh) parent.push_back(at->second);
            return at->second;
        };
        const auto root = [&](int k) {
            while (parent[static_cast<std::size_t>(k)] != k) k = parent[static_cast<std::size_t>(k)];
            return k;
        };
        for (const drawing::Wire& w : d.wires) {
            const int a = root(place(w.points.front())), b = root(place(w.points.back()));
            parent[static_cast<std::size_t>(a)] = b;
        }
        std::map<int, int> netOf, groupOf;
        for (const drawing::PinPoint& p : d.pins) {
            if (p.net.index < 0) continue;
            const bool flag =
                p.net == schematic::Schematic::ground || subject.flagged[static_cast<std::size_t>(p.net.index)];
            if (flag) {
                if (places.contains({p.at.x, p.at.y})) return "a wire at a pin on " + name(p.net.index);
                continue;
            }
            const int group = root(place(p.at));
            const auto [net, fresh] = netOf.try_emplace(group, p.net.index);
            if (net->second != p.net.index) return name(p.net.index) + " joined to " + name(net->second);
            const auto [known, first] = groupOf.try_emplace(p.net.index, group);
            if (known->second != group) return name(p.net.index) + " is in two pieces";
        }
        std::set<std::pair<int, int>> drawn, wanted;
        for (const drawing::PinPoint& p : d.pins) drawn.emplace(p.part.index, p.pin);
        for (std::size_t k = 0; k < subject.schematic->parts().size(); ++k)
            for (std::size_t pin = 0; !subject.hidden[k] && pin < subject.schematic->parts()[k].pins.size(); ++pin)
                if (subject.schematic->parts()[k].pins[pin].net.index >= 0)
                    wanted.emplace(static_cast<int>(k), static_cast<int>(pin));
        for (const auto& [part, pin] : wanted)
            if (!drawn.contains({part, pin}))
                return "no pin " + QString::number(pin) + " of " +
                       QString::fromStdString(subject.schematic->parts()[static_cast<std::size_t>(part)].id);
        return {};
    }
    [[nodiscard]] QString wrong() const {
        int crossings = 0;
        for (const QString& fault : {overlap(), struck(), touching(crossings), misread()})
            if (!fault.isEmpty()) return fault;
        return crossings == d.crossings ? QString()
                                        : QString("%1 crossings, and it says %2").arg(crossings).arg(d.crossings);
    }

  private:
    struct Piece {
        int net;
        drawing::Point a, b;
    };
    static constexpr double slack = 0.01; ///< [mm]
    static bool overlaps(const drawing::Box& a, const drawing::Box& b) {
        return a.x < b.x + b.width - slack && b.x < a.x + a.width - slack && a.y < b.y + b.height - slack &&
               b.y < a.y + a.height - slack;
    }
    static bool holds(const drawing::Box& outer, const drawing::Box& inner) {
        return inner.x >= outer.x - slack && inner.y >= outer.y - slack &&
               inner.x + inner.width <= outer.x + outer.width + slack &&
               inner.y + inner.height <= outer.y + outer.height + slack;
    }
    static std::pair<double, double> range(const Piece& p, bool across) {
        return across ? std::minmax(p.a.x, p.b.x) : std::minmax(p.a.y, p.b.y);
    }
    [[nodiscard]] QString name(int net) const {
        return net < 0 ? QString("no net")
                       : QString::fromStdString(subject.schematic->nets()[static_cast<std::size_t>(net)].name);
    }
    const drawing::Drawing& d;
    const drawing::Subject& subject;
    std::vector<Piece> pieces;
};

} // namespace ember::tests
