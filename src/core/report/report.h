#pragma once
// The record as one HTML file that needs nothing else.

#include "core/rules/findings.h"

namespace ember::report {

/// Build, figures, findings, readings and log. `when`: the time printed on it.
std::string html(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                 const std::vector<rules::Finding>& findings, const std::string& when);

} // namespace ember::report
