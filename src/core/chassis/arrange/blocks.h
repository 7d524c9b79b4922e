#pragma once
// A layout said as rows and columns of parts, and where that puts every part.

#include "core/build/chassis.h"

#include <vector>

namespace ember::chassis::arrange {

/// A part, or others in a row (left to right) or a column (back to front). Parts of a row stand on one line.
struct Block {
    enum class Kind { Part, Row, Column } kind = Kind::Row;
    std::size_t part = 0;
    double angle = 0;      ///< of the part [degrees]
    bool front = false;    ///< of a row: stands at its front edge, and not in its middle
    bool ofSupply = false; ///< nothing but parts of the supply; a group is when all in it are
    std::vector<Block> of;
    [[nodiscard]] bool empty() const { return kind != Kind::Part && of.empty(); }
};

Block one(std::size_t part, double angle);
/// Empty blocks among `of` are left out.
Block row(std::vector<Block> of);
Block column(std::vector<Block> of);
Block rowOf(const std::vector<std::size_t>& parts, double angle);
Block columnOf(const std::vector<std::size_t>& parts, double angle);
/// The same block, at the front edge of its row.
Block atFront(Block block);
/// The same block, as one of the supply.
Block ofSupply(Block block);
/// The mirror image, left for right: rows from right to left, angles negated.
Block mirrored(Block block);

/// What is done with room to spare: shared out evenly; in a row that holds both channels and supply put between these;
/// or Apart, which also puts a column's between its back row and the rest.
enum class Spare { Even, BesideSupply, Apart };

inline constexpr double grid = 5e-3; ///< sides of blocks and gaps between them are multiples [m]

/// Width and depth of a block whose parts have `air` around each [m]; a part's box reaches as far from its origin on
/// one side as on the other, with the room that a screwdriver needs over its bolts.
struct Extent {
    double width = 0, depth = 0;
};
Extent extentOf(const Block& block, const Chassis& chassis, double air);

/// Origins of the block's parts in a rectangle of the top, whose spare width and depth is shared out between them in
/// steps of the grid; what is left stands evenly at both ends. Where the rectangle is too small, the block reaches
/// beyond it on both sides.
struct Spot {
    std::size_t part = 0;
    double x = 0, y = 0, angle = 0; ///< [m], [degrees]
};
std::vector<Spot> placed(const Block& block, const Chassis& chassis, double air, double left, double front,
                         double width, double depth, Spare spare = Spare::Even);

} // namespace ember::chassis::arrange
