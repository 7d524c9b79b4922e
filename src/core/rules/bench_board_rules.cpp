// What a bench board for the trial needs that a chassis brings with it: a cover over the live lugs, and earth.
#include "findings.h"

#include "core/chassis/cage.h"
#include "core/chassis/finishes.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/wires/clips.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::rules {

using namespace chassis;

namespace {

void liveLugs(const Build& b, const LayoutFigures& layout, double volts, std::vector<Finding>& out) {
    const auto cover = coverNeeded(b.chassis, layout.assembly);
    if (!cover || b.chassis.cover != Cover::None) return;
    Finding f = finding(
        "chassis", "board-lugs", Level::Stop, "Live lugs stand within reach",
        fmt::format("Nothing covers the lugs of {} parts on the board, up to {}{}. A cover of "
                    "at least {:.0f} x {:.0f} "
                    "mm, {:.0f} mm high, screwed down before any mains, its openings below {:.0f} mm; plug out and "
                    "every capacitor measured before it comes off.",
                    cover->parts, format(volts, Unit::Volt), cover->mains ? ", the mains' own among them" : "",
                    cover->width * 1e3, cover->depth * 1e3, cover->height * 1e3, cagePitch * 1e3));
    f.fix = setText("a cage over the board", "/chassis/cover", "cage");
    out.push_back(std::move(f));
}

/// Wood earths nothing: each piece of metal within reach needs a wire of its own.
void metalApart(const Build& b, std::vector<Finding>& out) {
    std::string names;
    for (const PlacedPart& p : b.chassis.parts)
        if (isIron(p)) names += (names.empty() ? "" : ", ") + tagOf(p);
    const auto strips = stripsOf(b.chassis).size();
    if (names.empty() && strips == 0) return;
    if (strips > 0)
        names += fmt::format("{}{} strip{} at the edges", names.empty() ? "" : " and ", strips, strips > 1 ? "s" : "");
    out.push_back(finding("chassis", "board-earth", Level::Warn, "Wood earths no metal",
                          fmt::format("Each piece of metal within reach needs its own wire to the earth bolt: {}. Plug "
                                      "out, read below 0.1 \u03a9 from each to the inlet's earth pin.",
                                      names)));
}

/// A lead that slips off under power falls on whatever is near.
void leadsInClips(const Build& b, const wires::Harness& harness, std::vector<Finding>& out) {
    const wires::Clips clips = wires::clipsOf(b.chassis, harness);
    if (clips.count == 0) return;
    out.push_back(
        finding("wiring", "board-clips", Level::Note, "Leads end in clips",
                fmt::format("{} clips, up to {}: sleeved for {} or more. Tug each lead once before power; move none "
                            "unless the plug is out and every capacitor has been measured. Mains, earth and "
                            "the ground's lead to the chassis are screwed.",
                            clips.count, format(clips.volts, Unit::Volt), formatExact(clips.rated, Unit::Volt))));
}

} // namespace

void benchBoardRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (b.chassis.form != ChassisForm::Board || !f.layout || f.layout->assembly.of.size() != b.chassis.parts.size())
        return;
    liveLugs(b, *f.layout, liveVolts(f), out);
    metalApart(b, out);
    if (f.wires) leadsInClips(b, f.wires->harness, out);
}

} // namespace ember::rules
