#pragma once
// Build -> Figures: pure functions, in two parts so that an edit shows its steady figures at once.

#include "steady.h"

#include <functional>

namespace ember::plan {

/// The three mains, and the highest volts the capacitors ever see. `warm` holds the starts of the next nearby solve.
Figures solveFigures(const Build& build, const Catalogue& catalogue, std::stop_token stop = {},
                     WarmStart* warm = nullptr);

/// Adds what takes longer: switch-on, switch-off and the channels' power. Leaves `figures` incomplete when stopped.
void completeFigures(const Build& build, const Catalogue& catalogue, Figures& figures, std::stop_token stop = {});

/// Nominal mains with the power transformer's copper as warm as the layout makes it, or the reason why not. Nothing
/// where it is not placed. To be solved anew after parts were moved.
void addWarm(const Build& build, const Catalogue& catalogue, Figures& figures, std::stop_token stop = {});

/// What loads the supply while it changes slowly: space-charge laws K (v - v0)^1.5 through the stages' steady currents.
struct RailLoad {
    std::size_t node;
    double amps, volts; ///< where it is known [A, V]
    std::string valve;  ///< type whose heater it follows; empty: it draws whatever is hot
    double cutOff = 0;  ///< v0 [V]: below it nothing is drawn
};
/// With v0 = 0, as valves with cathode bias have it.
std::vector<RailLoad> railLoads(const Build& build, const Steady& steady);
/// With v0 from how the stages' currents followed the volts in the steady state: fixed bias that stays while the
/// plates' and screens' volts fall cuts its valves off early. For changes while the mains is on.
std::vector<RailLoad> biasedRailLoads(const Build& build, const Steady& steady);

/// From cold at the steady state's mains volts, every valve's heater warming; `seconds` long.
Expected<Curve> switchOn(const Build& build, const Catalogue& catalogue, const Steady& steady, double seconds,
                         std::stop_token stop = {});
/// The limiter's lamp while the amplifier warms behind it, `seconds` long, every heater and the lamp followed by their
/// own heat.
Expected<LampCurve> lampSwitchOn(const Build& build, const Catalogue& catalogue, const Steady& steady, double seconds,
                                 std::stop_token stop = {});
/// Copper and cold filaments limit it; a core that saturates adds to it what is not modelled here.
Expected<Inrush> inrushOf(const Build& build, const Catalogue& catalogue, double mainsVolts, std::stop_token stop = {});
/// Mains off from the steady state. `hot`: the valves go on drawing until they cool; else by guaranteed paths alone.
Expected<Curve> switchOff(const Build& build, const Catalogue& catalogue, const Steady& steady, bool hot,
                          double seconds, std::stop_token stop = {});

/// A tone of `hertz` through a channel, its level rising to 10 % THD, every channel driven, the supply's sag solved at
/// each level. Empty where the channel has no gain there.
std::vector<ToneFigures> levelSweep(const Build& build, const Catalogue& catalogue, const Steady& steady,
                                    std::size_t channel, double hertz, std::stop_token stop = {});
/// Where `quantity` passes `wanted` between two levels of a sweep, what `read` says there; NaN: nowhere.
double readWhere(const std::vector<ToneFigures>& sweep, double ToneFigures::*quantity, double wanted,
                 const std::function<double(const ToneFigures&)>& read);

/// Channel by channel: a level rising to beyond clipping, every channel driven, the supply's sag solved at each level.
std::vector<PowerFigures> channelPower(const Build& build, const Catalogue& catalogue, const Steady& steady,
                                       std::stop_token stop = {});

} // namespace ember::plan
