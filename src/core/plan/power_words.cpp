#include "power_words.h"

#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::plan {

std::string powerWords(const PowerFigures& p) {
    const auto level = [&](double watts, double volts) {
        return p.line() ? format(volts, Unit::Volt) : format(watts, Unit::Watt);
    };
    std::string out;
    if (std::isfinite(p.clipOutput))
        out = fmt::format("{} at clipping ({} % THD) for {} in", level(p.clipWatts, p.clipOutput),
                          format(p.clipThd, Unit::None, 2), format(p.clipInput, Unit::Volt));
    if (std::isfinite(p.cleanOutput))
        out += fmt::format("{}{} at {:g} % THD{}", out.empty() ? "" : ", ", level(p.cleanWatts, p.cleanOutput),
                           PowerFigures::cleanPercent,
                           out.empty() ? fmt::format(" for {} in", format(p.cleanInput, Unit::Volt)) : "");
    return out;
}

} // namespace ember::plan
