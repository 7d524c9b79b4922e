#pragma once
// What hangs on the supply's nodes besides the stages: bleeders and loads.

#include "core/build/build.h"

#include <string>
#include <vector>

namespace ember::app {

struct HungPart {
    std::string entry; ///< where it stands in the file
    std::string value; ///< its one value that is edited in the picture: ohms, or a constant current
    std::string id;
    int node = 1;
    std::size_t before = 0; ///< how many hang on the same node before it
};
std::vector<HungPart> hungParts(const Supply& supply);

} // namespace ember::app
