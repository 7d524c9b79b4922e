#pragma once

#include <array>
#include <string_view>

namespace ember {

/// What a type's published limits allow for. Design-centre ones leave room for the mains and the parts' tolerances, so
/// that a tenth of grace on plate volts is theirs; design-maximum and absolute ones leave none (IEC 60134:1961).
enum class RatingSystem { DesignCentre, DesignMaximum, Absolute };
inline constexpr std::array<std::string_view, 3> ratingSystemNames{"design-centre", "design-maximum", "absolute"};

} // namespace ember
