#pragma once
// Placed parts by what they do: output valves of a channel, chokes, capacitors ... Arrangements are written in these
// groups.

#include "core/build/build.h"

#include <vector>

namespace ember::chassis::arrange {

/// Indices of placed parts, all on the top but input and output.
struct ChannelParts {
    std::vector<std::size_t> smallValves; ///< in signal order
    std::vector<std::size_t> outputValves;
    std::vector<std::size_t> iron;            ///< output, interstage and line transformers
    std::vector<std::size_t> boards;          ///< tag strips and boards, shared out evenly
    std::vector<std::size_t> inputs, outputs; ///< jacks and terminals, on any face
};

struct PartGroups {
    std::vector<ChannelParts> channels;
    std::vector<std::size_t> mains; ///< power transformers
    std::vector<std::size_t> chokes;
    std::vector<std::size_t> rectifiers;
    std::vector<std::size_t> cans;       ///< capacitors above the plate, in the order of the parts
    std::vector<std::size_t> shared;     ///< valves that several channels use, a section each
    std::vector<std::size_t> supplyRest; ///< boards of the supply, the earth bolt, what else stands below in a tower
    std::vector<std::size_t> others;     ///< on the top and of no duty: boards left over, other bodies
    std::vector<std::size_t> wall;       ///< on the front and the back, of no channel
};

/// The bolt of the safety earth beside the inlet; the number of parts where there is none. Further ones are a second
/// chassis' own.
std::size_t firstEarth(const Chassis& chassis);

/// Locked parts and those on the side walls are in none of the lists: they stay where they are.
PartGroups groupParts(const Build& build);

} // namespace ember::chassis::arrange
