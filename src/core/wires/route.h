#pragma once
// The way of a wire below the plate.

#include "core/build/wiring.h"
#include "core/chassis/assembly.h"

#include <vector>

namespace ember::wires {

using chassis::Vector;

/// Along the walls, as heaters and mains go; at right angles, along one side of the chassis and then the other; or
/// straight.
enum class Way { Walls, Square, Straight };

/// What stands below the plate, in the way of wires.
class Obstacles {
  public:
    explicit Obstacles(const Chassis& chassis);
    /// The parts whose bodies a path passes through; `except` are those it ends at.
    [[nodiscard]] std::vector<std::size_t> hit(const std::vector<Vector>& path, std::size_t from, std::size_t to) const;

    /// Round what is in the way, at right angles on a grid of 5 mm (Hart, Nilsson and Raphael 1968); empty: there is no
    /// way.
    [[nodiscard]] std::vector<Vector> detour(const Vector& a, const Vector& b, std::size_t from, std::size_t to) const;

  private:
    static constexpr double cell = 0.005; // [m]
    chassis::Assembly assembly;
    int columns = 0, rows = 0;
    std::vector<std::vector<std::size_t>> parts; // in each cell
};

/// Corners from `a` to `b`, both included. Of the two ways round, or of the two orders of the sides, the shorter one
/// that passes through nothing; the shorter one where both do.
std::vector<Vector> route(const Chassis& chassis, const Obstacles& obstacles, Way way, const Vector& a, const Vector& b,
                          std::size_t fromPart, std::size_t toPart);

double lengthOf(const std::vector<Vector>& path);

inline constexpr double wallGap = 0.008; ///< from wall to wire [m]
inline constexpr double dress = 0.015,
                        strip = 0.008; ///< at each end of a wire: slack to dress it, insulation taken off [m]

} // namespace ember::wires
