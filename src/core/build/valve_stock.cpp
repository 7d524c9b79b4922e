#include "valve_stock.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember {

namespace {

/// The glass of `from` written over what stands at `place`.
void putGlass(const Build& b, ValvePlace place, const Valve& from, std::vector<Edit>& edits) {
    const std::string at = place.pointer();
    for (const auto& [key, value] : {std::pair("emission", from.emission),
                                     {"tolerance", from.tolerance},
                                     {"mu", from.mu},
                                     {"cutoff", from.cutoff},
                                     {"screen", from.screen},
                                     {"muTolerance", from.muTolerance},
                                     {"cutoffTolerance", from.cutoffTolerance},
                                     {"screenTolerance", from.screenTolerance},
                                     {"gas", from.gas},
                                     {"gasTolerance", from.gasTolerance}})
        edits.push_back(setValue("", fmt::format("{}/{}", at, key), value));
    edits.push_back(setText("", at + "/note", from.note));
    for (std::size_t k = valveAt(b, place).readings.size(); k-- > 0;)
        edits.push_back(removeAt("", fmt::format("{}/readings/{}", at, k)));
    for (const ReadPoint& p : from.readings) edits.push_back(insertAt("", at + "/readings/-", p));
}

} // namespace

std::string ValvePlace::pointer() const {
    return fmt::format("/{}/{}", spare ? "spares" : "bottles", index);
}

const Valve& valveAt(const Build& b, ValvePlace p) {
    return (p.spare ? b.spares : b.bottles).at(p.index);
}

std::vector<ValvePlace> valvesOfType(const Build& b, std::string_view type) {
    std::vector<ValvePlace> out;
    for (const bool spare : {false, true}) {
        const auto& all = spare ? b.spares : b.bottles;
        for (std::size_t k = 0; k < all.size(); ++k)
            if (all[k].type == type) out.push_back({spare, k});
    }
    return out;
}

std::vector<ValveReading> readingsOf(const std::vector<ReadPoint>& points) {
    std::vector<ValveReading> out;
    for (const ReadPoint& p : points) out.push_back({p.section, p.plate, p.screen, p.grid, p.plateAmps, p.screenAmps});
    return out;
}

ValveShares sharesOf(const Valve& v) {
    return {v.emission, v.mu, v.cutoff, v.screen, v.gas};
}

Edit keepReadings(const Build& b, ValvePlace place, const std::vector<ReadPoint>& points, const ReadValve& found) {
    const Valve usual;
    const double left = std::max(0.03, found.error);
    const auto tolerance = [&](Share share, double otherwise) { return found.told(share) ? left : otherwise; };
    Valve v = valveAt(b, place);
    v.emission = std::clamp(found.shares.emission, 0.0, 1.5);
    v.mu = found.shares.mu, v.cutoff = found.shares.cutoff, v.screen = found.shares.screen;
    v.tolerance = tolerance(Share::Emission, usual.tolerance);
    v.muTolerance = tolerance(Share::Mu, usual.muTolerance);
    v.cutoffTolerance = tolerance(Share::Cutoff, usual.cutoffTolerance);
    v.screenTolerance = tolerance(Share::Screen, usual.screenTolerance);
    v.readings = points;
    std::vector<Edit> edits;
    putGlass(b, place, v, edits);
    return together(fmt::format("{} as it was read", upper(v.id)), edits);
}

Edit addSpare(const Build& b, const std::string& type) {
    Valve v;
    v.type = type;
    for (int k = 1;; ++k) {
        v.id = fmt::format("x{}", k);
        if (std::none_of(b.spares.begin(), b.spares.end(), [&](const Valve& s) { return s.id == v.id; })) break;
    }
    return insertAt(fmt::format("{}, a spare {}", upper(v.id), type), "/spares/-", v);
}

Edit moveValves(const Build& b, const std::vector<ValvePlace>& from, const std::vector<ValvePlace>& to) {
    std::vector<Edit> edits;
    for (std::size_t k = 0; k < std::min(from.size(), to.size()); ++k)
        if (!(from[k] == to[k])) putGlass(b, to[k], valveAt(b, from[k]), edits);
    return together("valves in other sockets", edits);
}

} // namespace ember
