#pragma once
// What the builder has decided about the wires and done to them. What is not said here is proposed from schematic and
// layout; see core/wires/harness.h.

#include "extras.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// How far a joint is.
enum class Joint { Open, Placed, Hooked, Soldered, Checked };
inline constexpr std::array<std::string_view, 5> jointNames{"open", "placed", "hooked", "soldered", "checked"};

/// A corner of a wire's path under the chassis, in chassis coordinates [m].
struct Corner : Extras {
    double x = 0, y = 0, z = -0.01;
};

/// A wire by its id: one that is proposed, with what differs from the proposal, or one of the builder's own. Ends are
/// "PART.PIN": "v3.7", "c1.-", "pt1.centre"; "chassis" is the metal itself.
struct Wire : Extras {
    std::string id;
    std::string from, to;       ///< empty: as proposed
    double area = 0;            ///< conductor [m2]; 0: as proposed
    double insulationVolts = 0; ///< rating of its insulation; 0: as proposed
    double pitch = 0;           ///< of a twisted pair, one whole turn [m]; 0: as proposed
    std::string colour;         ///< empty: as proposed
    bool straight = false;      ///< of a pair: its two wires lie side by side, not twisted
    bool removed = false;       ///< the proposal's wire is not there
    Joint fromJoint = Joint::Open, toJoint = Joint::Open;
    std::vector<Corner> by; ///< its path between the ends; empty: as proposed
    std::string note;
};

/// A part between two lugs of a board, or a bare wire between them. Lugs count from 1, along the back row and then
/// along the front row; 0: that end is no lug's, but hangs at its socket or its placed part.
struct BoardPart : Extras {
    std::string part; ///< id of the part; empty: a jumper
    int from = 0, to = 0;
    bool below = false; ///< under the board
};

/// A lug whose wire leaves beneath the board.
struct BeneathLug : Extras {
    int lug = 1;
};

/// A lug that holds no part, at which wires of one net meet.
struct Junction : Extras {
    int lug = 1;
    std::string net; ///< by its name: "B+2", "plate winding a"
};

/// What stands on a turret board (two rows of lugs) or a tag strip (one). A board that is not listed is one place at
/// which its parts' ends meet by their nets.
struct Board : Extras {
    std::string on;               ///< id of the placement
    int columns = 15, rows = 2;   ///< of lugs
    double pitch = 0.01;          ///< between columns [m]
    std::vector<BoardPart> parts; ///< jumpers too
    std::vector<BeneathLug> beneath;
    std::vector<Junction> junctions;
    [[nodiscard]] int lugs() const { return columns * rows; }
};

/// How the returns are joined: each to its own decoupling capacitor and on in stage order; all to one star; two stars,
/// of the small signals and of power, joined once; a bus along the stages; or each to the chassis where it stands.
enum class GroundScheme { LocalStars, OneStar, TwoStars, Bus, ChassisReturn };
inline constexpr std::array<std::string_view, 5> groundSchemeNames{"local-stars", "one-star", "two-stars", "bus",
                                                                   "chassis"};

/// How the signal ground meets the chassis: by a wire; through a resistor with two diodes in opposite directions and a
/// capacitor across it; or nowhere.
enum class Bond { Direct, Lifted, None };
inline constexpr std::array<std::string_view, 3> bondNames{"direct", "lifted", "none"};

/// Conventions of the mains side's colours: IEC 60445 (brown, blue, green-yellow), or NFPA 70 (black, white, green).
enum class MainsColours { NotChosen, Iec60445, Nfpa70 };
inline constexpr std::array<std::string_view, 3> mainsColourNames{"not-chosen", "iec-60445", "nfpa-70"};

/// As a file writes an enumerator of one of these tables.
template <typename E, std::size_t N>
std::string nameIn(const std::array<std::string_view, N>& names, E value) {
    return std::string(names[static_cast<std::size_t>(value)]);
}

struct Wiring : Extras {
    GroundScheme grounds = GroundScheme::LocalStars;
    Bond bond = Bond::Direct;
    bool insulatedJacks = true; ///< their sleeves do not touch the chassis
    MainsColours colours = MainsColours::NotChosen;
    /// What plays into the inputs: whether it has a safety earth of its own, the volts between the two earths [V RMS],
    /// and the screen of its lead [ohm].
    bool sourceEarthed = false;
    double earthVolts = 0.05, screenOhms = 0.05;
    std::vector<Wire> wires;
    std::vector<Board> boards;
};

} // namespace ember
