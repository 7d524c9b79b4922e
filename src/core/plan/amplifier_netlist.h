#pragma once
// The amplifier, or a part of it, as the text that general circuit simulators read; it runs as it is.

#include "steady.h"

namespace ember::plan {

enum class NetlistPart { Supply, Channel, All };
/// Operating point; small-signal response from the inputs; through time.
enum class NetlistAnalysis { Op, Ac, Tran };

/// Comment lines name what stands where: `* net B+2 NODE`, `* pin v3 7 plate NODE`. Channels for `Op` and `Ac` have
/// their supply nodes and bias lines as sources at the means of `nominal`, so that the operating point is the plan's;
/// for `Tran` of all, the supply itself feeds them. A supply alone has only `Tran`. `channel`: index, for
/// NetlistPart::Channel. The results are printed, so that the simulator in batch mode answers by itself.
Expected<std::string> amplifierNetlist(const Build& build, const Catalogue& catalogue, const Steady& nominal,
                                       NetlistPart part, NetlistAnalysis analysis, std::size_t channel = 0);

/// The high-voltage supply at nominal mains, with the stages' steady currents [A] per node as loads.
std::string supplyNetlistText(const Build& build, const Catalogue& catalogue, const std::vector<double>& amps);

} // namespace ember::plan
