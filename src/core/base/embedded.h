#pragma once
#include <string_view>

namespace ember::embedded {
/// The text of a file of data/catalogue or data/demo, by name; empty when there is none.
std::string_view text(std::string_view name);
} // namespace ember::embedded
