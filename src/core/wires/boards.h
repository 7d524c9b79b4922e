#pragma once
// Boards and tag strips: what stands between which lugs, checked against the schematic.

#include "harness.h"

#include "core/build/edit.h"

namespace ember::wires {

/// What one lug holds.
struct LugFigures {
    int lug = 1;
    Vector at = Vector::Zero();
    std::vector<std::string> ends; ///< terminals: "r12.1"
    std::vector<std::string> nets; ///< of those ends and of what jumpers join to it; more than one: an extra joint
};

/// Where a board and the schematic do not agree.
struct BoardProblem {
    enum class Kind { Extra, Missing, Unknown } kind = Kind::Unknown; ///< a joint too many, one too few, no such thing
    int lug = 0;                                                      ///< 0: of no lug
    std::string sentence;
};

struct BoardFigures {
    std::size_t spot = 0; ///< placed part
    Board board;          ///< as the build has it, or as proposed
    bool laidOut = false; ///< the build has it
    std::vector<LugFigures> lugs;
    std::vector<std::string> waiting; ///< parts that belong here and are between no lugs
    std::vector<BoardProblem> problems;
};

/// Boards and strips of the chassis, in its order. Missing joints are those that neither jumpers nor wires make.
std::vector<BoardFigures> boardsOf(const Build& build, const Harness& harness);

/// A board laid out from scratch: on a strip each net has a tag, on a turret board each part a pair of lugs, next to
/// one that shares a net with it; ends at a socket within reach of their lead need no lug; jumpers join what belongs
/// together. What finds no room is left waiting.
Board proposedBoard(const Build& build, const Harness& harness, std::size_t spot);

/// The board as the build's, in place of the one that it has for this placement.
Edit setBoard(const Build& build, const std::string& name, const Board& board);
/// A lug that nothing is at, on a board that is laid out.
struct FreeLug {
    std::string on;   ///< id of the placement
    std::string name; ///< "Strip 1, lug 4"
    int lug = 1;
};
/// The nearest to a wire's way, at most `most`.
std::vector<FreeLug> freeLugs(const Build& build, const Harness& harness, const Run& run, std::size_t most = 4);
/// The wire in two, which meet at that lug.
Edit byWayOf(const Build& build, const Run& run, const FreeLug& lug);

/// Taken away: its parts' ends meet by their nets again.
std::optional<Edit> clearBoard(const Build& build, const std::string& placement);

} // namespace ember::wires
