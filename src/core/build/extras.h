#pragma once
#include <nlohmann/json_fwd.hpp>

#include <memory>

namespace ember {

using Json = nlohmann::ordered_json;

/// Keys of an object of the file that this version does not know; they are written back.
struct Extras {
    std::shared_ptr<const Json> unknown; ///< an object, or nothing
};

} // namespace ember
