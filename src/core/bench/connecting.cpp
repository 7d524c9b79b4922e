#include "connecting.h"

#include "core/plan/input_divider.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::bench {

std::string connectingWords(const plan::PowerFigures* power, double switchOn) {
    std::string earth =
        "A sound device's input and a scope's ground clip are earth: clip them on the output's grounded terminal "
        "alone; where neither is grounded, a differential probe or an isolating transformer. Never lift an "
        "earth. The load stays on.";
    if (!power || !std::isfinite(power->clipWatts) || !(power->load > 0)) return earth;
    const auto d = plan::inputDivider(power->clipWatts, power->load);
    std::string out = fmt::format(
        "Into a sound device that takes 1 V: {} and {} across its input make {} of the {} peak at "
        "clipping. If the {} opens, all {} stand there. Four silicon diodes in series each way across "
        "the input hold it below 3 V and do not clip what is measured. ",
        formatExact(d.upper, Unit::Ohm), formatExact(d.lower, Unit::Ohm), format(d.crestOut, Unit::Volt, 2),
        format(d.crestIn, Unit::Volt, 2), formatExact(d.lower, Unit::Ohm), format(d.crestIn, Unit::Volt, 2));
    if (switchOn > 0.1)
        out += fmt::format("While it is switched on up to {} come out: loudspeaker, headphones and recorder are "
                           "connected once it has warmed up, and off again before it is switched off. ",
                           format(switchOn, Unit::Volt, 2));
    out += earth;
    // Twice the watts is a builder's rule: a wire-wound resistor at its full rating is 200 to 300 degrees hot.
    if (!power->line())
        out += fmt::format(" At clipping the load takes {}: a resistor rated for {}, on its sink or in free air, hot "
                           "enough to burn.",
                           format(power->clipWatts, Unit::Watt, 2), format(2 * power->clipWatts, Unit::Watt, 2));
    return out;
}

} // namespace ember::bench
