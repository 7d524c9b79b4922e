#pragma once
// Commands about a valve by itself. Each gives its exit code.

#include <optional>
#include <string>

namespace ember::cli {

struct ValveAsked {
    std::string type;
    int section = 1;
    std::optional<double> plate, grid, screen; ///< [V] to the cathode; without them what the catalogue has
};
/// Current and slopes at a point, or pins, heater, limits, law and how well it meets what is published.
int valve(const ValveAsked& asked);
/// A law from the points in a file, JSON or a table, with its errors. `grid`: of the catalogue's type, if one is named.
int fit(const std::string& file);

} // namespace ember::cli
