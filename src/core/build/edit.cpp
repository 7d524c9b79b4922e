#include "edit.h"

#include "build_json.h"

#include <fmt/format.h>

namespace ember {

Edit setValue(std::string name, const std::string& pointer, Json value) {
    return {std::move(name), Json::array({{{"op", "replace"}, {"path", pointer}, {"value", std::move(value)}}})};
}

Expected<Build> apply(const Build& build, const Edit& edit) {
    try {
        return fromJson(toJson(build).patch(edit.patch));
    } catch (const Json::exception& e) {
        return Problem{"", fmt::format("\"{}\" does not fit this build ({})", edit.name, e.what())};
    }
}

} // namespace ember
