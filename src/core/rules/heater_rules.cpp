// Heater windings: what they give at nominal and at high mains, and what they are made for.
#include "findings.h"
#include "remedies.h"

#include "core/plan/steady.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::rules {

namespace {

/// Within 5 % is good; 10 % is the published limit of heater volts, at high mains too.
constexpr double goodShare = 0.05, limitShare = 0.10;

std::size_t indexOf(const Build& b, const std::string& winding) {
    const auto& all = b.transformer.heaters;
    return static_cast<std::size_t>(
        std::find_if(all.begin(), all.end(), [&](const HeaterWinding& w) { return w.id == winding; }) - all.begin());
}

void voltsRule(const Build& b, const plan::Steady& s, const plan::HeaterFigures& nominal,
               const plan::HeaterFigures& high, std::vector<Finding>& out) {
    const double rated = nominal.ratedVolts, off = nominal.volts / rated - 1, most = high.volts / rated - 1;
    const bool atHigh = most > limitShare && std::abs(off) < goodShare;
    if (std::abs(off) < goodShare && !atHigh) return;
    const double shown = atHigh ? most : off;
    Finding x = finding("supply", "heater-volts/" + nominal.winding + "/" + nominal.valve,
                        std::abs(off) > limitShare || most > 1.5 * limitShare ? Level::Stop : Level::Warn,
                        fmt::format("{} heaters run {:.0f} % {}{}", nominal.valve, 100 * std::abs(shown),
                                    shown > 0 ? "high" : "low", atHigh ? " at high mains" : ""),
                        fmt::format("{} at nominal mains, {} at the high end; rated {}, 10 % either way.",
                                    format(nominal.volts, Unit::Volt), format(high.volts, Unit::Volt),
                                    format(rated, Unit::Volt)));
    const std::size_t k = indexOf(b, nominal.winding);
    const bool plain = k < b.transformer.heaters.size() && !b.transformer.heaters[k].rectified();
    const double amps = k < b.transformer.heaters.size() ? plan::heaterAmps(s, nominal.winding) : 0;
    if (plain && b.transformer.heaters[k].feeds == "signal" && shown > 0 && amps > 0) {
        // The same current through a resistor in each lead: R = (V - Vrated) / 2 I more.
        const double now = b.transformer.heaters[k].legResistance, right = now + (nominal.volts - rated) / (2 * amps),
                     least = now + (high.volts - (1 + 0.94 * limitShare) * rated) / (2 * amps),
                     close = nearest(std::max(right, least), Series::E12),
                     ohms = close < least ? nextUp(least, Series::E12) : close, watts = nextWatts(ohms * amps * amps);
        x.fix = together(
            fmt::format("a resistor of {}, {} in each lead", format(ohms, Unit::Ohm), format(watts, Unit::Watt)),
            {setValue("", fmt::format("/transformer/heaters/{}/legResistance", k), ohms),
             setValue("", fmt::format("/transformer/heaters/{}/legWatts", k), watts)});
    } else if (plain) {
        const double by = std::min(1 / (1 + off), (1 + 0.98 * limitShare) / (1 + most));
        const double better = std::floor(20 * b.transformer.heaters[k].volts * by) / 20;
        x.fix = setValue(fmt::format("a winding of {} without load", format(better, Unit::Volt)),
                         fmt::format("/transformer/heaters/{}/volts", k), better);
    }
    out.push_back(std::move(x));
}

void ampsRule(const Build& b, const plan::Steady& s, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
        const HeaterWinding& w = b.transformer.heaters[k];
        const HeaterWinding* main = mainWindingOf(b.transformer, w); // in series: the same current
        const auto feed = s.heaterFeeds.find(main ? main->id : w.id);
        const double amps = feed == s.heaterFeeds.end() ? 0 : feed->second.windingAmps;
        if (!(amps > w.amps)) continue;
        Finding x = finding("supply", "heater-amps/" + w.id, Level::Stop, fmt::format("{} is overloaded", upper(w.id)),
                            fmt::format("It carries {} RMS with mains at the high end and is made for {}{}.",
                                        format(amps, Unit::Ampere), format(w.amps, Unit::Ampere),
                                        w.rectified() ? ": a rectified winding's pulses weigh more than what they add "
                                                        "up to"
                                                      : ""));
        const double made = std::ceil(2 * amps) / 2;
        x.fix = setValue(fmt::format("a winding made for {}", format(made, Unit::Ampere)),
                         fmt::format("/transformer/heaters/{}/amps", k), made);
        out.push_back(std::move(x));
    }
}

} // namespace

void heaterRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high || !f.nominal) return;
    for (std::size_t k = 0; k < f.nominal->heaters.size() && k < f.high->heaters.size(); ++k)
        voltsRule(b, *f.nominal, f.nominal->heaters[k], f.high->heaters[k], out);
    ampsRule(b, *f.high, out);
}

} // namespace ember::rules
