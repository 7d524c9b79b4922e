#pragma once
// The amplifier's metalwork as plain values: a chassis and the parts that sit on its faces. Lengths in metres.

#include "extras.h"
#include "faces.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// A plate alone, a folded box (open below), a plate on a wooden frame, or a wooden board for the trial before metal is
/// cut: parts stand on its top, on spacers where they need room below, and its walls are strips of sheet along its
/// edges.
enum class ChassisForm { Plate, Box, Frame, Board };
inline constexpr std::array<std::string_view, 4> chassisFormNames{"plate", "box", "frame", "board"};
enum class Metal { Aluminium, Steel, Copper };
/// How it is painted; bare shows the metal. A frame's walls are wood, painted black or as the plate is.
enum class PlateFinish { Bare, Black, Cream, Green, Red };
inline constexpr std::array<std::string_view, 5> plateFinishNames{"bare", "black", "cream", "green", "red"};
enum class WallFinish { AsPlate, Oak, Walnut, Black };
inline constexpr std::array<std::string_view, 4> wallFinishNames{"as-plate", "oak", "walnut", "black"};
enum class IronFinish { Black, Bare, AsPlate };
/// What stands over the top's parts: nothing, or a cage of perforated sheet that is screwed down.
enum class Cover { None, Cage };
/// Around the sockets: the plain flange or clip, or a bright ring over it.
enum class SocketTrim { Plain, Rings };
enum class BodyShape { Box, Cylinder };
enum class HoleShape { Round, Rectangle, Slot, FlattedRound };
/// Along which of a part's own directions its core's magnetic axis lies: across its width, its depth, or upright.
enum class CoreAxis { None, Width, Depth, Upright };

/// A box or an upright cylinder of a part, in the part's own directions; z is outward from the face, negative inside.
struct Body : Extras {
    std::string id;
    BodyShape shape = BodyShape::Box;
    double x = 0, y = 0;               ///< centre from the part's origin [m]
    double width = 0.02, depth = 0.02; ///< of a box; a cylinder's diameter is its width [m]
    double bottom = 0, height = 0.02;  ///< from the face [m]; bottom may be negative
};

/// A hole that a part needs, in the part's own directions.
struct Hole : Extras {
    std::string id;
    HoleShape shape = HoleShape::Round;
    double x = 0, y = 0;                  ///< centre [m]
    double width = 0.003, height = 0.003; ///< diameter, or sides; a flatted round's height is across its flat [m]
};

struct PlacedPart : Extras {
    std::string id;   ///< of this placement
    std::string of;   ///< id of the electrical part it is, such as v3; may be empty
    std::string kind; ///< transformer, choke, socket, can, jack ...; see catalogue/bodies
    std::string body; ///< which body of the catalogue it began as
    Face face = Face::Top;
    double x = 0.1, y = 0.1; ///< [m]
    double angle = 0;        ///< [degrees], counter-clockwise seen from outside
    double recess = 0;       ///< on standoffs: sunk by this much [m]; a board has no room for it
    bool locked = false;
    double mass = 0.05;     ///< [kg]
    double heat = 0;        ///< [W] that it gives to the plate and the air near it, beyond what the plan knows
    double voltAmperes = 0; ///< of iron: sets its stray field
    double stray = 1;       ///< share of that field that leaves the part: a toroid keeps most of it
    double drawLength = 0;  ///< [m] of a valve in a socket: free height needed to draw it
    CoreAxis core = CoreAxis::None;
    double pinOne = 0;      ///< of a socket: direction of pin 1 in its own frame [degrees]
    bool liveAbove = false; ///< open frame or live lugs outside the chassis
    std::vector<Body> bodies;
    std::vector<Hole> holes;
    PlacedPart();
    PlacedPart(const PlacedPart&);
    PlacedPart(PlacedPart&&) noexcept;
    PlacedPart& operator=(const PlacedPart&);
    PlacedPart& operator=(PlacedPart&&) noexcept;
    ~PlacedPart();
};

/// Where one part stands in a layout.
struct Standing : Extras {
    std::string part; ///< id of the placement
    Face face = Face::Top;
    double x = 0, y = 0, angle = 0, recess = 0; ///< as of PlacedPart
};

/// A layout that was set aside, to compare with or come back to.
struct KeptLayout : Extras {
    std::string id, name;
    std::vector<Standing> places;
};

struct Chassis : Extras {
    ChassisForm form = ChassisForm::Box;
    Metal metal = Metal::Aluminium;
    double width = 0.36, depth = 0.23; ///< of the top [m]
    double height = 0.06;              ///< of the walls: room below [m]; of a board's strips above it
    double thickness = 0.002;
    /// Of a tower: a second chassis of the same size stands below, with this much free height from its top to the walls
    /// of the upper one [m]; 0: there is one chassis. A bench board has none.
    double storey = 0;
    double lid = 0; ///< free height above the top under a cabinet's lid [m]; 0: open
    double bendRadius = 0.003;
    double ambient = 298; ///< of the air around it when it plays [K]
    PlateFinish plateFinish = PlateFinish::Bare;
    WallFinish wallFinish = WallFinish::AsPlate;
    IronFinish ironFinish = IronFinish::Black;
    SocketTrim socketTrim = SocketTrim::Plain;
    Cover cover = Cover::None;
    std::vector<Hole> given; ///< holes of an old chassis, on its top
    std::vector<PlacedPart> parts;
    std::vector<KeptLayout> kept; ///< other layouts of the same parts
    Chassis();
    Chassis(const Chassis&);
    Chassis(Chassis&&) noexcept;
    Chassis& operator=(const Chassis&);
    Chassis& operator=(Chassis&&) noexcept;
    ~Chassis();
};

} // namespace ember
