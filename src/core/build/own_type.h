#pragma once
// A valve type that no catalogue lists, as its builder has it: from a sheet, a tracer or a bench.

#include "extras.h"

#include "core/catalogue/ratings.h"

#include <string>
#include <vector>

namespace ember {

/// An operating point of an average valve of the type, one section [V to the cathode, A, A/V, ohm]; 0: not stated.
/// A point below a fiftieth of the most current counts as a point of cut-off.
struct SheetPoint : Extras {
    double plate = 0, screen = 0, grid = 0; ///< screen: a pentode's
    double plateAmps = 0, screenAmps = 0, gm = 0, mu = 0, rp = 0;
};

enum class ValveKind { Triode, Pentode };

inline constexpr std::size_t mostSheetPoints = 60;

struct OwnType : Extras {
    std::string id; ///< its designation, as Valve::type names it
    ValveKind kind = ValveKind::Triode;
    int sections = 1;   ///< alike
    std::string pinsAs; ///< a catalogue's type of the same base and pins; empty: not known
    double heaterVolts = 6.3, heaterAmps = 0.3;
    bool directlyHeated = false;
    /// Limits as published; 0: none is [W, V, A, ohm].
    double plateWatts = 0, screenWatts = 0, plateVolts = 0, screenVolts = 0;
    double cathodeAmps = 0, heaterCathodeVolts = 0, gridLeakOhms = 0;
    RatingSystem system = RatingSystem::DesignMaximum;       ///< that the limits are in
    double gridPlate = 0, gridCathode = 0, plateCathode = 0; ///< [F]; 0: not published
    double gridOnset = 0; ///< where the grid begins to take current [V]; 0: as is typical of its heater
    std::string source;   ///< where its figures are from
    std::vector<SheetPoint> points;
    OwnType();
    OwnType(const OwnType&);
    OwnType(OwnType&&) noexcept;
    OwnType& operator=(const OwnType&);
    OwnType& operator=(OwnType&&) noexcept;
    ~OwnType();
};

} // namespace ember
