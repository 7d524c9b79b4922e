#pragma once
// Where the wires of a build can end: every pin of every part, and where it stands under the chassis.

#include "core/chassis/assembly.h"
#include "core/schematic/whole.h"

#include <optional>

namespace ember::wires {

using chassis::Vector;

/// A pin that a wire can be soldered to.
struct Terminal {
    schematic::PinId pin;
    std::string name; ///< "v3.7", "c1.-", "pt1.plate-a": part, and number on the base or name of the pin
    schematic::NetId net;
    std::size_t spot = 0; ///< placed part at which it is, in Chassis::parts
    Vector at = Vector::Zero();
    int lug = 0; ///< of a board that is laid out: which; 0: none
    /// The first lug of those that jumpers join with it, for a place is what is joined without a wire.
    int joined = 0;
    [[nodiscard]] bool together(const Terminal& other) const { return spot == other.spot && joined == other.joined; }
};

struct Terminals {
    schematic::WholeAmplifier whole;
    std::vector<Terminal> list; ///< of parts that have a place; in the order of the parts
    [[nodiscard]] const Terminal* find(std::string_view name) const;
    [[nodiscard]] const schematic::Part& part(const Terminal& t) const { return whole.schematic[t.pin.part]; }
    [[nodiscard]] schematic::Serves serves(const Terminal& t) const { return whole.of(t.pin.part); }
};

inline constexpr double solderDepth = 0.012; ///< of tags below the inner side of the metal [m]

/// "v3.7": part, and the pin's number on the base, else its name.
std::string terminalName(const schematic::Part& part, const schematic::Pin& pin);

/// As a builder says it: "V3 pin 4", "C1 −", "PT1 plate a".
std::string spoken(const std::string& terminal);

/// Where pin `number` of a socket stands, on the side that is soldered [m].
Vector socketPinAt(const Chassis& chassis, const PlacedPart& socket, int number);

/// Where lug `lug` of a board stands, on the side that is soldered or, where its wire leaves beneath, on the other [m].
Vector lugAt(const Chassis& chassis, const PlacedPart& on, const Board& board, int lug);

/// Parts of the layout carry their own pins. A small part that is not placed by itself stands on the nearest board
/// within 0.12 m of what it is connected to, or at the nearest socket; its end at a valve's electrode goes to the
/// socket's pin where that is within reach of its lead. On a board that is laid out the ends are at their lugs. Loads
/// stand outside and have no terminals. What has no place at all is left out.
Terminals terminalsOf(const Build& build, const Catalogue& catalogue);

} // namespace ember::wires
