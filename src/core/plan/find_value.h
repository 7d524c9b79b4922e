#pragma once
// The other way round: which value of a part gives the figure that is wanted. Every answer is solved on the whole
// build, with the standard values on either side and what each of them gives.

#include "sought_figures.h"

#include "core/build/edit.h"
#include "core/quantity/quantity.h"

namespace ember::plan {

/// What is asked: any number of the file against any figure.
struct ValueAsked {
    std::string pointer;                   ///< JSON pointer of the number that may change
    std::string figure;                    ///< id, of soughtFigures()
    SoughtGroup group = SoughtGroup::Rest; ///< of that figure
    double wanted = 0;                     ///< SI
    double mainsVolts = 230;               ///< [V]; a discharge is from high mains whatever this says
    std::optional<Series> series = {};     ///< of the standard values; nothing: E12 of ohms, E6 of farads, else two
                                           ///< significant figures
};

/// One value that could be fitted, and what it brings.
struct ValueStep {
    double value = 0;        ///< SI, of the part
    double figure = unknown; ///< SI, what was asked for
    double watts = unknown;  ///< in a resistor
    double rating = 0;       ///< [W] that the resistor is then given, 0: what it has is twice that at least
    Edit edit;               ///< of this part alone: channels that follow are schematic::followed()'s to add
};

struct ValueFound {
    std::string part;       ///< id, or the key where the number is of no part
    Unit unit = Unit::None; ///< of the value
    double exact = 0;       ///< the value, of several that nearest to the present one, that gives the figure
    ValueStep below, above; ///< standard values on either side
};

/// Goes out from the present value both ways until the figure has passed what is wanted, then narrows it down (Illinois
/// method, on the logarithm of what has one). A Problem says what was not understood, or how far the part can move the
/// figure.
Expected<ValueFound> findValue(const Build& build, const Catalogue& catalogue, const ValueAsked& asked,
                               std::stop_token stop = {});

/// Parts whose main value may be looked for, in the order of the file.
struct ValueChoice {
    std::string pointer, part, label; ///< label: "R7, plate of s2: 100 kΩ"
    Unit unit = Unit::None;
};
std::vector<ValueChoice> valueChoices(const Build& build);

/// The figure by which such a part is mostly chosen: volts behind a dropping resistor, the low corner of a coupling
/// capacitor. Empty where none stands out.
std::string usualFigure(const Build& build, const std::string& pointer);

/// A bleeder across the first node, where there is none yet: what is wanted of it is asked of the build after this.
Edit firstBleeder();

} // namespace ember::plan
