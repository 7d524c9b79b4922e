#include "output.h"

#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace ember::cli {

int refuse(const Problem& p) {
    fmt::print(stderr, "{}\n", p.text());
    return wrongInput;
}

void print(const Json& j) {
    fmt::print("{}\n", j.dump(2, ' ', false, Json::error_handler_t::replace));
}

Json known(double value) {
    return std::isfinite(value) ? Json(value) : Json(nullptr);
}

} // namespace ember::cli
