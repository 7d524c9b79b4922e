#pragma once
#include <string_view>
#include <vector>

namespace ember::embedded {
/// The text of a file of data/catalogue, data/demo or data/starts, by name; empty when there is none.
std::string_view text(std::string_view name);
/// The names of all of them.
std::vector<std::string_view> names();
} // namespace ember::embedded
