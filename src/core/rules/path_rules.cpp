// What the path lacks to be a circuit, and feedback that makes an oscillator of it.
#include "findings.h"

#include "core/build/build_json.h"
#include "core/build/edit.h"
#include "core/plan/supply_feedback.h"
#include "core/quantity/letters.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::rules {

namespace {

/// A rise of the response below which a square's overshoot stays within some 20 %.
constexpr double mostPeakDb = 3;

std::optional<Edit> lessFeedback(const Build& b, std::size_t channel) {
    const Channel& ch = b.channels[channel];
    for (std::size_t k = 0; k < ch.stages.size(); ++k)
        if (const StagePart* r = schematic::dutyOf(ch.stages[k]) == schematic::Duty::Feedback
                                     ? ch.stages[k].part("resistor")
                                     : nullptr) {
            const double ohms = nextUp(1.4 * mainValue(r->part), Series::E12);
            return setValue(
                fmt::format("feedback through {}", formatExact(ohms, Unit::Ohm)),
                fmt::format("/channels/{}/stages/{}/parts/{}/resistance", channel, k, r - ch.stages[k].parts.data()),
                ohms);
        }
    return {};
}

/// Stages that feed each other through the supply's impedance: a slow oscillation that drives a loudspeaker's cone and
/// is hardly heard.
Finding motorboating(const Build& b, const plan::Oscillation& o) {
    const Channel& ch = b.channels[o.channel];
    const Stage* first = schematic::firstGain(ch);
    Finding x = finding("stages", fmt::format("unstable/{}/supply", ch.id), Level::Stop,
                        fmt::format("{} oscillates through the supply at {}", ch.name, format(o.hertz, Unit::Hertz, 2)),
                        fmt::format("Its output stage pulls the supply's volts with the signal, and its first stage "
                                    "amplifies them again. Do not connect a loudspeaker: the cone moves unheard. More "
                                    "capacitance or another section before B+{}, or smaller coupling capacitors.",
                                    first ? first->node : 1));
    for (std::size_t k = b.supply.sections.size(); first && k-- > 0;) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor || nodeOfSection(b.supply, k) > first->node) continue;
        const double farads = nextUp(3 * s.capacitance, Series::E6);
        x.fix = setValue(fmt::format("{} of {}", upper(s.id), format(farads, Unit::Farad)),
                         fmt::format("/supply/sections/{}/capacitance", k), farads);
        break;
    }
    return x;
}

} // namespace

void pathRules(const Build& b, const Catalogue& catalogue, const plan::Figures&, std::vector<Finding>& out) {
    for (const Problem& p : schematic::pathProblems(b, catalogue))
        out.push_back(finding("stages", "path" + p.where, Level::Stop, "The path is not whole",
                              fmt::format("{}. ({})", p.sentence, p.where)));
}

void stabilityRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    for (const plan::Oscillation& o : f.oscillations) {
        if (o.channel >= b.channels.size()) continue;
        const Channel& ch = b.channels[o.channel];
        const std::string at = o.hertz > 0.01 ? fmt::format("at {}", format(o.hertz, Unit::Hertz)) : "by drifting away";
        if (std::string_view(o.how) == plan::throughTheSupply) {
            out.push_back(motorboating(b, o));
            continue;
        }
        Finding x = finding(
            "stages", fmt::format("unstable/{}/{}", ch.id, o.how),
            std::string_view(o.how) == "as built" ? Level::Stop : Level::Warn,
            fmt::format("{} oscillates {}", ch.name, o.how),
            fmt::format("For small signals it leaves its rest {}. {}", at,
                        o.hertz > 2000 ? "Less feedback, or a capacitor across the feedback resistor."
                        : o.hertz > 0.01
                            ? "Less feedback, or fewer coupling capacitors inside its loop; or its sign is wrong: "
                              "turn the secondary round."
                            : "The feedback's sign is wrong: turn the secondary round."));
        x.fix = lessFeedback(b, o.channel);
        out.push_back(std::move(x));
    }
    for (const plan::LeakageResonance& r : f.resonances) {
        constexpr double byFeedback = 0.5; // [dB] that are not the iron's own
        if (r.channel >= b.channels.size() || !(r.peakDb > mostPeakDb) || r.peakDb < r.openPeakDb + byFeedback)
            continue;
        const bool unstable = std::any_of(f.oscillations.begin(), f.oscillations.end(),
                                          [&](const plan::Oscillation& o) { return o.channel == r.channel; });
        if (unstable) continue; // said above, and worse
        const Channel& ch = b.channels[r.channel];
        Finding x = finding(
            "stages", "leakage-resonance/" + ch.id, Level::Warn,
            fmt::format("{}'s feedback reaches {}'s resonance", ch.name, upper(r.iron)),
            fmt::format("Leakage and winding capacitance resonate at {}; there the feedback still {} by {:.1f} dB, and "
                        "the response stands {:.1f} dB high at {}: it rings on squares, and little more makes it "
                        "oscillate. A resistor with a capacitor across the primary, a capacitor across the feedback "
                        "resistor, or less feedback.",
                        format(r.hertz, Unit::Hertz, 2), r.feedbackDb > 0 ? "lowers the gain" : "raises the gain",
                        std::abs(r.feedbackDb), r.peakDb, format(r.peakHertz, Unit::Hertz, 2)));
        x.fix = lessFeedback(b, r.channel);
        out.push_back(std::move(x));
    }
}

} // namespace ember::rules
