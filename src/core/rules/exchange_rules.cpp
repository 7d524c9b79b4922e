#include "findings.h"

#include "core/procedure/changes.h"
#include "core/procedure/first_power.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

namespace ember::rules {

/// Parts that the plan has changed after they were proved, and the amplifier has not.
void exchangeRules(const Build& b, const Catalogue&, const plan::Figures&, std::vector<Finding>& out) {
    for (const procedure::OpenChange& c : procedure::openChanges(b))
        out.push_back(
            finding("first-power", "exchange/" + c.part, Level::Warn,
                    fmt::format("{} is changed in the plan, to be exchanged", upper(c.part)),
                    fmt::format("{}. Exchange it with the plug out, confirm it at First Power, then prove from "
                                "step \"{}\" on again; or undo the change.",
                                c.sentence, procedure::stageName(c.stage))));
}

} // namespace ember::rules
