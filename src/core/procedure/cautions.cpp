// What each stage has to say about danger, at the place of the act, with the number of this amplifier.
#include "first_power.h"

#include "core/build/path.h"
#include "core/plan/discharge.h"
#include "core/plan/heater.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::procedure {

using namespace plan;

namespace {

std::string v(double volts) {
    return format(volts, Unit::Volt);
}

/// What the meter and its leads have to be rated for at `volts`, by the measurement ratings of IEC 61010-1.
std::string meterFor(double volts) {
    for (const double rating : {300.0, 600.0, 1000.0})
        if (volts <= rating) return fmt::format("meter and leads rated for {}", v(rating));
    return fmt::format("above {} no hand-held meter: a high-voltage probe rated for more than {}", v(1000), v(volts));
}

/// The heater winding that stands in for a reading of the mains, and its volts at this stage.
std::string standIn(const Build& b, const PowerStage& s) {
    for (const Expectation& e : s.expectations)
        if (e.point.kind == PointKind::HeaterVolts && b.transformer.heaters[e.point.index].feeds == "signal")
            return fmt::format("{} stands in for it: {} at {}", upper(b.transformer.heaters[e.point.index].id),
                               v(e.band.nominal), v(s.conditions.mainsVolts));
    return "a heater winding's volts stand in for it";
}

double crest(const Build& b, const PowerStage& s) {
    return std::numbers::sqrt2 * b.transformer.plateVolts * s.conditions.mainsVolts / b.transformer.primaryVolts;
}

/// The sense reading at which an output valve has lost its bias: the stop limit of this stage. Empty: none is read
/// here.
std::string biasLost(const Build& b, const Catalogue& catalogue, const PowerStage& s) {
    for (const Expectation& e : s.expectations)
        if (e.point.kind == PointKind::Sense && e.stopAbove) {
            const double watts =
                catalogue.valve(b.bottles[e.point.index].type)->section(e.point.section).limits.plateWatts;
            return fmt::format(
                "Bias lost, an output valve runs away within seconds and no fuse sees it. Above {} across "
                "a sense resistor ({}) switch off at once.",
                v(*e.stopAbove),
                watts > 0 ? format(watts, Unit::Watt) + " at the plate" : "its cathode's most current");
        }
    return {};
}

} // namespace

std::vector<std::string> cautionsOf(const Build& b, const Catalogue& catalogue, const PowerStage& s) {
    std::vector<std::string> out;
    const auto say = [&](std::string words) {
        if (!words.empty()) out.push_back(std::move(words));
    };
    if (!s.powered) {
        say("Lethal voltages may remain: read every capacitor before a hand goes in.");
        say("With the plug in, inlet, fuse and switch are live even when it is switched off: pull the plug, keep it in "
            "sight.");
        say("An ohmmeter's few volts find a short. They do not test insulation at 500 V: the limits of 2 MΩ and 4 MΩ "
            "are for that. Have someone with an insulation tester do it.");
        return out;
    }
    // The highest that stands there: the mains at its high end, before a valve draws.
    double rail = 0, most = crest(b, s);
    const auto nodes = [&](const std::optional<Steady>& of) {
        if (!of) return;
        for (const NodeFigures& n : of->nodes) rail = std::max(rail, n.most);
    };
    nodes(s.steady);
    nodes(s.cold);
    most = std::max(most, rail);
    if (!s.steady)
        say(fmt::format(
            "Lethal: up to {} peak at each end of the HV winding. This step could not be computed: what its "
            "meter will read is not known.",
            v(crest(b, s))));
    else if (rail > plan::extraLowVolts)
        say(fmt::format("Lethal: up to {} on the capacitors, {} peak at each end of the HV winding.", v(rail),
                        v(crest(b, s))));
    else
        say(fmt::format("Lethal: {} RMS, {} peak on the HV winding's pins; line and neutral at inlet, fuse and "
                        "switch.",
                        v(s.steady->legVolts), v(crest(b, s))));
    say(fmt::format(
        "Clip both leads on with the plug out, then switch on. One hand, no rings; not alone, not tired. Meter on "
        "volts, highest range first; {}.",
        meterFor(most)));
    const bool ripple = std::any_of(s.expectations.begin(), s.expectations.end(),
                                    [](const Expectation& e) { return e.point.kind == PointKind::Ripple; });
    if (ripple && rail > plan::extraLowVolts)
        say(fmt::format(
            "Ripple is read on AC with {} DC under it: a meter that takes that, or 0.1 µF rated for more in the "
            "red lead.",
            v(rail)));
    if (s.index == 1) {
        say("The lamp limits the current. It does not isolate: behind it the chassis is no safer than on the mains; "
            "nor behind a stepped supply.");
        say(fmt::format("Mains is read at an outlet, meter and leads of category II for 300 V, or not at all: {}.",
                        standIn(b, s)));
    }
    if (s.index == 4) say(biasLost(b, catalogue, s));
    const bool outputs = std::any_of(s.expectations.begin(), s.expectations.end(),
                                     [](const Expectation& e) { return e.point.runsAway; });
    if (s.conditions.outputsIn && outputs) {
        say(fmt::format("The load stays on: without it a signal swings the plates past {}, and an open secondary "
                        "arcs at the socket.",
                        v(2 * rail)));
        if (s.index >= 5) say("A resistor as the load, not a loudspeaker, until Bias and Measure are done.");
        if (!adjustersOf(b).empty()) say("Bias pots stand among live parts: a screwdriver insulated to its tip.");
    }
    return out;
}

} // namespace ember::procedure
