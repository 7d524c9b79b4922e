#include "free_search.h"

#include "core/chassis/fit.h"
#include "core/chassis/kept_layouts.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace ember::chassis::arrange {

namespace {

constexpr double hottestTrial = 3, coldestTrial = 0.003; // temperatures, in units of the weighted score
constexpr double trialRaster = 1e-3;                     // places are whole millimetres
/// In the order of Term; pickup weighs the most after fit.
constexpr Scores freeWeights{12, 10, 4, 1, 0.6, 0.8, 1.2, 0.5, 1.5};

double weigh(const Scores& s, double fit) {
    double sum = 0;
    for (std::size_t k = 0; k < termCount; ++k) sum += freeWeights[k] * s[k] * (k == 0 ? fit : 1);
    return sum;
}

/// One trial after another on one sketch.
class FreeTrials {
  public:
    FreeTrials(Sketch& s, std::uint64_t seed) : sketch(s), random(seed) {
        for (std::size_t k = 0; k < sketch.size(); ++k)
            if (sketch.movable(k)) free.push_back(k);
    }
    [[nodiscard]] bool anything() const { return !free.empty(); }

    /// A random change of the kind that suits how far the search has come, `reach` [m].
    void trial(double reach) {
        const std::size_t k = free[whole(free.size())];
        const double dice = unit();
        if (!sketch.onPlate(k)) return shift(k, reach);
        if (dice < 0.55) return shift(k, reach);
        if (dice < 0.70) return turn(k);
        if (dice < 0.85) return swap(k);
        return mirrorMate(k);
    }

  private:
    double unit() { return std::uniform_real_distribution<double>(0, 1)(random); }
    std::size_t whole(std::size_t below) { return std::uniform_int_distribution<std::size_t>(0, below - 1)(random); }
    double spread(double by) { return std::normal_distribution<double>(0, by)(random); }
    static double rastered(double v) { return std::round(v / trialRaster) * trialRaster; }

    void put(std::size_t k, double x, double y, double angle) {
        const bool top = sketch.onPlate(k);
        sketch.move(k, rastered(std::clamp(x, 0.0, sketch.widthOf(k))),
                    top ? rastered(std::clamp(y, 0.0, sketch.depth())) : sketch.y(k), angle);
    }
    void shift(std::size_t k, double reach) {
        double dx = spread(reach), dy = spread(reach);
        const double dice = unit();
        if (dice < 0.25)
            dx = 0;
        else if (dice < 0.5)
            dy = 0;
        const std::size_t mate = sketch.mate(k);
        put(k, sketch.x(k) + dx, sketch.y(k) + dy, sketch.angle(k));
        if (mate != k && unit() < 0.6) put(mate, sketch.x(mate) - dx, sketch.y(mate) + dy, sketch.angle(mate));
    }
    void turn(std::size_t k) {
        const double by = unit() < 0.7 ? 90 : 180;
        put(k, sketch.x(k), sketch.y(k), sketch.angle(k) + by);
        const std::size_t mate = sketch.mate(k);
        if (mate != k && unit() < 0.6) put(mate, sketch.x(mate), sketch.y(mate), sketch.angle(mate) - by);
    }
    void swap(std::size_t k) {
        const std::size_t other = free[whole(free.size())];
        if (other == k || !sketch.onPlate(other)) return shift(k, 0.01);
        const double x = sketch.x(k), y = sketch.y(k);
        put(k, sketch.x(other), sketch.y(other), sketch.angle(k));
        put(other, x, y, sketch.angle(other));
    }
    void mirrorMate(std::size_t k) {
        const std::size_t mate = sketch.mate(k);
        if (mate == k || !sketch.movable(mate)) return shift(k, 0.03);
        put(mate, sketch.width() - sketch.x(k), sketch.y(k), -sketch.angle(k));
    }

    Sketch& sketch;
    std::mt19937_64 random;
    std::vector<std::size_t> free;
};

struct FreeFound {
    std::vector<Standing> places;
    double total = 0;
};

/// One search from hot to cold. Misfits weigh ten times as much at its end as at its start.
FreeFound annealed(Sketch sketch, std::uint64_t seed, int moves, const std::stop_token& stop) {
    sketch.keep();
    FreeTrials trials(sketch, seed);
    std::mt19937_64 chance(seed ^ 0x9e3779b97f4a7c15ULL);
    std::uniform_real_distribution<double> unit(0, 1);
    FreeFound best{sketch.places(), weigh(sketch.scores(), 10)};
    Scores standing = sketch.scores();
    for (int n = 0; n < moves && trials.anything() && !stop.stop_requested(); ++n) {
        const double share = double(n) / moves, fit = 1 + 9 * share;
        trials.trial(0.08 * std::pow(0.02, share));
        const Scores scores = sketch.scores();
        const double worse = weigh(scores, fit) - weigh(standing, fit);
        if (worse > 0 &&
            unit(chance) >= std::exp(-worse / (hottestTrial * std::pow(coldestTrial / hottestTrial, share)))) {
            sketch.takeBack();
            continue;
        }
        sketch.keep();
        standing = scores;
        if (const double total = weigh(scores, 10); total < best.total) best = {sketch.places(), total};
    }
    return best;
}

} // namespace

std::vector<Standing> freeSearch(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                                 std::uint64_t seed, int moves, std::stop_token stop) {
    const Sketch start(b, catalogue, figures);
    const double volts = liveVolts(figures);
    std::pair<std::size_t, double> least;
    std::vector<Standing> best;
    for (const std::uint64_t from : {seed, seed + 7919}) {
        FreeFound found = annealed(start, from, moves, stop);
        const Chassis c = withPlaces(b.chassis, found.places);
        const std::pair one{checkFit(c, assemble(c), volts).size(), found.total};
        if (!best.empty() && one >= least) continue;
        least = one;
        best = std::move(found.places);
    }
    return best;
}

} // namespace ember::chassis::arrange
