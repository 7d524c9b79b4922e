#pragma once
// What would help most against hum: changes tried one by one on the whole budget.

#include "hum.h"

#include "core/build/edit.h"

#include <stop_token>

namespace ember::wires {

struct Help {
    Edit edit;
    double decibels = 0; ///< less hum and noise in the worst channel, A-weighted not: rms against rms
};
/// The best three, most first; those of less than 0.5 dB are left out. Tried: another way of joining the returns, one
/// bond instead of several, twisted heaters, their reference, each supply capacitor doubled, the power transformer and
/// the chokes turned by 90 degrees, and everything that the builder's own wires changed put back as proposed.
std::vector<Help> whatHelps(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                            std::stop_token stop = {});

} // namespace ember::wires
