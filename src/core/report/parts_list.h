#pragma once
// Everything that a build is made of, line by line, with weight and price: what there is to buy, and what it comes to.

#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

namespace ember::report {

struct ListedPart {
    std::string group; ///< "valves", "iron" ...
    std::string words; ///< "resistor 470 k\u03a9 0.5 W": what the price is kept by (Build::prices)
    std::vector<std::string> ids;
    double count = 0; ///< pieces; of wire metres
    bool metres = false;
    double mass = plan::unknown; ///< of all of them [kg], where the layout knows it
    double each = plan::unknown; ///< price of one, as the builder typed it
    [[nodiscard]] double price() const { return each * count; }
    [[nodiscard]] std::string tags() const; ///< "R12 R32"
};

struct PartsList {
    std::vector<ListedPart> lines; ///< group by group
    double mass = 0, price = 0;    ///< of what is known
    int unpriced = 0;              ///< lines without a price
};

/// From the stages, the supply, the bias supply, the heaters, the chassis with its parts and finishes, and the wires
/// where they are computed. Parts of the same words are one line.
PartsList partsList(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

/// A price for a line; NaN takes it away.
Edit setPrice(const Build& build, const std::string& words, double each);

/// group, part, for, number, unit, kg, price each, total; a line each, decimals with a point.
std::string csv(const PartsList& list);

} // namespace ember::report
