#include "output.h"

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

} // namespace ember::cli
