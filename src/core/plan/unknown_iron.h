#pragma once
// A transformer without its papers: which leads are one winding, in which order, and what it was made for.

#include "measured_iron.h"

#include <limits>
#include <span>

namespace ember::plan {

/// What was read between two leads; NaN: not. All volts at once, while any one winding is fed: only their ratios count.
struct LeadReading {
    std::string from, to;
    double ohms = std::numeric_limits<double>::quiet_NaN(); ///< infinite: no connection
    double volts = std::numeric_limits<double>::quiet_NaN();
};

struct FoundLead {
    std::string name;
    double turns = 0; ///< from the winding's first end, as a share of the whole
    std::string is;   ///< "end", "centre tap", "screen tap, 43 %", "tap, 50 %", "4 Ω"
};
struct FoundWinding {
    std::vector<FoundLead> leads;       ///< from one end to the other
    double ohms = 0, volts = 0;         ///< from end to end; 0: not read
    bool byCopper = false;              ///< shares are of resistance, for want of volts: within some 10 %
    double firstHalf = 0, lastHalf = 0; ///< copper from each end to the centre tap [ohm]; 0: no centre tap, or not read
};
struct UnknownIron {
    std::vector<FoundWinding> windings; ///< the most volts first; without volts the most ohms
    std::vector<std::string> says;      ///< what it may have been made for, and what would tell more
    MeasuredIron iron; ///< as an output transformer, for `load` on its whole secondary or the tap for it
};
/// Leads that conduct are one winding. Their order: every reading is a distance along it, and the signs are chosen that
/// agree best. Shares of turns from volts, else from copper. A tap within 4 % of the middle is a centre tap, pairs
/// symmetrical to it are screen taps. Turns of a secondary's taps as the roots of 2, 4, 8 and 16 name its loads; a
/// winding that comes near 5, 6.3 or 12.6 V when another stands at `mainsVolts` makes it a mains transformer. A Problem
/// names readings that cannot be.
Expected<UnknownIron> identify(std::span<const LeadReading> readings, double mainsVolts, double load,
                               const Meter& meter);

} // namespace ember::plan
