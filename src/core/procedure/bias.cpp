#include "bias.h"

#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::procedure {

BiasState biasState(const Build& b, const Catalogue& catalogue, const plan::Steady& s, std::size_t channel, int side,
                    double senseVolts) {
    const Channel& ch = b.channels[channel];
    const plan::ChannelPoint& p = s.channels[channel];
    const bool first = side == 0;
    const Valve& valve = first ? ch.pair.a : ch.pair.b;
    const ValveType& type = *catalogue.valve(valve.type);
    const double ohms = first ? ch.pair.senseA.resistance : ch.pair.senseB.resistance;
    const double plateVolts = first ? p.plateA : p.plateB, screenVolts = first ? p.screenA : p.screenB;
    const double plannedPlate = first ? p.plateAmpsA : p.plateAmpsB,
                 plannedScreen = first ? p.screenAmpsA : p.screenAmpsB;
    const double share = plannedPlate / (plannedPlate + plannedScreen);
    BiasState out;
    out.valve = valve.id;
    out.plateLimit = type.limits.plateWatts;
    out.screenLimit = type.limits.screenWatts;
    const auto senseFor = [&](double part) { return part * out.plateLimit / plateVolts / share * ohms; };
    out.senseLow = senseFor(targetLow);
    out.senseHigh = senseFor(targetHigh);
    if (!std::isfinite(senseVolts)) return out;
    out.cathodeAmps = senseVolts / ohms;
    out.plateAmps = out.cathodeAmps * share;
    out.screenAmps = out.cathodeAmps - out.plateAmps;
    out.plateWatts = out.plateAmps * (plateVolts - senseVolts);
    out.screenWatts = out.screenAmps * (screenVolts - senseVolts);
    // How far to turn: the valve's slope at the plan's point times the volts that the wiper moves.
    const double wiper = s.wipers.empty() ? 0 : s.wipers[2 * channel + static_cast<std::size_t>(side)];
    const double grid = first ? p.gridA : p.gridB, cathode = first ? p.senseA : p.senseB;
    const double gm = figuresAt(type.law, plateVolts - cathode, grid - cathode, screenVolts - cathode).gm / share;
    const double position = first ? ch.pair.adjusterA : ch.pair.adjusterB;
    const double span = position < 0.999 ? (s.biasRail - wiper) / (1 - position)
                                         : s.biasRail * b.bias.adjuster / (b.bias.adjuster + b.bias.floor);
    const double middle = 0.5 * (out.senseLow + out.senseHigh) / ohms;
    const double slope = gm / (1 + gm * ohms);
    if (std::abs(slope * span) > 1e-9) out.turn = (middle - out.cathodeAmps) / (slope * span);
    const std::string range =
        fmt::format("{} to {} is the band", format(out.senseLow, Unit::Volt), format(out.senseHigh, Unit::Volt));
    if (out.plateWatts > out.plateLimit)
        out.advice = fmt::format("over its limit: turn colder at once, about {:.0f} % of the range; {}",
                                 100 * std::abs(out.turn), range);
    else if (senseVolts < out.senseLow)
        out.advice = fmt::format("cool: turn hotter, about {:.0f} % of the range in small steps; {}",
                                 100 * std::abs(out.turn), range);
    else if (senseVolts > out.senseHigh)
        out.advice = fmt::format("hot: turn colder, about {:.0f} % of the range; {}", 100 * std::abs(out.turn), range);
    else
        out.advice = "in the band: leave it, read its partner, read again in ten minutes";
    return out;
}

} // namespace ember::procedure
