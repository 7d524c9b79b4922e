#pragma once
// The sheets of a chassis that parts stand on.

#include <array>
#include <cstddef>
#include <string_view>

namespace ember {

/// Seen from outside; the underside is a plate's other side. Origin at the left front corner of a plate, the left lower
/// corner of the walls; x to the right, y to the back on plates, up on walls. A tower has a second chassis of the same
/// size below the first: the lower faces.
enum class Face { Top, Front, Back, Left, Right, LowerTop, LowerFront, LowerBack, LowerLeft, LowerRight };
inline constexpr std::size_t faceCount = 10;
inline constexpr std::array<std::string_view, faceCount> faceNames{
    "top", "front", "back", "left", "right", "lower-top", "lower-front", "lower-back", "lower-left", "lower-right"};

inline constexpr std::array<Face, 2> plateFaces{Face::Top, Face::LowerTop};
inline constexpr std::array<Face, 4> upperWalls{Face::Front, Face::Back, Face::Left, Face::Right};

constexpr std::size_t indexOf(Face face) {
    return static_cast<std::size_t>(face);
}
constexpr std::string_view faceName(Face face) {
    return faceNames[indexOf(face)];
}
/// Of the lower chassis of a tower.
constexpr bool isLower(Face face) {
    return face >= Face::LowerTop;
}
/// The same face of the upper chassis.
constexpr Face upperOf(Face face) {
    return isLower(face) ? static_cast<Face>(indexOf(face) - indexOf(Face::LowerTop)) : face;
}
/// The same face of the lower chassis.
constexpr Face lowerOf(Face face) {
    return isLower(face) ? face : static_cast<Face>(indexOf(face) + indexOf(Face::LowerTop));
}
/// A plate that lies flat, and not a wall.
constexpr bool isPlate(Face face) {
    return upperOf(face) == Face::Top;
}
/// The plate of the same chassis.
constexpr Face plateOf(Face face) {
    return isLower(face) ? Face::LowerTop : Face::Top;
}

} // namespace ember
