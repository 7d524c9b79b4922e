#include "connecting_words.h"

#include "app/widgets/words.h"
#include "core/plan/input_divider.h"

#include <cmath>

namespace ember::app {

QString connectingWords(const plan::PowerFigures* power) {
    const QString earth =
        "A sound device's input and a scope's ground clip are earth: clip them on the output's grounded terminal "
        "alone; where neither is grounded, a differential probe or an isolating transformer. Never lift an "
        "earth. The load stays on.";
    if (!power || !std::isfinite(power->clipWatts) || !(power->load > 0)) return earth;
    const auto d = plan::inputDivider(power->clipWatts, power->load);
    QString out =
        QString("Into a sound device that takes 1 V: %1 and %2 across its input make %3 of the %4 crest at "
                "clipping. If the %2 opens, all %4 stand there. Four silicon diodes in series each way across "
                "the input hold it below 3 V and do not clip what is measured. ")
            .arg(text(formatExact(d.upper, Unit::Ohm)), text(formatExact(d.lower, Unit::Ohm)),
                 text(d.crestOut, Unit::Volt, 2), text(d.crestIn, Unit::Volt, 2)) +
        earth;
    // Twice the watts is a builder's rule: a wire-wound resistor at its full rating is 200 to 300 °C hot.
    if (!power->line())
        out +=
            QString(" At clipping the load takes %1: a resistor rated for %2, on its sink or in free air, hot enough "
                    "to burn.")
                .arg(text(power->clipWatts, Unit::Watt, 2), text(2 * power->clipWatts, Unit::Watt, 2));
    return out;
}

} // namespace ember::app
