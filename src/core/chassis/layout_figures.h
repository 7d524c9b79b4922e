#pragma once
// Everything that a layout answers, from the build and what the plan knows of its parts' heat.

#include "bending.h"
#include "exposure.h"
#include "fit.h"
#include "heat_sheet.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

#include <memory>
#include <string>

namespace ember::chassis {

struct CouplingFigures {
    std::size_t a = 0, b = 0; ///< parts
    double db = 0;            ///< of the two coaxial and touching, at the rated flux of what hums
    BestAngle best;           ///< of turning b
};

/// A small valve's socket and the nearest iron on its plate that hums at twice the mains' frequency.
struct NearIron {
    std::size_t socket = 0, iron = 0;
    double apart = 0; ///< [m] on the plate
};

/// The power transformer when it has warmed through, nominal mains.
struct MainsIronHeat {
    double coreWatts = 0, copperWatts = 0; ///< the copper warm
    double kelvin = 0;                     ///< mean of core and windings; the hottest spot is some 10 K above
};

/// Heat and bending of one plate.
struct PlateFigures {
    std::vector<double> kelvin; ///< of the sheet's cells; empty where there is no such plate
    int columns = 0, rows = 0;  ///< of `kelvin`
    double hottest = 0;         ///< [K]
    double inside = 0;          ///< of the air in the box below it; where it is open, the room's [K]
    Bending rest, carried;      ///< carried: a handling factor of 2.5
};

struct LayoutFigures {
    Assembly assembly;
    std::vector<Dipole> dipoles;
    std::vector<FitProblem> fit;
    Room room;
    Hum hum;
    ExposureFigures exposure;
    std::vector<CouplingFigures> couplings; ///< strongest first
    std::array<PlateFigures, 2> plates;     ///< as plateFaces; the second of a tower alone
    std::vector<double> partKelvin;         ///< plate under each part [K]; NaN for parts on walls
    std::vector<double> partWatts;
    std::optional<MainsIronHeat> mainsIron; ///< none: not placed, or no plan
    std::vector<NearIron> nearIron;         ///< nearest first
    double mass = 0;                        ///< [kg] with the chassis
    Vector massCentre = Vector::Zero();
    double signalLength = 0; ///< [m] input, small valves, output pair, output transformer, terminals, worst channel
    [[nodiscard]] const PlateFigures& plate(Face face) const { return plates[isLower(face) ? 1 : 0]; }
    [[nodiscard]] double hottest() const;               ///< of all plates [K]
    [[nodiscard]] const PlateFigures& mostBent() const; ///< that with the largest sag
};

/// Most volts between live parts and the rest: the first node's, cold; 400 V where there is no plan [V].
double liveVolts(const plan::Figures& figures);

/// Heat of a placed part [W]: what the plan gives its electrical part, or its own figure.
double heatOf(const Build& build, const Catalogue& catalogue, const plan::Figures& figures, const PlacedPart& part);

/// Of a part's heat, what reaches the top: iron sits on it, a valve mostly radiates, parts below hang in its air.
double shareToTop(const Chassis& chassis, const PlacedPart& part);

/// What warms a plate, part by part; `without`: an electrical part that is left out. The upper plate of a tower also
/// has half of what the parts below give to the air and by radiation, over what they cover, wider by a quarter of the
/// storey on each side: a choice that errs to the warm side, for the storey is open all round.
std::vector<HeatSource> heatSources(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                                    Face plate, const std::string& without = {});

/// What is lost in the box below a plate: by parts in it what the plate does not take, by parts on its walls all [W].
double heatInside(const Build& build, const Catalogue& catalogue, const plan::Figures& figures, Face plate);

/// The sources of hum in this build and the valves that are sensitive to it; a choke at what its flux alternates by,
/// and where there is no plan at its whole flux.
Hum humOf(const Build& build, const plan::Figures& figures);

/// The id of the part that does in the other of two channels what `id` does in one; empty when there is none.
std::string otherChannels(const Build& build, const std::string& id);

/// Input, stages and output of a channel, in order, as parts of the layout; shorter where a part is not placed.
std::vector<std::size_t> signalPath(const Build& build, std::size_t channel);

/// Keeps what does not change while parts move.
class LayoutSolver {
  public:
    LayoutFigures solve(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

  private:
    std::shared_ptr<HeatSheet> sheet;
};

} // namespace ember::chassis
