#pragma once
// What touches, what cannot be reached or drawn out, what hangs over an edge.

#include "assembly.h"

#include <array>
#include <optional>
#include <span>
#include <string>

namespace ember::chassis {

enum class FitKind {
    Touching,
    TooNear,
    OffTheFace,
    NearEdge,
    BelowDepth,
    AboveLid,
    CannotDraw,
    HolesMeet,
    NoScrewdriver,
    AtPillar ///< of a tower
};

struct FitProblem {
    FitKind kind;
    std::size_t a = 0, b = 0; ///< parts; b is a for a part against the chassis or itself
    double gap = 0;           ///< what there is [m]; negative: too long by so much
    double wanted = 0;        ///< what is wanted [m]
};

/// Least air between two parts that may stand `volts` apart: 2 mm and 1 mm for each 100 V. A builder's rule, wider than
/// what IEC 62368-1 asks of basic insulation (about 4 mm at 400 V), because nothing in a hand-wired chassis stays where
/// it was.
double clearanceFor(double volts);
/// What a hole keeps from its face's edge [m]: 3 mm of metal, beyond a folded box's bend; a screw's 10 mm of wood,
/// which splits.
double edgeRoom(const Chassis& chassis, Face face);
/// Free height over a face: a tower's storey, a cabinet's lid; 0: open [m].
double roomOver(const Chassis& chassis, Face face);
inline constexpr double aroundPillar = 0.002; ///< air that everything keeps from a tower's pillars [m]
inline constexpr double drawExtra = 0.02;     ///< above what a valve is drawn by, for the fingers [m]
/// Free height over a valve that drawing it out takes [m]: its own length, or between the open sides of a tower, where
/// it leaves sideways, that of pins and key (IEC 60067, octal: 14.5 mm).
double drawRoom(const PlacedPart& part);

inline constexpr double betweenHoles = 0.002; ///< metal that must stay between two holes [m]
/// Room above a bolt's head for a screwdriver and the hand that turns it [m].
inline constexpr double toolDiameter = 0.008, toolLength = 0.07;

/// Whether a part carries high voltage that others must keep clear of.
bool isLive(const PlacedPart& part);

/// Whether the mains come to its lugs: inlet, fuse, switch.
bool carriesMains(const PlacedPart& part);

/// Every problem, parts in order. `volts`: what stands between live parts and everything else [V].
/// With `only`, those of that part alone.
std::vector<FitProblem> checkFit(const Chassis& chassis, const Assembly& assembly, double volts,
                                 std::optional<std::size_t> only = {});

/// Air between neighbours on the whole chassis, up to `limit` [m], narrowest first.
struct Gap {
    std::size_t a = 0, b = 0;
    double air = 0, wanted = 0; ///< [m]
    Vector from, to;            ///< middles of the two bodies that are nearest
};
std::vector<Gap> narrowGaps(const Chassis& chassis, const Assembly& assembly, double volts, double limit);

/// Air between two parts [m], 0 when they touch.
double gapBetween(const Assembly& assembly, std::size_t a, std::size_t b);

/// Widths and depths of sheets as they are sold or folded [m], the smallest first.
std::span<const std::array<double, 2>> usualPlates();

/// Share of the top that footprints above it cover, share of the room below that is free, and the least top for these
/// parts: footprints with 5 mm around each, over a packing of 0.6.
struct Room {
    double usedAbove = 0, freeBelow = 1, leastArea = 0; ///< shares; [m2]
    double suggestedWidth = 0, suggestedDepth = 0;      ///< next of the usual sheet sizes [m]
};
Room roomOf(const Chassis& chassis, const Assembly& assembly);

} // namespace ember::chassis
