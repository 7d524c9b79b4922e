#include "arrange.h"

#include "walls.h"

#include "core/chassis/fit.h"
#include "core/chassis/kept_layouts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

namespace ember::chassis::arrange {

namespace {

/// fit exposure coupling heat balance symmetry rows iron signal: the rules see to symmetry and rows.
constexpr Scores weights{100, 10, 4, 1, 0.6, 0, 0, 0, 1.5};
constexpr std::size_t mostChecked = 48; // variants that are put to the true fit, the best first

struct Variant {
    Turns turns;
    bool otherHand = false;
    double air = 0, front = 0, back = 0; ///< [m]
    Spare spare = Spare::Even;
};

/// `clearance`: what live parts must keep between them [m].
std::vector<Variant> variantsOf(const Cast& cast, double clearance) {
    std::vector<Variant> out;
    const auto angles = [](bool any) { return any ? std::vector<double>{0, 90} : std::vector<double>{0}; };
    const bool iron = std::any_of(cast.channels.begin(), cast.channels.end(),
                                  [](const ChannelParts& ch) { return !ch.iron.empty(); });
    for (const double signal : angles(iron))
        for (const double mains : angles(!cast.mains.empty()))
            for (const double choke : angles(!cast.chokes.empty()))
                for (const bool hand : {false, true})
                    for (const double air : {clearance / 2, clearance / 2 + 3e-3})
                        for (const auto& [front, back] : {std::pair{0.0, 0.0},
                                                          {15e-3, 0.0},
                                                          {30e-3, 0.0},
                                                          {15e-3, 15e-3},
                                                          {30e-3, 15e-3},
                                                          {30e-3, 30e-3}})
                            for (const Spare spare : {Spare::Even, Spare::BesideSupply})
                                out.push_back({{signal, mains, choke}, hand, air, front, back, spare});
    return out;
}

/// Free of parts at the plate's edges: a hole's distance from a bend [m].
double marginOf(const Chassis& c) {
    return edgeClearance + (c.form == ChassisForm::Box ? c.bendRadius + c.thickness : 0);
}

std::vector<Spot> spotsOf(const Family& family, const Cast& cast, const Chassis& c, const Variant& v) {
    Block block = family.build(cast, v.turns);
    if (v.otherHand) block = mirrored(std::move(block));
    const double m = marginOf(c);
    auto spots = placed(block, c, v.air, m, m + v.front, c.width - 2 * m, c.depth - 2 * m - v.front - v.back, v.spare);
    for (const Spot& s : wallSpots(cast, c, spots)) spots.push_back(s);
    return spots;
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

/// The smallest of the usual plates that has these sides.
Extent usualFor(double width, double depth) {
    for (const auto& s : usualPlates())
        if (s[0] >= width - 1e-9 && s[1] >= depth - 1e-9) return {s[0], s[1]};
    return {};
}

std::string wordsFor(const Arrangement& a, const Chassis& c) {
    if (a.misfits == 0) return {};
    const bool larger = a.leastWidth > c.width + 1e-9 || a.leastDepth > c.depth + 1e-9;
    if (!larger)
        return fmt::format("{} {} left on this plate; see the notes at the parts once it is laid out.", a.misfits,
                           a.misfits == 1 ? "misfit is" : "misfits are");
    return fmt::format("Needs a plate of {:.0f} x {:.0f} mm; this one is {:.0f} x {:.0f} mm.", a.leastWidth * 1e3,
                       a.leastDepth * 1e3, c.width * 1e3, c.depth * 1e3);
}

/// Tries a family's variants on one build.
class Arranger {
  public:
    Arranger(const Build& b, const Catalogue& catalogue, const plan::Figures& figures, std::stop_token token)
        : c(b.chassis),
          cast(castOf(b)),
          volts(figures.cold && !figures.cold->nodes.empty() ? figures.cold->nodes[0].most : 400),
          variants(variantsOf(cast, clearanceFor(volts))),
          sketch(b, catalogue, figures),
          stop(std::move(token)) {}

    /// Nothing where the build has no part for the family, or when stopped.
    [[nodiscard]] std::optional<Arrangement> best(const Family& family) {
        if (family.build(cast, {}).empty()) return std::nullopt;
        Arrangement out;
        out.family = &family;
        leastPlate(out);
        const Variant* chosen = nullptr;
        for (const auto& [total, variant] : ranked(family)) {
            if (stop.stop_requested()) return std::nullopt;
            const auto places = standing(c, spotsOf(family, cast, c, *variant));
            const Chassis so = withPlaces(c, places);
            const std::size_t misfits = checkFit(so, assemble(so), volts).size();
            if (chosen && misfits >= out.misfits) continue;
            chosen = variant;
            out.misfits = misfits;
            out.places = places;
            out.total = total;
            if (misfits == 0) break;
        }
        if (!chosen) return std::nullopt;
        out.scores = scoresOf(family, *chosen);
        if (out.misfits == 0) { // the margins are a little on the safe side
            out.leastWidth = std::min(out.leastWidth, c.width);
            out.leastDepth = std::min(out.leastDepth, c.depth);
        }
        out.usual = usualFor(out.leastWidth, out.leastDepth);
        out.roomy = usualFor(1.2 * out.leastWidth, 1.2 * out.leastDepth);
        out.words = wordsFor(out, c);
        return out;
    }

  private:
    [[nodiscard]] Scores scoresOf(const Family& family, const Variant& v) {
        for (const Spot& s : spotsOf(family, cast, c, v)) sketch.move(s.part, s.x, s.y, s.angle);
        sketch.keep();
        return sketch.scores();
    }
    /// The variants to put to the true fit, the least total first.
    [[nodiscard]] std::vector<std::pair<double, const Variant*>> ranked(const Family& family) {
        std::vector<std::pair<double, const Variant*>> all;
        for (const Variant& v : variants) {
            if (stop.stop_requested()) return {};
            all.emplace_back(totalOf(scoresOf(family, v)), &v);
        }
        std::stable_sort(all.begin(), all.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
        if (all.size() > mostChecked) all.resize(mostChecked);
        return all;
    }
    void leastPlate(Arrangement& out) const {
        double least = std::numeric_limits<double>::infinity();
        for (const Variant& v : variants) {
            const Extent e = extentOf(out.family->build(cast, v.turns), c, v.air);
            const double width = e.width + 2 * marginOf(c), depth = e.depth + 2 * marginOf(c) + v.front + v.back;
            if (width * depth >= least) continue;
            least = width * depth;
            out.leastWidth = width;
            out.leastDepth = depth;
        }
    }

    const Chassis& c;
    const Cast cast;
    const double volts; ///< between live parts and the rest
    const std::vector<Variant> variants;
    Sketch sketch;
    std::stop_token stop;
};

bool samePlaces(const Arrangement& a, const Arrangement& b) {
    for (std::size_t k = 0; k < a.places.size(); ++k)
        if (std::hypot(a.places[k].x - b.places[k].x, a.places[k].y - b.places[k].y) > 1e-3) return false;
    return true;
}

} // namespace

std::vector<Arrangement> arrangements(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                                      const Options& options) {
    Arranger arranger(b, catalogue, figures, options.stop);
    std::vector<Arrangement> out;
    double done = 0;
    for (const Family& family : families()) {
        if (options.progress) options.progress(done++ / static_cast<double>(families().size()));
        if (options.only && &family != options.only) continue;
        auto found = arranger.best(family);
        if (options.stop.stop_requested()) return {};
        // With few parts two families can come to the same; the first of them stands for both.
        if (found && std::none_of(out.begin(), out.end(), [&](const auto& a) { return samePlaces(a, *found); }))
            out.push_back(std::move(*found));
    }
    if (options.progress) options.progress(1);
    return out;
}

} // namespace ember::chassis::arrange
