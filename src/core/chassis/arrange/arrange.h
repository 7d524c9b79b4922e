#pragma once
// The same parts in every arrangement that builders use, each at its best.

#include "families.h"

#include "core/chassis/sketch.h"

#include <functional>
#include <stop_token>

namespace ember::chassis::arrange {

struct Arrangement {
    const Family* family = nullptr;
    std::vector<Standing> places;
    Scores scores{};
    double total = 0;                      ///< what its variants were compared by; less is better
    std::size_t misfits = 0;               ///< by the true fit, on the plate that there is
    double leastWidth = 0, leastDepth = 0; ///< of the smallest plate in this arrangement [m]
    /// The smallest of the usual plates that takes it [m], 0 where none does; and with a fifth more each way.
    Extent usual, roomy;
    std::string words; ///< what does not fit, and what would; empty where all does
};

struct Options {
    std::function<void(double)> progress = {}; ///< share done, 0 .. 1, from the calling thread
    std::stop_token stop = {};
    const Family* only = nullptr; ///< all of them
};

/// One of each family for which the build has the parts. Within a family its rules hold exactly: channels are mirror
/// images or shifted copies, equal parts stand in line at an equal pitch, the order of the signal is kept. What the
/// rules leave free is tried through: how iron is turned (all output iron alike), to which hand, the air around the
/// parts, the room kept at the front and the back. Of those that fit, the one with the least pickup, coupling, heat
/// and imbalance is taken. Locked parts stay where they are. Empty when stopped.
std::vector<Arrangement> arrangements(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                                      const Options& options = {});

} // namespace ember::chassis::arrange
