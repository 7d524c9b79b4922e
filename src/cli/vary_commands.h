#pragma once
// Parts of other values: what they bring, and which value brings what is wanted.

#include "core/base/result.h"
#include "core/build/build.h"

#include <CLI/CLI.hpp>

namespace ember::cli {

/// The build with "r10=220k", "c1.volts=500" set; a Problem names the part or value that was not understood.
Expected<Build> varied(Build build, const std::vector<std::string>& sets);

/// `find`: the standard values of a part between which a figure is what is wanted; or the names of all figures.
void addFindCommand(CLI::App& app, int& code);

} // namespace ember::cli
