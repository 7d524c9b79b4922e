#pragma once
// The arrangements that builders think in, one file each under families/.

#include "blocks.h"
#include "cast.h"

#include <span>

namespace ember::chassis::arrange {

/// What the rules of a family leave free: how the iron is turned [degrees].
struct Turns {
    double signalIron = 0, mains = 0, choke = 0;
};

/// How the channels repeat.
enum class Repeat { MirrorImage, ShiftedCopy };

struct Family {
    const char* id;
    const char* title;
    Repeat repeat;
    Block (*build)(const Cast& cast, const Turns& turns);
};

/// Every family, in the order in which they are shown.
std::span<const Family> families();

/// Output valves at the back, boards between, small valves at the front in signal order.
Block valvesOf(const ChannelParts& channel);
/// The same with the channel's iron behind them.
Block channelOf(const ChannelParts& channel, const Turns& turns);
Block mainsOf(const Cast& cast, const Turns& turns);
Block chokesOf(const Cast& cast, const Turns& turns);
/// Valves that channels share, to stand between them.
Block sharedOf(const Cast& cast);
/// Blocks of the channels as copies of each other, what they share behind the first.
template <typename Make>
std::vector<Block> copies(const Cast& cast, Make make) {
    std::vector<Block> out;
    for (const ChannelParts& ch : cast.channels) {
        out.push_back(make(ch));
        if (out.size() == 1) out.push_back(sharedOf(cast));
    }
    return out;
}
/// Rectifiers, capacitors and what else belongs to no channel, in rows.
Block supplyOf(const Cast& cast);
/// Power transformer at the back, then choke, rectifiers and capacitors; between mirrored channels `front` before them.
Block powerOf(const Cast& cast, const Turns& turns, Block front = {});
/// `make` for every channel; the second half as mirror images in the mirrored order.
template <typename Make>
std::pair<std::vector<Block>, std::vector<Block>> halves(const Cast& cast, Make make) {
    std::pair<std::vector<Block>, std::vector<Block>> out;
    const std::size_t n = cast.channels.size();
    for (std::size_t k = 0; k < n; ++k)
        if (k < (n + 1) / 2)
            out.first.push_back(make(cast.channels[k]));
        else
            out.second.insert(out.second.begin(), mirrored(make(cast.channels[k])));
    return out;
}
/// `left`, `middle`, `right`, one beside the other.
Block between(std::vector<Block> left, Block middle, std::vector<Block> right);

} // namespace ember::chassis::arrange
