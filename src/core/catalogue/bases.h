#pragma once
// Valve bases (IEC 60067): the one table of them.

#include <array>
#include <string_view>

namespace ember {

struct BaseForm {
    std::string_view name; ///< as the catalogue writes it
    std::string_view body; ///< the word by which a socket's body says it
    int pins = 0;
    int places = 1;                                              ///< of the circle, a gap among them
    [[nodiscard]] double step() const { return 360.0 / places; } ///< [degrees]
};

/// Pins are numbered clockwise from the gap or the key, seen from below.
inline constexpr std::array baseForms{BaseForm{"noval", "noval", 9, 10}, BaseForm{"B7G", "miniature", 7, 8},
                                      BaseForm{"octal", "octal", 8, 8},  BaseForm{"UX4", "UX4", 4, 4},
                                      BaseForm{"UY5", "UY5", 5, 5},      BaseForm{"UX6", "UX6", 6, 6}};

} // namespace ember
