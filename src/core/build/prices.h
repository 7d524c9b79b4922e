#pragma once
// What the builder paid, or would have to pay, for a line of the parts list.

#include "extras.h"

#include <string>

namespace ember {

struct Price : Extras {
    std::string of;  ///< the line's words, such as "EL84" (report/parts_list.h)
    double each = 0; ///< of one piece, or of one metre, in whatever money the builder counts
};

} // namespace ember
