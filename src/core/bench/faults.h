#pragma once
// Faults as what they are: a part with another value. Applying one to a Build gives the amplifier that has it.

#include "core/build/build.h"

#include <functional>

namespace ember::bench {

struct Fault {
    std::string id;       ///< "leaky-reservoir"
    std::string sentence; ///< "C1 leaks: 4 kΩ across it"
    std::function<void(Build&)> inflict;
};

/// Those that this build can have.
std::vector<Fault> faultsOf(const Build& build);

} // namespace ember::bench
