#include "drawing.h"

#include "placing.h"
#include "routing.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::drawing {

namespace {

constexpr int edge = 2, mostWidenings = 12; ///< [grid steps] round the whole; how often room is added

/// Axes of columns and rows, as close as what stands in them allows: of two in one column the lower row's axis keeps
/// the distance that both need, and so do the columns of two that stand beside each other. `room` adds to it.
class Grid {
  public:
    Grid(const std::vector<Element>& of, std::function<double(std::size_t)> stageWidth)
        : elements(of),
          least(std::move(stageWidth)) {
        for (const Element& e : elements) columns[e.column], rows[e.row];
        lay();
    }
    [[nodiscard]] GridPoint axis(const Element& e) const { return {columns.at(e.column).axis, rows.at(e.row).axis}; }
    [[nodiscard]] int width() const {
        double out = 0;
        for (const Element& e : elements) out = std::max(out, axis(e).x + e.right);
        return static_cast<int>(std::ceil(out)) + 3 * edge;
    }
    [[nodiscard]] int height() const {
        double out = 0;
        for (const Element& e : elements) out = std::max(out, axis(e).y + e.down);
        return static_cast<int>(std::ceil(out)) + 3 * edge;
    }
    /// Room round the columns and rows at a place.
    void widen(GridPoint at) {
        for (auto* line : {&columns, &rows})
            for (auto& [key, x] : *line)
                if (std::abs(x.axis - (line == &columns ? at.x : at.y)) <= 8) ++x.room;
        lay();
    }

  private:
    struct Axis {
        int axis = 0, room = 0;
    };
    static constexpr double between = 1, beside = 0.5,
                            hanging = 5; ///< least room, and what counts as beside each other
    void lay() {
        std::vector<const Element*> order;
        for (const Element& e : elements) order.push_back(&e);
        std::stable_sort(order.begin(), order.end(),
                         [](const Element* a, const Element* b) { return a->row < b->row; });
        int last = 0;
        std::map<double, double> end; // by column: where what stands above ends
        for (std::size_t k = 0; k < order.size();) {
            Axis& row = rows[order[k]->row];
            double at = last;
            std::size_t next = k;
            for (; next < order.size() && order[next]->row == order[k]->row; ++next) {
                const auto above = end.find(order[next]->column);
                at = std::max(at, (above == end.end() ? edge : above->second + between) + order[next]->up);
            }
            // What hangs on a row or stands on it keeps clear of the row's own line.
            if (const auto above = rows.find(order[k]->row - 1); above != rows.end())
                at = std::max<double>(at, above->second.axis + hanging);
            row.axis = last = static_cast<int>(std::ceil(at + row.room + 0.02));
            for (; k < next; ++k) end[order[k]->column] = row.axis + order[k]->down;
        }
        std::stable_sort(order.begin(), order.end(),
                         [](const Element* a, const Element* b) { return a->column < b->column; });
        last = 0;
        std::size_t stage = noStage;
        double begin = 0, reach = 0; // of the stage: where it begins, and how far what stands so far goes
        for (std::size_t k = 0; k < order.size();) {
            Axis& column = columns[order[k]->column];
            double at = last;
            const Element* first = nullptr; // of its stage
            if (const std::size_t own = order[k]->stage; own != noStage && own != stage) {
                const double wide = stage == noStage || !least ? 0 : least(stage) / gridStep;
                if (stage != noStage) at = std::max(at, std::max(begin + wide, reach) + order[k]->left);
                stage = own;
                first = order[k];
            }
            std::size_t next = k;
            for (; next < order.size() && order[next]->column == order[k]->column; ++next) {
                const Element& e = *order[next];
                const double top = rows[e.row].axis - e.up - beside, bottom = rows[e.row].axis + e.down + beside;
                at = std::max(at, edge + e.left);
                for (std::size_t j = 0; j < k; ++j) {
                    const Element& o = *order[j];
                    at = std::max<double>(at, columns[o.column].axis + behind(o, e));
                    const int y = rows[o.row].axis;
                    if (y - o.up < bottom && y + o.down > top)
                        at = std::max(at, columns[o.column].axis + o.right + between + e.left);
                }
            }
            column.axis = last = static_cast<int>(std::ceil(at + column.room + 0.02));
            if (first) begin = column.axis - first->left;
            for (; k < next; ++k) reach = std::max(reach, column.axis + 0.0);
        }
    }
    /// How far the axis of `e` lies at least to the right of that of `o`, so that a wire they share runs to the right.
    static int behind(const Element& o, const Element& e) {
        if (std::abs(o.row - e.row) > 1.2) return 0;
        for (const Pin& a : o.pins)
            for (const Pin& b : e.pins)
                if (a.net == b.net && !a.flag && !b.flag && a.out.x >= 0 && b.out.x <= 0) return a.out.x - b.out.x;
        return 0;
    }
    const std::vector<Element>& elements;
    std::function<double(std::size_t)> least;
    std::map<double, Axis> columns, rows;
};

Box scaled(const Box& b, GridPoint at) {
    return {gridStep * (at.x + b.x), gridStep * (at.y + b.y), gridStep * b.width, gridStep * b.height};
}

void add(Drawing& d, const Element& e, GridPoint at) {
    const auto point = [&](const Point& p) { return Point{gridStep * (at.x + p.x), gridStep * (at.y + p.y)}; };
    d.bodies.push_back({e.id, e.part, e.section, e.stage, scaled(e.body, at),
                        e.value.width > 0 ? scaled(e.value, at) : Box{}, e.upright});
    for (Word w : e.words) {
        w.box = scaled(w.box, at);
        w.body = static_cast<int>(d.bodies.size()) - 1;
        d.words.push_back(std::move(w));
    }
    for (Line l : e.lines) {
        for (Point& p : l.points) p = point(p);
        d.lines.push_back(std::move(l));
    }
    for (Ring r : e.rings) {
        r.centre = point(r.centre), r.radius *= gridStep;
        d.rings.push_back(r);
    }
    for (const Pin& p : e.pins)
        if (p.index >= 0)
            d.pins.push_back(
                {e.part, p.index, p.net, point({static_cast<double>(p.at.x), static_cast<double>(p.at.y)})});
}

constexpr double unusualCosts = 120; ///< [mm] of wire that a pair is worth that stands as readers expect
constexpr int crossingCosts = 40;    ///< [grid steps] of wire that a crossing is worth

Drawing drawn(const Subject& subject, const Words& words, const SymbolMaker& symbols, const Form& form) {
    const std::vector<Element> elements = place(subject, symbols, form);
    Grid grid(elements, words.stageWidth);
    std::vector<Site> sites(elements.size());
    std::optional<Routed> routed;
    for (int round = 0; round <= mostWidenings && !routed; ++round) {
        for (std::size_t k = 0; k < elements.size(); ++k) sites[k] = {&elements[k], grid.axis(elements[k])};
        GridPoint crowded;
        routed = route(sites, grid.width(), grid.height(), crowded);
        if (!routed) grid.widen(crowded);
    }
    Drawing out;
    out.width = gridStep * grid.width(), out.height = gridStep * grid.height();
    for (const Site& s : sites) add(out, *s.element, s.axis);
    out.complete = routed.has_value();
    if (!routed) return out;
    for (Wire& w : routed->wires) {
        for (Point& p : w.points) p = {gridStep * p.x, gridStep * p.y};
        out.wires.push_back(std::move(w));
    }
    for (const Point& p : routed->dots) out.dots.push_back({gridStep * p.x, gridStep * p.y});
    out.crossings = routed->crossings;
    out.wireLength = gridStep * routed->length;
    return out;
}

} // namespace

Drawing draw(const Subject& subject, const Words& words) {
    const SymbolMaker symbols(subject, words);
    Drawing best;
    double least = 1e12;
    Form form;
    const auto better = [&](const Form& tried) {
        Drawing d = drawn(subject, words, symbols, tried);
        const double cost = (d.complete ? 0 : 1e9) + gridStep * crossingCosts * d.crossings + d.wireLength + d.width +
                            d.height + (tried.turnPairs ? 0 : unusualCosts);
        if (cost >= least) return;
        least = cost;
        best = std::move(d);
        form = tried;
    };
    better(form);
    better({false, {}});
    for (std::size_t k = 0; k < subject.stageOf.size(); ++k)
        if (subject.stageOf[k] == noStage && !subject.hidden[k])
            for (const Beside side : {Beside::Left, Beside::Beneath}) {
                Form tried = form;
                tried.beside[static_cast<int>(k)] = side;
                better(tried);
            }
    return best;
}

} // namespace ember::drawing
