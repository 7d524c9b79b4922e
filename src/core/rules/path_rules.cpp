// What the path lacks to be a circuit, and feedback that makes an oscillator of it.
#include "findings.h"

#include "core/build/edit.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

namespace ember::rules {

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
        for (std::size_t k = 0; k < ch.stages.size() && !x.fix; ++k)
            if (const StagePart* r = schematic::dutyOf(ch.stages[k]) == schematic::Duty::Feedback
                                         ? ch.stages[k].part("resistor")
                                         : nullptr) {
                const double ohms = nextUp(1.4 * mainValue(r->part), Series::E12);
                x.fix = setValue(fmt::format("feedback through {}", formatExact(ohms, Unit::Ohm)),
                                 fmt::format("/channels/{}/stages/{}/parts/{}/resistance", o.channel, k,
                                             r - ch.stages[k].parts.data()),
                                 ohms);
            }
        out.push_back(std::move(x));
    }
}

} // namespace ember::rules
