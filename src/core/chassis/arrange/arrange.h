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
    double total = 0;        ///< what its variants were compared by; less is better
    std::size_t misfits = 0; ///< by the true fit, on the plate that there is
    /// Plates by the true fit, where they were asked for; 0 where none was found [m]: the smallest in steps of the
    /// grid, the smallest of the usual ones, and that with a fifth more each way than the smallest.
    Extent least, usual, roomy;
    /// What its rules cost against the best that a search without rules finds: pickup [dB] and signal path [m], both
    /// below 0 where it is better; NaN where that was not asked for.
    double overFreeDb = plan::unknown, overFreeLength = plan::unknown;
    /// What does not fit, and what plate would take it; empty where all fits.
    std::string words;
};

struct Options {
    std::function<void(double)> progress = {}; ///< share done, 0 .. 1, from the calling thread
    std::stop_token stop = {};
    const Family* only = nullptr; ///< this family alone; nullptr: all
    bool plates = false;          ///< also the plates that each needs
    bool yardstick = false;       ///< also what the rules cost
};

/// Whether the one is to be preferred: fewer misfits, then the less total.
bool better(const Arrangement& one, const Arrangement& other);

/// One of each family for which the build has the parts. Within a family its rules hold exactly: channels are mirror
/// images or shifted copies (iron in one row of all iron keeps that row's pitch), equal parts stand in line at an equal
/// pitch, the order of the signal is kept. What the rules leave free is tried through: how iron is turned (all output
/// iron alike), left- or right-handed, the air around the parts, the room kept at the front and the back. Of those that
/// fit, the one with the least pickup, coupling, heat and imbalance is taken. Locked parts stay where they are. Empty
/// when stopped.
std::vector<Arrangement> arrangements(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                                      const Options& options = {});

} // namespace ember::chassis::arrange
