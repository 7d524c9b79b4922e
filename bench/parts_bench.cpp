// The catalogue's load beside a plain parse of the same text, and tones with an output transformer that saturates
// beside the same one that never does.
#include "median.h"

#include "core/base/embedded.h"
#include "core/build/storage.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/steady.h"
#include "core/plan/tone.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace ember;

namespace {

/// A build whose output transformers never saturate.
Build withLinearCores(Build b) {
    for (Channel& c : b.channels)
        for (Stage& s : c.stages)
            for (StagePart& p : s.parts)
                if (auto* iron = std::get_if<OutputTransformer>(&p.part)) iron->lowestHertz = 0;
    return b;
}

double toneMilliseconds(const Build& b, double inputVolts, double hertz) {
    const Catalogue& catalogue = Catalogue::shipped();
    const auto steady = plan::solveSteady(b, catalogue, {b.mains.volts});
    if (!steady) return 0;
    return medianOf(21, [&] {
        plan::ToneRun run;
        (void)plan::solveTone(b, catalogue, 0, plan::supplyOf(b, *steady), {inputVolts, hertz}, run);
    });
}

} // namespace

int main() {
    const auto valves = embedded::text("valves.json"), rectifiers = embedded::text("rectifiers.json"),
               lamps = embedded::text("lamps.json");
    const double load = medianOf(21, [&] { (void)Catalogue::read(valves, rectifiers, lamps); });
    const double parse = medianOf(21, [&] { const auto read = nlohmann::json::parse(valves); });
    fmt::print("catalogue of {} types: {:.1f} ms (20 allowed), {:.2f} times a plain parse of its text\n",
               Catalogue::shipped().valves.size(), load, load / parse);

    const auto demo = loadBuild(DEMO);
    const Build linear = withLinearCores(*demo);
    for (const double hertz : {20.0, 40.0, 1000.0})
        for (const double volts : {0.1, 0.35}) {
            const double with = toneMilliseconds(*demo, volts, hertz), without = toneMilliseconds(linear, volts, hertz);
            fmt::print("tone of {:.0f} Hz, {:.2f} V in: {:.1f} ms, {:.2f} times a core that never saturates (2 "
                       "allowed)\n",
                       hertz, volts, with, with / without);
        }
}
