// Faults to the chassis, the signal's own currents in the returns, a source with an earth of its own.
#include "findings.h"

#include "core/quantity/letters.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::rules {

using namespace wires;

namespace {

std::string within(double seconds) {
    return std::isfinite(seconds) ? fmt::format("within {}", format(seconds, Unit::Second, 2)) : "not for sure";
}

/// Within how long a live conductor on the chassis has to be disconnected in a TN system [s]: IEC 60364-4-41:2005,
/// table 41.1, final circuits.
double disconnectWithin(double mainsVolts) {
    return mainsVolts > 230 * 1.1 ? 0.2 : mainsVolts > 120 * 1.1 ? 0.4 : 0.8;
}

/// B+ on the chassis has to be cleared before winding and rectifier burn [s].
constexpr double railWithin = 10;

void faultRules(const Build& b, const EarthFaults& f, std::vector<Finding>& out) {
    const double most = disconnectWithin(b.mains.volts);
    if (f.liveAmps > 0 && !(b.mains.loopOhms > 0))
        out.push_back(
            finding("grounds", "fault/loop", Level::Note, "The mains' earth loop is not measured",
                    fmt::format("{} is assumed: {} would flow into a fault and clear the fuse {}, where {} is the "
                                "limit. Have a licensed electrician measure the loop, and enter it here.",
                                format(b.mains.loop(), Unit::Ohm), format(f.liveAmps, Unit::Ampere),
                                within(f.liveSeconds), format(most, Unit::Second))));
    // Without any safety earth another finding is the one to act on.
    if (f.liveAmps > 0 && !(f.liveSeconds <= most))
        out.push_back(finding(
            "wiring", "fault/live", Level::Stop, "The fuse is not sure to clear a live conductor on the chassis",
            fmt::format(
                "{} would flow through a mains loop of {} and clear the {} fuse {}, where {} is the limit; the "
                "chassis meanwhile stands at {}. Have a licensed electrician measure the mains' earth: behind such a "
                "loop a residual-current device is what disconnects.",
                format(f.liveAmps, Unit::Ampere), format(b.mains.loop(), Unit::Ohm), format(b.fuse.amps, Unit::Ampere),
                within(f.liveSeconds), format(most, Unit::Second), format(f.touchVolts, Unit::Volt))));
    if (f.railAmps > 0 && !(f.railSeconds <= railWithin)) {
        Finding x =
            finding("grounds", "fault/rail", Level::Warn, "B+ on the chassis does not blow the mains fuse",
                    fmt::format("{} would flow, too little for {} to be sure to clear within {}: the winding and "
                                "the rectifier burn. Use a smaller fuse, or one in the chain.",
                                format(f.railAmps, Unit::Ampere), format(b.fuse.amps, Unit::Ampere),
                                format(railWithin, Unit::Second)));
        out.push_back(std::move(x));
    }
}

void signalRules(const Build& b, const HumFigures& hum, std::vector<Finding>& out) {
    for (const SignalReturn& s : hum.driven) {
        if (s.channel >= s.reached.size()) continue;
        const std::string& name = b.channels[s.channel].name;
        if (const double own = s.reached[s.channel]; own > 0.01)
            out.push_back(
                finding("grounds", "signal-return/" + b.channels[s.channel].id, own > 0.1 ? Level::Stop : Level::Warn,
                        fmt::format("{}: its output's current comes back into its input", name),
                        fmt::format("At 1 kHz {:.1f} % of the output arrives again by a ground wire that input "
                                    "and output share: the gain changes by as much, and from 100 % on it "
                                    "oscillates. The output's return goes to the last capacitor by a wire of "
                                    "its own.",
                                    100 * own)));
        for (std::size_t c = 0; c < s.reached.size(); ++c)
            if (c != s.channel && s.reached[c] > 1e-3)
                out.push_back(finding(
                    "grounds", fmt::format("crosstalk/{}/{}", b.channels[s.channel].id, b.channels[c].id), Level::Warn,
                    fmt::format("{} is heard in {}, {:.0f} dB down", name, b.channels[c].name,
                                -20 * std::log10(s.reached[c])),
                    "By the ground wires alone, at 1 kHz: its output's current shares a wire with the other's input. "
                    "Each channel's returns in order to its own capacitor."));
    }
}

void earthLoopRules(const Build& b, const HumFigures& hum, std::vector<Finding>& out) {
    if (!b.wiring.sourceEarthed) return;
    for (const EarthLoop& l : hum.earthLoops) {
        const double own = l.channel < hum.channels.size() ? hum.channels[l.channel].rms : 0;
        if (!(l.output > own)) continue;
        Finding x = finding(
            "grounds", "earth-loop/" + b.channels[l.channel].id, Level::Warn,
            fmt::format("{}: an earthed source brings {} of hum", b.channels[l.channel].name,
                        format(l.output, Unit::Volt)),
            fmt::format("{} between the two earths drive {} through the lead's screen; the amplifier alone makes {}. "
                        "Both safety earths stay. A bond through a resistor with diodes, an input transformer, or one "
                        "socket for both helps.",
                        format(b.wiring.earthVolts, Unit::Volt), format(l.amps, Unit::Ampere),
                        format(own, Unit::Volt)));
        if (b.wiring.bond == Bond::Direct)
            x.fix = setText("bond the signal ground through 10 Ω and diodes", "/wiring/bond",
                            nameIn(bondNames, Bond::Lifted));
        out.push_back(std::move(x));
    }
}

} // namespace

void earthRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.wires || !f.nominal || b.chassis.parts.empty()) return;
    faultRules(b, f.wires->hum.faults, out);
    signalRules(b, f.wires->hum, out);
    earthLoopRules(b, f.wires->hum, out);
}

} // namespace ember::rules
