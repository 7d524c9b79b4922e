#pragma once
// The record as one HTML file that needs nothing else.

#include "core/rules/findings.h"

namespace ember::report {

/// Build, figures, findings, readings and log. `when`: the time printed on it. `solidPng`: the finished amplifier as a
/// PNG in base64; empty: left out.
std::string html(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                 const std::vector<rules::Finding>& findings, const std::string& when,
                 const std::string& solidPng = {});

} // namespace ember::report
