#pragma once
// What of a build is drawn, and how a drawing leaves the program.

#include "drawing.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

#include <memory>

namespace ember::drawing {

/// A channel's path from jack to load.
struct ChannelSubject {
    schematic::Schematic schematic;
    Subject subject; ///< points to `schematic`: not copied, not moved
    ChannelSubject() = default;
    ChannelSubject(const ChannelSubject&) = delete;
    ChannelSubject& operator=(const ChannelSubject&) = delete;
    /// Values as the build writes them: a transformer's is its primary impedance, a potentiometer's its track.
    std::function<std::string(const schematic::Part&)> value;
    std::vector<std::string> places; ///< by part: JSON pointer of its main value
};
std::unique_ptr<ChannelSubject> channelSubject(const Build& build, const Catalogue& catalogue, std::size_t channel);

/// The sheet as SVG, black on white, in millimetres.
std::string toSvg(const Drawing& drawing, const std::string& title);
/// {"boxes", "wires", "pins"} in millimetres: docs/cli.md.
Json toJson(const Drawing& drawing, const schematic::Schematic& schematic);

} // namespace ember::drawing
