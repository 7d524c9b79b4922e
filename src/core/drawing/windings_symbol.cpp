// The symbol of a transformer: each winding as a chain of its coils, tapped where they meet.
#include "symbols.h"

#include <algorithm>
#include <numbers>

namespace ember::drawing {

using namespace schematic;

void SymbolMaker::windings(Element& e, const std::function<double(NetId)>& rank) const {
    const Part& part = (*subject.schematic)[e.part];
    const auto& coils = std::get<Windings>(part.element).coils;
    const auto net = [&](int k) { return part.pins[static_cast<std::size_t>(k)].net; };
    // Coils that meet at a net are one winding with taps; the one of the first coil is the primary.
    std::vector<int> group(coils.size(), -1);
    const auto meet = [&](const Coil& x, const Coil& y) {
        return net(x.a) == net(y.a) || net(x.a) == net(y.b) || net(x.b) == net(y.a) || net(x.b) == net(y.b);
    };
    if (!coils.empty()) group[0] = 0;
    for (std::size_t round = 0; round < coils.size(); ++round)
        for (std::size_t k = 0; k < coils.size(); ++k)
            for (std::size_t j = 0; j < coils.size(); ++j)
                if (group[k] == 0 && group[j] < 0 && net(coils[j].a).index >= 0 && meet(coils[k], coils[j]) &&
                    part.pins[static_cast<std::size_t>(coils[j].a)].name.rfind("secondary", 0) != 0)
                    group[j] = 0;
    // Each side as a list of ends from top to bottom: pins that lie on one net stand at one place.
    const auto chain = [&](bool primary) {
        std::vector<Coil> left;
        for (std::size_t k = 0; k < coils.size(); ++k)
            if ((group[k] == 0) == primary) left.push_back(coils[k]);
        std::vector<std::vector<int>> ends;
        while (!left.empty()) {
            // An end that no other coil shares, the uppermost first.
            std::size_t start = 0;
            bool backwards = false;
            double best = 1e9;
            for (std::size_t k = 0; k < left.size(); ++k)
                for (const bool back : {false, true}) {
                    const NetId here = net(back ? left[k].b : left[k].a);
                    const bool shared = here.index >= 0 && std::any_of(left.begin(), left.end(), [&](const Coil& o) {
                                            return !(o == left[k]) && (net(o.a) == here || net(o.b) == here);
                                        });
                    const double worth = (shared ? 1e7 : 0) + (here.index < 0 ? 1e6 : rank(here));
                    if (worth < best) best = worth, start = k, backwards = back;
                }
            Coil c = left[start];
            left.erase(left.begin() + static_cast<std::ptrdiff_t>(start));
            ends.push_back({backwards ? c.b : c.a});
            ends.push_back({backwards ? c.a : c.b});
            for (bool more = true; more;) {
                more = false;
                for (std::size_t k = 0; k < left.size() && !more; ++k) {
                    const NetId foot = net(ends.back().front());
                    if (net(left[k].a) != foot && net(left[k].b) != foot) continue;
                    const bool back = net(left[k].a) != foot;
                    ends.back().push_back(back ? left[k].b : left[k].a);
                    ends.push_back({back ? left[k].a : left[k].b});
                    left.erase(left.begin() + static_cast<std::ptrdiff_t>(k));
                    more = true;
                }
            }
            if (!left.empty()) ends.push_back({}); // a bodyToWords between two windings
        }
        return ends;
    };
    const auto side = [&](const std::vector<std::vector<int>>& ends, int sign) {
        const int height = 4 * (static_cast<int>(ends.size()) - 1);
        int y = -height / 2;
        for (std::size_t k = 0; k < ends.size(); ++k, y += 4) {
            if (ends[k].empty()) continue;
            bool first = true;
            for (const int index : ends[k]) {
                if (first)
                    pin(e, index, net(index), {3 * sign, y}, {4 * sign, y});
                else
                    e.pins.push_back({index, net(index), {3 * sign, y}, {4 * sign, y}, true});
                first = false;
            }
            const double yy = y;
            e.lines.push_back({{{3.0 * sign, yy}, {1.0 * sign, yy}}, Ink::Part});
            if (k + 1 < ends.size() && !ends[k + 1].empty()) {
                std::vector<Point> arcs;
                for (int i = 0; i <= 48; ++i)
                    arcs.push_back(
                        {sign * (1 - 0.6 * std::abs(std::sin(i / 48.0 * 4 * std::numbers::pi))), yy + 4.0 * i / 48});
                e.lines.push_back({std::move(arcs), Ink::Part});
            }
        }
        return std::max(2.0, height / 2.0);
    };
    const double half = std::max(side(chain(true), -1), side(chain(false), 1));
    for (const double x : {-0.15, 0.15}) e.lines.push_back({{{x, -half}, {x, half}}, Ink::Part});
    e.body = {-3, -half, 6, 2 * half};
    const double high = words.height / gridStep;
    const auto [upper, lower] = edges(e, half);
    word(e, e.id, 0, upper - bodyToWords - high, Align::Centre, Ink::Name);
    valueWord(e, 0, lower + bodyToWords, Align::Centre);
    close(e);
}

} // namespace ember::drawing
