#pragma once
// What of a build is drawn, and how a drawing leaves the program.

#include "drawing.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/schematic/path_schematic.h"

#include <memory>

namespace ember::drawing {

/// A channel's path from jack to load. Parts that a stage has but that are not wired now (another position of a
/// switch) are drawn with flags that say so.
struct ChannelSubject {
    schematic::Schematic schematic;
    Subject subject; ///< points to `schematic`: not copied, not moved
    ChannelSubject() = default;
    ChannelSubject(const ChannelSubject&) = delete;
    ChannelSubject& operator=(const ChannelSubject&) = delete;
    std::vector<std::size_t> owner;          ///< by part: the stage that brought it, feedback's too; noStage: loose
    std::vector<schematic::ValveUse> valves; ///< of the channel
    std::vector<schematic::HeldNode> nodes;  ///< supply nodes, by the sources that stand for them
    [[nodiscard]] std::size_t stageOf(const Body& body) const;
    [[nodiscard]] const schematic::ValveUse* valveOf(const Body& body) const;
    /// What its layout depends on: parts, kinds, symbols and the names of nets, not values.
    [[nodiscard]] std::string shape() const;
};
std::unique_ptr<ChannelSubject> channelSubject(const Build& build, const Catalogue& catalogue, std::size_t channel);

/// Its main value as the build has it: of a transformer the primary impedance, of a potentiometer the track. Empty:
/// none.
std::string valueOf(const Build& build, const schematic::Part& part);

/// The sheet as SVG, black on white, in millimetres.
std::string toSvg(const Drawing& drawing, const std::string& title);
/// {"boxes", "wires", "pins"} in millimetres: docs/cli.md.
Json toJson(const Drawing& drawing, const schematic::Schematic& schematic);

} // namespace ember::drawing
