#pragma once
// The way of a wire below the plate.

#include "core/build/wiring.h"
#include "core/chassis/assembly.h"

#include <array>
#include <optional>
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
    [[nodiscard]] std::size_t storeyOf(const Vector& point) const { return point.z() < below ? 1 : 0; }
    double below; // [m] a tower's lower chassis is
    int columns = 0, rows = 0;
    std::array<std::vector<std::vector<std::size_t>>, 2> parts; // of each storey, in each cell
};

/// Where wires go up through the lower plate of a tower: the grommet nearest to the middle of its back, on that plate.
std::optional<std::size_t> riserHole(const Chassis& chassis);

/// Corners from `a` to `b`, both included; from one chassis of a tower to the other through the riser's hole, or near
/// the middle of the back where there is none. Of the two ways round, or of the two orders of the sides, the shorter
/// one that passes through nothing; the shorter one where both do.
std::vector<Vector> route(const Chassis& chassis, const Obstacles& obstacles, Way way, const Vector& a, const Vector& b,
                          std::size_t fromPart, std::size_t toPart);

/// The parts of a path under one chassis of a tower, each of two points or more; the whole path where there is one.
std::vector<std::vector<Vector>> piecesUnder(const Chassis& chassis, bool lower, const std::vector<Vector>& path);

double lengthOf(const std::vector<Vector>& path);

inline constexpr double wallGap = 0.008; ///< from wall to wire [m]
inline constexpr double dress = 0.015,
                        strip = 0.008; ///< at each end of a wire: slack to dress it, insulation taken off [m]

} // namespace ember::wires
