#include "arrange.h"

#include "free_search.h"
#include "storeys.h"
#include "walls.h"

#include "core/chassis/fit.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/tower.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <set>

namespace ember::chassis::arrange {

namespace {

/// fit exposure coupling heat balance symmetry rows iron signal: the rules see to symmetry and rows.
constexpr Scores weights{100, 20, 4, 1, 0.6, 0, 0, 0, 1.5};
constexpr std::size_t mostChecked = 48; // variants that are put to the true fit, the best first

struct Variant {
    Turns turns;
    bool otherHand = false;
    double air = 0, front = 0, back = 0; ///< [m]
    Spare spare = Spare::Even;
    bool besidePillars = false; ///< of a tower: as near to its sides as to those of one chassis
};

/// `clearance`: what live parts must keep between them [m].
std::vector<Variant> variantsOf(const PartGroups& groups, double clearance, bool tower) {
    std::vector<Variant> out;
    const auto angles = [](bool any) { return any ? std::vector<double>{0, 90} : std::vector<double>{0}; };
    const bool iron = std::any_of(groups.channels.begin(), groups.channels.end(),
                                  [](const ChannelParts& ch) { return !ch.iron.empty(); });
    for (const double signal : angles(iron))
        for (const double mains : angles(!groups.mains.empty()))
            for (const double choke : angles(!groups.chokes.empty()))
                for (const bool hand : {false, true})
                    for (const double air : {clearance / 2, clearance / 2 + 3e-3})
                        for (const auto& [front, back] : {std::pair{0.0, 0.0},
                                                          {15e-3, 0.0},
                                                          {30e-3, 0.0},
                                                          {15e-3, 15e-3},
                                                          {30e-3, 15e-3},
                                                          {30e-3, 30e-3}})
                            for (const Spare spare : {Spare::Even, Spare::BesideSupply, Spare::Apart})
                                out.push_back({{signal, mains, choke}, hand, air, front, back, spare});
    const auto alsoWith = [&](auto change) {
        for (std::size_t k = 0, count = out.size(); k < count; ++k) {
            out.push_back(out[k]);
            change(out.back());
        }
    };
    if (!groups.chokes.empty()) alsoWith([](Variant& v) { v.turns.chokeBefore = true; });
    if (tower) alsoWith([](Variant& v) { v.besidePillars = true; });
    // Shared out evenly nothing comes near to the pillars.
    std::erase_if(out, [](const Variant& v) { return v.besidePillars && v.spare == Spare::Even; });
    return out;
}

/// Left free at both sides of a plate [m]: what a hole keeps from the edge; the pillars of a tower.
double sideRoom(const Chassis& c, const Variant& v) {
    return isTower(c) && !v.besidePillars ? pillarReach(c) : edgeRoom(c, Face::Top);
}

/// What stands on the plates, by how the iron is turned and the hand.
struct Blocks {
    Turns turns;
    bool otherHand = false;
    Block above, below;
    [[nodiscard]] bool isOf(const Variant& v) const { return turns == v.turns && otherHand == v.otherHand; }
};
Blocks blocksOf(const Family& family, const PartGroups& groups, const Variant& v) {
    const auto inHand = [&](Block block) { return v.otherHand ? mirrored(std::move(block)) : block; };
    return {v.turns, v.otherHand, inHand(family.build(groups, v.turns)),
            family.below ? inHand(family.below(groups, v.turns)) : Block{}};
}

std::vector<Spot> spotsOf(const Family& family, const Blocks& blocks, const PartGroups& groups, const Chassis& c,
                          const Variant& v) {
    const double side = sideRoom(c, v), m = edgeRoom(c, Face::Top);
    std::vector<Spot> spots;
    // A plate of a tower has room to spare: where the two are kept apart, each is packed to its own end.
    const bool packed = family.below && v.spare != Spare::Even, aside = packed && family.repeat == Repeat::ShiftedCopy;
    const auto onPlate = [&](const Block& block, bool lower) {
        const Extent e = extentOf(block, c, v.air);
        double left = side, front = m + v.front, width = c.width - 2 * side, depth = c.depth - 2 * m - v.front - v.back;
        if (aside && width > e.width) {
            if (lower != v.otherHand) left += width - e.width;
            width = e.width;
        }
        if (packed && lower && depth > e.depth) {
            front += depth - e.depth;
            depth = e.depth;
        }
        for (const Spot& s : placed(block, c, v.air, left, front, width, depth, v.spare)) spots.push_back(s);
    };
    onPlate(blocks.above, false);
    if (family.below) onPlate(blocks.below, true);
    for (const Spot& s : wallSpots(groups, c, spots)) spots.push_back(s);
    return spots;
}
std::vector<Spot> spotsOf(const Family& family, const PartGroups& groups, const Chassis& c, const Variant& v) {
    return spotsOf(family, blocksOf(family, groups, v), groups, c, v);
}

double totalOf(const Scores& s) {
    double sum = 0;
    for (std::size_t k = 0; k < termCount; ++k) sum += weights[k] * s[k];
    return sum;
}

std::vector<Standing> standing(const Chassis& c, const std::vector<Spot>& spots) {
    std::vector<Standing> out = placesOf(c);
    for (const Spot& s : spots) {
        out[s.part].x = s.x;
        out[s.part].y = s.y;
        out[s.part].angle = s.angle;
    }
    return out;
}

std::string wordsFor(const Arrangement& a, const Chassis& c) {
    if (a.misfits == 0) return {};
    const bool larger = a.least.width > c.width + 1e-9 || a.least.depth > c.depth + 1e-9;
    if (!larger)
        return fmt::format("{} {} left on this plate; the findings name them once it is laid out.", a.misfits,
                           a.misfits == 1 ? "misfit is" : "misfits are");
    return fmt::format("Needs a plate of {:.0f} x {:.0f} mm; this one is {:.0f} x {:.0f} mm.", a.least.width * 1e3,
                       a.least.depth * 1e3, c.width * 1e3, c.depth * 1e3);
}

/// Tries a family's variants on one build.
class Arranger {
  public:
    Arranger(const Build& b, const Catalogue& catalogue, const plan::Figures& figures, std::stop_token token)
        : c(b.chassis),
          groups(groupParts(b)),
          volts(liveVolts(figures)),
          variants(variantsOf(groups, clearanceFor(volts), isTower(c))),
          sketch(b, catalogue, figures),
          stop(std::move(token)) {}

    /// Nothing where the build has no part for the family, or when stopped.
    [[nodiscard]] std::optional<Arrangement> best(const Family& family, bool plates) {
        if (family.build(groups, {}).empty() || (family.below && family.below(groups, {}).empty())) return std::nullopt;
        Arrangement out;
        out.family = &family;
        const Variant* chosen = nullptr;
        for (const auto& [total, variant] : ranked(family)) {
            if (stop.stop_requested()) return std::nullopt;
            const auto places = standing(c, spotsOf(family, groups, c, *variant));
            const std::size_t misfits = misfitsOn(c, places);
            if (chosen && misfits >= out.misfits) continue;
            chosen = variant;
            out.misfits = misfits;
            out.places = places;
            out.total = total;
            if (misfits == 0) break;
        }
        if (!chosen) return std::nullopt;
        out.scores = scoresOf(family, *chosen);
        if (plates) findPlates(out);
        out.words = wordsFor(out, c);
        return out;
    }

  private:
    [[nodiscard]] Scores scoresOf(const Family& family, const Variant& v) {
        return scoresOf(spotsOf(family, groups, c, v));
    }
    [[nodiscard]] Scores scoresOf(const std::vector<Spot>& spots) {
        for (const Spot& s : spots)
            if (s.x != sketch.x(s.part) || s.y != sketch.y(s.part) || s.angle != sketch.angle(s.part))
                sketch.put(s.part, s.x, s.y, s.angle);
        return sketch.scores();
    }
    /// The variants to put to the true fit, the least total first.
    [[nodiscard]] std::vector<std::pair<double, const Variant*>> ranked(const Family& family) {
        std::vector<std::pair<double, const Variant*>> all;
        std::set<std::vector<std::array<double, 3>>> known; // where there is no room to spare many come to the same
        std::optional<Blocks> blocks;                       // of the variant before
        for (const Variant& v : variants) {
            if (stop.stop_requested()) return {};
            if (v.turns.chokeBefore && !family.chokeMoves) continue;
            if (!blocks || !blocks->isOf(v)) blocks = blocksOf(family, groups, v);
            const std::vector<Spot> spots = spotsOf(family, *blocks, groups, c, v);
            std::vector<std::array<double, 3>> places;
            places.reserve(spots.size());
            for (const Spot& s : spots) places.push_back({s.x, s.y, s.angle});
            if (known.insert(std::move(places)).second) all.emplace_back(totalOf(scoresOf(spots)), &v);
        }
        std::stable_sort(all.begin(), all.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
        if (all.size() > mostChecked) all.resize(mostChecked);
        return all;
    }
    [[nodiscard]] std::size_t misfitsOn(const Chassis& plate, const std::vector<Standing>& places) const {
        const Chassis so = withPlaces(plate, places);
        return checkFit(so, assemble(so), volts).size();
    }
    [[nodiscard]] bool fitsOn(const Family& family, const Variant& v, Extent size) const {
        Chassis plate = c;
        plate.width = size.width;
        plate.depth = size.depth;
        return misfitsOn(plate, standing(plate, spotsOf(family, groups, plate, v))) == 0;
    }
    /// Every variant on plates somewhat smaller than its parts' boxes and margins, to somewhat larger, the smallest
    /// first, until one fits.
    void findPlates(Arrangement& out) const {
        constexpr int smaller = 3, larger = 8; // steps of the grid
        std::vector<std::pair<Extent, const Variant*>> tries;
        for (const Variant& v : variants) {
            if (v.otherHand || (v.turns.chokeBefore && !out.family->chokeMoves)) continue; // of the same size
            if (v.spare != (v.besidePillars ? Spare::Apart : Spare::Even)) continue;       // nothing is to spare
            Extent e = extentOf(out.family->build(groups, v.turns), c, v.air);
            if (out.family->below) {
                const Extent under = extentOf(out.family->below(groups, v.turns), c, v.air);
                e = {std::max(e.width, under.width), std::max(e.depth, under.depth)};
            }
            for (int k = -smaller; k <= larger; ++k)
                tries.push_back({{e.width + 2 * sideRoom(c, v) + k * grid,
                                  e.depth + 2 * edgeRoom(c, Face::Top) + k * grid + v.front + v.back},
                                 &v});
        }
        std::stable_sort(tries.begin(), tries.end(), [](const auto& a, const auto& b) {
            return a.first.width * a.first.depth < b.first.width * b.first.depth;
        });
        const auto least = std::find_if(tries.begin(), tries.end(), [&](const auto& t) {
            return stop.stop_requested() || fitsOn(*out.family, *t.second, t.first);
        });
        if (least == tries.end()) return;
        out.least = least->first;
        for (const auto& [width, depth] : usualPlates()) {
            const bool roomy = width >= 1.2 * out.least.width && depth >= 1.2 * out.least.depth;
            if ((out.usual.width > 0 && !roomy) || !fitsOn(*out.family, *least->second, {width, depth})) continue;
            if (out.usual.width == 0) out.usual = {width, depth};
            if (!roomy) continue;
            out.roomy = {width, depth};
            return;
        }
    }

    const Chassis& c;
    const PartGroups groups;
    const double volts; ///< between live parts and the rest
    const std::vector<Variant> variants;
    Sketch sketch;
    std::stop_token stop;
};

bool samePlaces(const Arrangement& a, const Arrangement& b) {
    for (std::size_t k = 0; k < a.places.size(); ++k)
        if (a.places[k].face != b.places[k].face ||
            std::hypot(a.places[k].x - b.places[k].x, a.places[k].y - b.places[k].y) > 1e-3)
            return false;
    return true;
}

} // namespace

bool better(const Arrangement& one, const Arrangement& other) {
    return std::pair(one.misfits, one.total) < std::pair(other.misfits, other.total);
}

namespace {

constexpr std::uint64_t freeSeed = 5;
constexpr int freeMoves = 40'000;
constexpr double yardstickShare = 0.3; // of the whole work, for progress

void measure(std::vector<Arrangement>& all, const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
             std::stop_token stop) {
    LayoutSolver solver;
    const auto summary = [&](const std::vector<Standing>& places) {
        Build x = b;
        x.chassis = withPlaces(b.chassis, places);
        return summarise(x, solver.solve(x, catalogue, figures));
    };
    const LayoutSummary free = summary(freeSearch(b, catalogue, figures, freeSeed, freeMoves, std::move(stop)));
    for (Arrangement& a : all) {
        const LayoutSummary own = summary(a.places);
        a.overFreeDb = own.exposureDb - free.exposureDb;
        a.overFreeLength = own.signalLength - free.signalLength;
    }
}

} // namespace

std::vector<Arrangement> arrangements(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                                      const Options& options) {
    Build one = b, tower = b;
    one.chassis = asOne(b.chassis);
    Arranger arranger(one, catalogue, figures, options.stop);
    std::optional<Arranger> towers;
    if (canBeTower(b.chassis) && (!options.only || options.only->below)) {
        tower.chassis = asTower(b);
        if (isTower(tower.chassis)) towers.emplace(tower, catalogue, figures, options.stop);
    }
    std::vector<Arrangement> out;
    double done = 0;
    for (const Family& family : families()) {
        if (options.progress)
            options.progress((options.yardstick ? 1 - yardstickShare : 1) * done++ /
                             static_cast<double>(families().size()));
        if (options.only && &family != options.only) continue;
        if (family.below && !towers) continue;
        auto found = (family.below ? *towers : arranger).best(family, options.plates);
        if (options.stop.stop_requested()) return {};
        // With few parts two families can come to the same; the first of them stands for both.
        if (found && std::none_of(out.begin(), out.end(), [&](const auto& a) { return samePlaces(a, *found); }))
            out.push_back(std::move(*found));
    }
    if (options.yardstick && !out.empty()) measure(out, one, catalogue, figures, options.stop);
    if (options.stop.stop_requested()) return {};
    if (options.progress) options.progress(1);
    return out;
}

} // namespace ember::chassis::arrange
