#pragma once
// Starting layouts, found by trying very many: simulated annealing (Kirkpatrick, Gelatt, Vecchi 1983) on a Sketch.

#include "sketch.h"

#include <functional>
#include <stop_token>

namespace ember::chassis {

/// What a proposal leans to where it cannot have everything.
struct Lean {
    const char* name;
    Scores weights;
};
/// Three: the quietest, the coolest with the most room, the most regular to look at.
const std::array<Lean, 3>& leans();

struct Proposal {
    std::string name;
    std::vector<Standing> places;
    Scores scores{};
    double total = 0;        ///< weighted; less is better
    std::size_t misfits = 0; ///< by the true figures
};

struct ProposalOptions {
    std::uint64_t seed = 1;
    int moves = 150'000; ///< tried in each search; a proposal is the better of two
    /// How many misfits the true figures find in a layout; the sketch's boxes know nearly all of them. None: not asked.
    std::function<std::size_t(const std::vector<Standing>&)> misfits = {};
    std::function<void(double)> progress = {}; ///< share done, 0 .. 1, from any thread
    std::stop_token stop = {};
};

/// Asks checkFit() with a chassis of `build`, for the options above.
std::function<std::size_t(const std::vector<Standing>&)> trueMisfits(const Build& build, const plan::Figures& figures);

/// One proposal; locked parts stay, parts on walls keep their height and move along them. Empty places when stopped.
Proposal propose(const Sketch& start, const Lean& lean, const ProposalOptions& options);

/// How far the parts of two layouts stand apart, on average [m]; both name the same parts in the same order.
double meanShift(const std::vector<Standing>& one, const std::vector<Standing>& other);

/// All three, at the same time.
std::vector<Proposal> proposeThree(const Sketch& start, const ProposalOptions& options);

} // namespace ember::chassis
