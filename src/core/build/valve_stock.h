#pragma once
// Valves in sockets and at hand: their readings, and which of them stands where.

#include "edit.h"

#include "core/catalogue/this_valve.h"

namespace ember {

/// A socket of the build, or a spare.
struct ValvePlace {
    bool spare = false;
    std::size_t index = 0; ///< of Build::bottles or Build::spares
    [[nodiscard]] std::string pointer() const;
    bool operator==(const ValvePlace&) const = default;
    bool operator<(const ValvePlace& o) const { return spare != o.spare ? o.spare : index < o.index; }
};
const Valve& valveAt(const Build& build, ValvePlace place);
/// Sockets first.
std::vector<ValvePlace> valvesOfType(const Build& build, std::string_view type);

std::vector<ValveReading> readingsOf(const std::vector<ReadPoint>& points);
ValveShares sharesOf(const Valve& valve);

/// The readings and what was found of them: shares as the valve's, and where the readings tell one, a tolerance of what
/// is left of its error (3 % at least) in place of the type's.
Edit keepReadings(const Build& build, ValvePlace place, const std::vector<ReadPoint>& points, const ReadValve& found);
/// One more of a type; its id is the next free one ("x1", "x2").
Edit addSpare(const Build& build, const std::string& type);
/// What belongs to the glass moves: shares, tolerances, readings, note. `from[k]` goes to `to[k]`; both list the same
/// places.
Edit moveValves(const Build& build, const std::vector<ValvePlace>& from, const std::vector<ValvePlace>& to);

} // namespace ember
