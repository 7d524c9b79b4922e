#pragma once
// Ids are written small in the file and large on a drawing.

#include <string>
#include <string_view>

namespace ember {

std::string upper(std::string_view text); ///< ASCII letters alone
std::string lower(std::string_view text);
/// Whether they are alike but for small and capital letters.
bool sameLetters(std::string_view a, std::string_view b);

} // namespace ember
