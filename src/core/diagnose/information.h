#pragma once
// How much a reading would tell: the information that it is expected to bring about what is wrong.

#include "ranking.h"

namespace ember::diagnose {

/// What a reading at a point would tell.
struct Telling {
    double bits = 0; ///< expected information: how far the doubt about the cause would shrink (Shannon)
    /// Of the ranking's suspects the likeliest, -1 for no fault, and the likeliest whose reading there is at least
    /// three standard deviations from its own; equal: there is none.
    int one = -1, other = -1;
};

/// By point, of those that `read` leaves empty. Each amplifier reads normally distributed about what it predicts;
/// causes below a thousandth and "none of these" do not count.
std::vector<Telling> tellings(const Ranking& ranking, const std::vector<double>& healthy,
                              const std::vector<std::optional<double>>& read, const std::vector<Spread>& spreads);

} // namespace ember::diagnose
