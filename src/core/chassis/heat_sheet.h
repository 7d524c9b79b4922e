#pragma once
// The top as a conducting sheet that loses heat from both sides.

#include "assembly.h"

#include <Eigen/SparseCholesky>

#include <memory>

namespace ember::chassis {

/// Heat spread evenly over a rectangle of the top.
struct HeatSource {
    Footprint over;
    double watts = 0;
};

/// k t (T_xx + T_yy) - 2 h (T - Tambient) + q = 0 with insulated rim (the walls' help is left out: the truth is
/// cooler), by finite volumes. h = 10 W/m2K for still air with radiation. The factor is kept: a move costs one
/// substitution.
class HeatSheet {
  public:
    static constexpr double filmCoefficient = 10; ///< h [W/m2K]
    explicit HeatSheet(const Chassis& chassis);

    /// Kelvin per cell, row by row from the front left.
    [[nodiscard]] std::vector<double> solve(const std::vector<HeatSource>& sources) const;
    [[nodiscard]] double at(const std::vector<double>& field, double x, double y) const; ///< [K], bilinear
    [[nodiscard]] int columns() const { return nx; }
    [[nodiscard]] int rows() const { return ny; }
    [[nodiscard]] bool fits(const Chassis& chassis) const; ///< still the sheet of this chassis

  private:
    double width, depth, thickness, conductivity, ambient, dx, dy;
    int nx, ny;
    std::shared_ptr<Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>> factor;
};

} // namespace ember::chassis
