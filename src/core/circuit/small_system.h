#pragma once
// Linear equations of a few tens of unknowns with many right-hand sides, solved in place by Gauss's elimination with
// partial pivoting; rows are processed four numbers at a time.

#include <Eigen/Core>

#include <vector>

namespace ember::circuit {

class SmallSystem {
  public:
    /// Room for so many unknowns and right-hand sides; what was in it is lost.
    void resize(Eigen::Index unknowns, Eigen::Index sides);
    [[nodiscard]] Eigen::Index unknowns() const { return count; }

    double& coefficient(Eigen::Index row, Eigen::Index column) { return values[row * stride + column]; }
    /// Before solve(): the right-hand side; after it: the solution.
    double& side(Eigen::Index row, Eigen::Index column) { return values[row * stride + sidesAt + column]; }
    auto side(Eigen::Index row) { return Eigen::Map<Eigen::RowVectorXd>(&values[row * stride + sidesAt], sides); }

    /// A singular system gives infinities or NaN, as division by its zero pivot does. Coefficients are lost.
    void solve();
    /// The system that solve() solved last, for one other right-hand side: `x` (unknowns) becomes its solution.
    void solveAgain(double* x) const;

  private:
    Eigen::VectorXd values;  ///< rows of coefficients and, from `sidesAt` on, right-hand sides; both padded to fours
    Eigen::VectorXd factors; ///< what solve() subtracted of each pivot's row, row-major
    std::vector<Eigen::Index> pivots; ///< the row that each step exchanged with its own
    Eigen::Index count = 0, sides = 0, sidesAt = 0, stride = 0;
};

} // namespace ember::circuit
