#pragma once
// Which heaters hang on which winding, in parallel or in strings, under some conditions.

#include "conditions.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

#include <functional>
#include <optional>

namespace ember::plan {

/// Heaters of one type side by side on one winding, or one heater of a string.
struct HeaterGroup {
    std::size_t winding = 0; ///< index in transformer.heaters
    std::string type;        ///< of the valve
    int count = 1;
    circuit::IncandescentLaw law;
    std::string string = {}; ///< Valve::heaterString; the string's others follow it
};

/// The winding of the other valves' heaters that a rectifier without a winding of its own is connected to: one with a
/// cathode of its own, of the same volts. Nothing: it needs its own.
std::optional<std::size_t> sharedWindingOf(const PowerTransformer& transformer, const RectifierType& rectifier);

/// The heaters that are in circuit under `c`, cold. A string with an empty socket carries nothing: none of it is there.
std::vector<HeaterGroup> heaterGroups(const Build& build, const Catalogue& catalogue, const Conditions& c);
/// Whether group `k` ends its string.
bool lastOfString(const std::vector<HeaterGroup>& groups, std::size_t k);

/// A bottle's heater as it is wired: by what its winding gives, or its share of a string.
Heater wiredHeater(const Build& build, const Catalogue& catalogue, const Valve& bottle, std::size_t winding);

/// By bottle of the build: whether it is in its socket.
std::vector<bool> bottlesIn(const Build& build, const Conditions& c);
/// By bottle: 0 where it is not in, else what `hot` says of its winding; 1 where no winding feeds it.
std::vector<double> bottleEmissions(const Build& build, const Conditions& c,
                                    const std::function<double(std::size_t winding, const Valve& bottle)>& hot);

} // namespace ember::plan
