#pragma once
// Faults as what they are: a part with another value, or a lead on another net. Applied to a Build and its wiring they
// give the amplifier that has them.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/channel_point.h"

#include <functional>
#include <string>
#include <vector>

namespace ember::diagnose {

struct Fault {
    std::string id;                      ///< "leaky/c11"
    std::string sentence;                ///< "C1 leaks: 4 kΩ across it"
    double weight = 1;                   ///< how often it is met, relative to an open resistor
    bool common = false;                 ///< among the first that a builder suspects
    std::function<void(Build&)> inflict; ///< its values
    plan::Miswiring wiring = {};         ///< its leads
};

/// Every fault that this build can have: of each part open, short, ten times off, leaky, reversed; of each valve dead,
/// weak, gassy, with a leak from heater to cathode, of another type, two leads exchanged or one on the next pin; of
/// windings open, half shorted, turned round; of the supply and the bias supply likewise.
std::vector<Fault> faultsOf(const Build& build, const Catalogue& catalogue);

} // namespace ember::diagnose
