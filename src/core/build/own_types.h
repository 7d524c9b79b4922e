#pragma once
// Types of the build's own beside the catalogue's: their laws, and how they come into the build.

#include "edit.h"

#include "core/catalogue/catalogue.h"
#include "core/catalogue/points_text.h"

#include <optional>

namespace ember {

/// The type as a catalogue would list it, its law fitted to its points (least squares of relative errors, see fit.h)
/// and its error from leaving points out in turn where there are 3 to 12 of them. A Problem says what is missing:
/// a name that the catalogue has already, no point with a current, a pentode's point without its screen's volts.
Expected<ValveType> valveTypeOf(const OwnType& own);
/// The same without the fit.
std::optional<Problem> problemOf(const OwnType& own);
PublishedData sheetOf(const OwnType& own);
/// Points as a file has them; more than `mostSheetPoints` are thinned evenly. Strapped ones have their screen at the
/// plate.
std::vector<SheetPoint> sheetPoints(const PublishedData& data);

/// The catalogue with the build's own types in front; the shipped one itself where there are none. Each different set
/// of own types is fitted once and kept until the program ends, so that references into it stay. From any thread.
const Catalogue& catalogueOf(const Build& build);

/// The build's own type of that name; nullptr: none.
const OwnType* ownTypeOf(const Build& build, std::string_view name);
/// Adds the type, or puts it in the place of the one called `before`, whose valves are then of the new name.
Edit keepOwnType(const Build& build, const OwnType& type, const std::string& before = {});
/// Takes it away; refused by the build while a valve is of it.
Edit removeOwnType(const Build& build, const std::string& id);

} // namespace ember
