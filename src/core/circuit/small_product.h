#pragma once
// Products of matrices with a handful of rows, for which a library's call costs more than the sums: whole columns are
// kept in registers. On processors that have them, 256-bit registers with fused multiply-add.

#include <Eigen/Core>

namespace ember::circuit {

/// Rows come in fours: a matrix for product() has so many, the last of them zero.
inline Eigen::Index inFours(Eigen::Index rows) {
    return (rows + 3) / 4 * 4;
}
/// With zero rows added to a multiple of four, or to `rows` if that is more.
Eigen::MatrixXd padded(const Eigen::MatrixXd& A, Eigen::Index rows = 0);

/// What becomes of y: replaced by A x, or A x added to it or taken from it.
enum class Into { Set, Add, Subtract };

/// y (rows x columns) from A (rows x inner, rows in fours) and x (inner x columns, `xStride` apart). y's columns are
/// A.rows() apart and must not overlap x or A.
void product(const Eigen::MatrixXd& A, const double* x, Eigen::Index xStride, Eigen::Index columns, double* y,
             Into into);

} // namespace ember::circuit
