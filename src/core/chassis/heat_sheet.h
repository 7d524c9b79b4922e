#pragma once
// The top as a conducting sheet that loses heat from both sides, below it to the air that is shut in.

#include "assembly.h"
#include "heat_loss.h"

#include <Eigen/SparseCholesky>

#include <memory>

namespace ember::chassis {

/// Heat spread evenly over a rectangle of the top.
struct HeatSource {
    Footprint over;
    double watts = 0;
};

/// k t (T_xx + T_yy) - ha (T - Tambient) - hb (T - Tinside) + q = 0 with a folded box's walls as fins at its
/// rim, by finite volumes. The air inside has a balance of its own: what the sheet
/// gives it and what is lost in it goes through walls and bottom. The factor is kept: a move costs one substitution.
class HeatSheet {
  public:
    explicit HeatSheet(const Chassis& chassis);

    /// Kelvin per cell, row by row from the front left; `inside`: what else warms the air below [W].
    [[nodiscard]] std::vector<double> solve(const std::vector<HeatSource>& sources, double inside = 0) const;
    /// Of the air below, above the room [K]; 0: it is the room's.
    [[nodiscard]] double insideRise(const std::vector<HeatSource>& sources, double inside) const;
    [[nodiscard]] double at(const std::vector<double>& field, double x, double y) const; ///< [K], bilinear
    [[nodiscard]] int columns() const { return nx; }
    [[nodiscard]] int rows() const { return ny; }
    [[nodiscard]] bool fits(const Chassis& chassis) const; ///< still the sheet of this chassis

  private:
    double width, depth, thickness, conductivity, ambient, dx, dy;
    HeatLoss lost;
    Eigen::VectorXd ofWarmAir; ///< the sheet's rise for each kelvin of the air below
    [[nodiscard]] Eigen::VectorXd riseOf(const std::vector<HeatSource>& sources) const; ///< the air below at the room's
    [[nodiscard]] double airRise(const Eigen::VectorXd& rise, double inside) const;
    int nx, ny;
    std::shared_ptr<Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>> factor;
};

} // namespace ember::chassis
