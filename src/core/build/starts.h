#pragma once
// Whole amplifiers to begin from, as files in data/starts.

#include "build.h"

namespace ember {

struct Start {
    std::string id; ///< "single-ended-triode", as the file's name
    Build build;    ///< its name is the start's title, its notes say what it is
};

/// Every start, the simple ones first; "nothing", a supply and a path with its jack alone, is the last.
const std::vector<Start>& starts();
/// By its id, or nullptr.
const Start* startOf(const std::string& id);
/// A new build from it: the same values, untitled, without a log.
Build begunFrom(const Start& start);

} // namespace ember
