#include "proposals.h"

#include "fit.h"
#include "kept_layouts.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <future>
#include <random>

namespace ember::chassis {

namespace {

constexpr double hottest = 3, coldest = 0.003; // temperatures, in units of the weighted score
constexpr double raster = 1e-3;                // places are whole millimetres

constexpr double apart = 0.01; // [m] layouts whose parts stand nearer on average are one layout

double weigh(const Scores& s, const Scores& weights) {
    double sum = 0;
    for (std::size_t k = 0; k < termCount; ++k) sum += weights[k] * s[k];
    return sum;
}

/// One trial after another on one sketch.
class Search {
  public:
    Search(Sketch& s, std::uint64_t seed) : sketch(s), random(seed) {
        for (std::size_t k = 0; k < sketch.size(); ++k)
            if (sketch.movable(k)) free.push_back(k);
    }
    [[nodiscard]] bool anything() const { return !free.empty(); }

    /// A random change of the kind that suits how far the search has come, `reach` [m].
    void trial(double reach) {
        const std::size_t k = free[whole(free.size())];
        const double dice = unit();
        if (!sketch.onTop(k)) return shift(k, reach);
        if (dice < 0.55) return shift(k, reach);
        if (dice < 0.70) return turn(k);
        if (dice < 0.85) return swap(k);
        return mirrorMate(k);
    }

  private:
    double unit() { return std::uniform_real_distribution<double>(0, 1)(random); }
    std::size_t whole(std::size_t below) { return std::uniform_int_distribution<std::size_t>(0, below - 1)(random); }
    double spread(double by) { return std::normal_distribution<double>(0, by)(random); }
    static double rastered(double v) { return std::round(v / raster) * raster; }

    void put(std::size_t k, double x, double y, double angle) {
        const bool top = sketch.onTop(k);
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
        if (other == k || !sketch.onTop(other)) return shift(k, 0.01);
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

} // namespace

double meanShift(const std::vector<Standing>& one, const std::vector<Standing>& other) {
    double sum = 0;
    for (std::size_t k = 0; k < one.size(); ++k) sum += std::hypot(one[k].x - other[k].x, one[k].y - other[k].y);
    return one.empty() ? 0 : sum / static_cast<double>(one.size());
}

const std::array<Lean, 3>& leans() {
    //                                     fit exposure coupling heat balance symmetry rows iron signal
    static constexpr std::array<Lean, 3> all{{{"lowest hum", {12, 10, 4, 1, 0.6, 0.8, 1.2, 0.5, 1.5}},
                                              {"coolest, most room", {12, 2, 1, 5, 0.8, 0.8, 1.2, 0.4, 0.7}},
                                              {"tidiest", {12, 2, 1, 1, 1, 3, 2.5, 1.5, 0.7}}}};
    return all;
}

namespace {

/// One search from hot to cold. Misfits weigh ten times as much at its end as at its start.
Proposal search(const Sketch& start, const Lean& lean, const ProposalOptions& options, double warmest = hottest) {
    Sketch sketch = start;
    sketch.keep();
    Search moves(sketch, options.seed);
    std::mt19937_64 chance(options.seed ^ 0x9e3779b97f4a7c15ULL);
    std::uniform_real_distribution<double> unit(0, 1);
    const auto weighted = [&](const Scores& s, double share) {
        Scores weights = lean.weights;
        weights[static_cast<std::size_t>(Term::Fit)] *= 1 + 9 * share;
        return weigh(s, weights);
    };
    Proposal best{lean.name, sketch.places(), sketch.scores(), 0};
    best.total = weighted(best.scores, 1);
    Scores standing = best.scores;
    for (int n = 0; n < options.moves && moves.anything(); ++n) {
        const double share = double(n) / options.moves;
        if (n % 512 == 0) {
            if (options.stop.stop_requested()) return {};
            if (options.progress) options.progress(share);
        }
        const double temperature = warmest * std::pow(coldest / warmest, share);
        moves.trial(0.08 * std::pow(0.02, share));
        const Scores scores = sketch.scores();
        const double worse = weighted(scores, share) - weighted(standing, share);
        if (worse > 0 && unit(chance) >= std::exp(-worse / temperature)) {
            sketch.takeBack();
            continue;
        }
        sketch.keep();
        standing = scores;
        if (const double total = weighted(scores, 1); total < best.total)
            best = {lean.name, sketch.places(), scores, total};
    }
    return best;
}

} // namespace

Proposal propose(const Sketch& start, const Lean& lean, const ProposalOptions& options) {
    // A search can end in a poor corner, or with two parts wedged: the better of two, more where none fits.
    constexpr int tries = 6, least = 2;
    Proposal best;
    ProposalOptions own = options;
    for (int k = 0; k < tries; ++k) {
        own.seed = options.seed + 7919 * static_cast<std::uint64_t>(k);
        own.progress = [&, k](double share) {
            if (options.progress) options.progress(std::min(1.0, (k + share) / least));
        };
        Proposal found = search(start, lean, own);
        if (found.places.empty()) return {};
        if (options.misfits) found.misfits = options.misfits(found.places);
        if (best.places.empty() || std::pair(found.misfits, found.total) < std::pair(best.misfits, best.total))
            best = std::move(found);
        if (k + 1 >= least && best.misfits == 0 && best.scores[static_cast<std::size_t>(Term::Fit)] < 1e-9) break;
    }
    if (options.progress) options.progress(1);
    return best;
}

std::vector<Proposal> proposeThree(const Sketch& start, const ProposalOptions& options) {
    std::array<std::atomic<double>, 3> shares{};
    std::vector<std::future<Proposal>> running;
    for (std::size_t k = 0; k < leans().size(); ++k)
        running.push_back(std::async(std::launch::async, [&, k] {
            ProposalOptions own = options;
            own.seed = options.seed * 3 + k;
            own.progress = [&, k](double share) {
                shares[k] = share;
                if (options.progress) options.progress((shares[0] + shares[1] + shares[2]) / 3);
            };
            return propose(start, leans()[k], own);
        }));
    std::vector<Proposal> out;
    for (auto& one : running) out.push_back(one.get());
    // Where another's layout suits a lean better than its own, its search goes on from there, cooler; what it finds is
    // taken when it is another layout than the rest, for three are asked for.
    for (std::size_t k = 0; k < out.size() && !options.stop.stop_requested(); ++k) {
        const auto suits = [&](const Proposal& p) { return weigh(p.scores, leans()[k].weights); };
        const auto best = std::min_element(out.begin(), out.end(),
                                           [&](const Proposal& a, const Proposal& b) { return suits(a) < suits(b); });
        if (best->name == out[k].name) continue;
        Sketch from = start;
        for (std::size_t n = 0; n < from.size(); ++n)
            from.move(n, best->places[n].x, best->places[n].y, best->places[n].angle);
        from.keep();
        ProposalOptions own = options;
        own.progress = {};
        Proposal refined = search(from, leans()[k], own, 0.2 * hottest);
        const bool another = !refined.places.empty() && std::all_of(out.begin(), out.end(), [&](const Proposal& p) {
            return &p == &out[k] || meanShift(refined.places, p.places) > apart;
        });
        if (!another) continue;
        if (options.misfits) refined.misfits = options.misfits(refined.places);
        if (std::pair(refined.misfits, refined.total) < std::pair(out[k].misfits, out[k].total))
            out[k] = std::move(refined);
    }
    if (options.stop.stop_requested()) out.clear();
    if (options.progress && !out.empty()) options.progress(1);
    return out;
}

std::function<std::size_t(const std::vector<Standing>&)> trueMisfits(const Build& b, const plan::Figures& figures) {
    const double volts = figures.cold && !figures.cold->nodes.empty() ? figures.cold->nodes[0].most : 400;
    return [chassis = b.chassis, volts](const std::vector<Standing>& places) {
        const Chassis c = withPlaces(chassis, places);
        return checkFit(c, assemble(c), volts).size();
    };
}

} // namespace ember::chassis
