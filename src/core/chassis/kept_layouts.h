#pragma once
// Layouts of the same parts set beside each other: kept, compared, brought back.

#include "layout_figures.h"

#include "core/build/edit.h"

#include <span>

namespace ember::chassis {

/// Where every part stands now.
std::vector<Standing> placesOf(const Chassis& chassis);

/// The chassis with its parts at `places`; parts that these do not name, and locked ones, stay. Where that brings parts
/// to a lower chassis the storey becomes at least what they need; where it takes the last from there, 0.
Chassis withPlaces(const Chassis& chassis, std::span<const Standing> places);

/// How far the parts of two layouts stand apart, on average [m]; both name the same parts in the same order.
double meanShift(const std::vector<Standing>& one, const std::vector<Standing>& other);

/// The same as an edit; nothing changes where a part already stands there.
Edit usePlaces(std::string name, const Chassis& chassis, std::span<const Standing> places);

/// Parts `which` from one chassis of a tower to the same place on the other; the first that goes below makes it one.
/// Locked ones stay.
Edit toOtherChassis(const Chassis& chassis, const std::vector<std::size_t>& which);

/// Sets `places` aside under `name`.
Edit keepLayout(const Build& build, const std::string& name, std::vector<Standing> places);

/// A choice in which good builders differ, as another layout of the same parts.
struct School {
    std::string id;           ///< inputs, volume, iron, handed
    std::string now, instead; ///< "inputs at the front", "inputs at the back"
    std::vector<Standing> places;
};
/// Every choice that this layout has made and could make the other way: inputs at the front or the back, the volume
/// control beside them or not, the power transformer's core across or along, left-handed or right-handed.
std::vector<School> schoolsOf(const Build& build);

/// What two layouts are compared by.
struct LayoutSummary {
    std::size_t misfits = 0;             ///< problems of fit
    double exposureDb = 0;               ///< the worst victim, of what is allowed
    std::string victim, strongestSource; ///< the part with the most hum pickup, and where most of it comes from
    double inputDb = 0;                  ///< the worst input jack's
    double couplingDb = 0;               ///< the strongest from iron that hums into output iron
    double inputLead = 0;                ///< [m] shielded lead from the worst input to its first grid
    double signalLength = 0;             ///< [m]
    double hottestCan = 0;               ///< [K]
    double sagCarried = 0;               ///< [m]
    double offCentre = 0;                ///< [m] of the weight from the middle
};
LayoutSummary summarise(const Build& build, const LayoutFigures& figures);

} // namespace ember::chassis
