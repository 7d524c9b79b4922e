#pragma once
// What every command gives: JSON on stdout, sentences on stderr, an exit code.

#include "core/base/result.h"
#include "core/build/extras.h"

namespace ember::cli {

inline constexpr int fine = 0, stopFindings = 1, wrongInput = 2; ///< exit codes

/// Says the problem on stderr and gives the exit code for it.
int refuse(const Problem& problem);
void print(const Json& json);
/// The number, or null where it is not known.
Json known(double value);

} // namespace ember::cli
