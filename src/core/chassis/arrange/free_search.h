#pragma once
// The quietest layout that trying finds when no rule of arrangement holds: what arrangements are measured against.
// Simulated annealing (Kirkpatrick, Gelatt, Vecchi 1983) on a Sketch.

#include "core/chassis/sketch.h"

#include <stop_token>

namespace ember::chassis::arrange {

/// `moves` tried twice, from two seeds; of the two that with the fewer misfits by the true fit, then the less weighted
/// score. Locked parts stay, parts on walls keep their height.
std::vector<Standing> freeSearch(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                                 std::uint64_t seed, int moves = 150'000, std::stop_token stop = {});

} // namespace ember::chassis::arrange
