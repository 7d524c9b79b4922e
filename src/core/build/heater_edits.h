#pragma once
// Edits to heater windings and to what hangs on them.

#include "build.h"
#include "edit.h"

namespace ember {

/// A further heater winding of `volts` without load and `amps`; `inSeriesWith`: id of the one it stands against, or
/// empty for one that heats valves itself.
Edit addHeaterWinding(const Build& build, double volts, double amps, const std::string& inSeriesWith = {});

/// Takes the winding away; its valves go back to the first that feeds "signal". A Problem where a rectifier or all
/// valves hang on it.
Expected<Edit> removeHeaterWinding(const Build& build, std::size_t winding);

/// Bottle `bottle` heated from winding `winding`, in parallel.
Edit heatFrom(const Build& build, std::size_t bottle, std::size_t winding);

/// Bottle `bottle` in one string with bottle `other`, on that one's winding.
Edit inStringWith(const Build& build, std::size_t bottle, std::size_t other);

} // namespace ember
