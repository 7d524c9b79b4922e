#include "pins.h"

#include "layout_edits.h"
#include "layout_figures.h"

#include "core/build/path.h"
#include "core/catalogue/bases.h"
#include "core/schematic/channel_parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis {

namespace {

constexpr double degree = std::numbers::pi / 180;

double off(double a, double b) {
    return std::abs(std::remainder(a - b, 360));
}

/// Middle direction of some pins.
double middle(const PlacedPart& p, const std::vector<int>& pins) {
    double x = 0, y = 0;
    for (const int pin : pins) {
        x += std::cos(pinDirection(p, pin) * degree);
        y += std::sin(pinDirection(p, pin) * degree);
    }
    return std::atan2(y, x) / degree;
}

double toNearestEdge(const Chassis& c, const PlacedPart& p) {
    const std::array<std::pair<double, double>, 4> ways{
        {{p.x, 180}, {c.width - p.x, 0}, {p.y, -90}, {c.depth - p.y, 90}}};
    return std::min_element(ways.begin(), ways.end())->second;
}

} // namespace

Base baseOf(const PlacedPart& p) {
    for (const BaseForm& form : baseForms)
        if (p.body.find(form.body) != std::string::npos) return {form.pins, form.step()};
    return {};
}

double pinDirection(const PlacedPart& p, int pin) {
    return p.angle + p.pinOne - 90 + baseOf(p).step * (pin - 1);
}

std::vector<PinView> pinViews(const Build& b, const Catalogue& catalogue) {
    std::vector<PinView> out;
    const Chassis& c = b.chassis;
    const auto look = [&](const Valve& valve, std::optional<std::size_t> driver) {
        const ValveType* type = catalogue.valve(valve.type);
        const auto at =
            std::find_if(c.parts.begin(), c.parts.end(), [&](const PlacedPart& p) { return p.of == valve.id; });
        if (!type || type->heaterPins.empty() || type->section(1).pins.grid.empty() || !driver || at == c.parts.end())
            return;
        PlacedPart p = *at;
        if (!isPlate(p.face) || baseOf(p).pins == 0) return;
        const PlacedPart& from = c.parts[*driver];
        const Vector way = toChassis(frameOf(c, from), 0, 0, 0) - toChassis(frameOf(c, p), 0, 0, 0);
        const double toDriver = std::atan2(way.y(), way.x()) / degree, toEdge = toNearestEdge(c, p);
        PinView v;
        v.part = static_cast<std::size_t>(at - c.parts.begin());
        v.driver = tagOf(from);
        const auto heater = [&] { return off(middle(p, type->heaterPins), toEdge); };
        const auto grid = [&] { return off(pinDirection(p, type->section(1).pins.grid[0]), toDriver); };
        v.heaterOff = heater();
        v.gridOff = grid();
        double least = 1e9;
        for (int turn = -165; turn <= 180; turn += 15) {
            p.pinOne = turn;
            const double score = heater() + grid() + 1e-3 * std::abs(turn);
            if (score >= least) continue;
            least = score;
            v.pinOne = turn;
            v.bestHeaterOff = heater();
            v.bestGridOff = grid();
        }
        out.push_back(v);
    };
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const auto path = signalPath(b, k);
        const auto placed = [&](const std::string& of) -> std::optional<std::size_t> {
            for (const std::size_t n : path)
                if (c.parts[n].of == of) return n;
            return std::nullopt;
        };
        // Each valve is driven by the one before it, the output valves by the last small one.
        std::string before = "input-" + ch.id;
        for (const std::string& id : schematic::smallBottles(ch)) {
            if (const Valve* v = bottleOf(b, id)) look(*v, placed(before));
            before = id;
        }
        for (const std::string& id : schematic::outputBottles(ch))
            if (const Valve* v = bottleOf(b, id)) look(*v, placed(before));
    }
    return out;
}

std::vector<Edit> socketTurns(const Build& b, const Catalogue& catalogue) {
    std::vector<Edit> all;
    for (const PinView& v : pinViews(b, catalogue))
        if (const PlacedPart& p = b.chassis.parts[v.part]; !p.locked && p.pinOne != v.pinOne)
            all.push_back(setValue("", fmt::format("/chassis/parts/{}/pinOne", v.part), v.pinOne));
    return all;
}

} // namespace ember::chassis
