#pragma once
// Prices from a table: a parts list that was written before, of this build or another, with prices filled in.

#include "parts_list.h"

namespace ember::report {

struct PricesRead {
    Edit edit;
    int taken = 0;   ///< lines of the list that have another price now
    int missing = 0; ///< priced lines of the table that are no part of this build
};

/// The columns "part" and "price each" are read. A Problem names the line of a price that is no number or below 0, and
/// is given where no price would change.
Expected<PricesRead> pricesFromTable(const Build& build, const PartsList& list, std::string_view text);

} // namespace ember::report
