#pragma once
// The usual ways of arranging an amplifier on its plate, one file each under families/.

#include "blocks.h"
#include "part_groups.h"

#include <span>

namespace ember::chassis::arrange {

/// What the rules of a family leave free: how the iron is turned [degrees].
struct Turns {
    double signalIron = 0, mains = 0, choke = 0;
    bool chokeBefore = false; ///< before the power transformer, and not beside it
    bool operator==(const Turns&) const = default;
};

/// How the channels repeat.
enum class Repeat { MirrorImage, ShiftedCopy };

struct Family {
    const char* id;
    const char* title;
    Repeat repeat;
    Block (*build)(const PartGroups& groups, const Turns& turns);
    bool chokeMoves = false; ///< `chokeBefore` is for it to use
    /// What stands on the lower plate of a tower; nullptr: the family has one chassis. Of mirrored channels it stands
    /// behind, else on the other side of them.
    Block (*below)(const PartGroups& groups, const Turns& turns) = nullptr;
};

/// Every family, in the order in which they are shown.
std::span<const Family> families();

/// Output valves at the back, boards between, small valves at the front in signal order.
Block valvesOf(const ChannelParts& channel);
/// The same with the channel's iron behind them.
Block channelOf(const ChannelParts& channel, const Turns& turns);
Block mainsOf(const PartGroups& groups, const Turns& turns);
Block chokesOf(const PartGroups& groups, const Turns& turns);
/// Valves that channels share, to stand between them.
Block sharedOf(const PartGroups& groups);
/// Blocks of the channels beside each other, as copies, and between the first two what they share, in line with their
/// small valves.
template <typename Make>
std::vector<Block> copies(const PartGroups& groups, Make make) {
    std::vector<Block> out;
    for (const ChannelParts& ch : groups.channels) {
        out.push_back(make(ch));
        if (out.size() == 1) out.push_back(atFront(sharedOf(groups)));
    }
    return out;
}
/// A row for each channel from its small valves at the left, the first channel in front, as copies; what they share to
/// the left of all.
template <typename Make>
Block lines(const PartGroups& groups, Make make) {
    Block all = column({});
    for (const ChannelParts& ch : groups.channels) all.of.insert(all.of.begin(), make(ch));
    return row({sharedOf(groups), std::move(all)});
}
/// Small valves, boards, output valves and iron in a row.
Block lineOf(const ChannelParts& channel, const Turns& turns);
/// Rectifiers, capacitors and what else belongs to no channel, in rows.
Block supplyOf(const PartGroups& groups);
/// Power transformer at the back, the choke beside it or before it, rectifiers and capacitors; between mirrored
/// channels `front` before them.
Block powerOf(const PartGroups& groups, const Turns& turns, Block front = {});
/// Boards of the supply and what has no duty, in a row.
Block othersOf(const PartGroups& groups);
/// `make` for every channel; the second half as mirror images in the mirrored order.
template <typename Make>
std::pair<std::vector<Block>, std::vector<Block>> halves(const PartGroups& groups, Make make) {
    std::pair<std::vector<Block>, std::vector<Block>> out;
    const std::size_t n = groups.channels.size();
    for (std::size_t k = 0; k < n; ++k)
        if (k < (n + 1) / 2)
            out.first.push_back(make(groups.channels[k]));
        else
            out.second.insert(out.second.begin(), mirrored(make(groups.channels[k])));
    return out;
}
/// `left`, `middle`, `right`, one beside the other.
Block between(std::vector<Block> left, Block middle, std::vector<Block> right);

} // namespace ember::chassis::arrange
