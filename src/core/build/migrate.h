#pragma once
#include "extras.h"

namespace ember {

/// The body of a version 1 file as version 2 has it: bottles as a list, channels as paths of stages. Ids, values, keys
/// that are not known, and the readings' points stay. What a version 1 file leaves out gets version 1's defaults.
Json fromVersion1(Json body);

} // namespace ember
