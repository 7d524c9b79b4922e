#include "small_product.h"

#include "wide.h"

namespace ember::circuit {

namespace {

using namespace wide;

/// `B` times four rows of every column.
template <int B>
EMBER_KERNEL inline __attribute__((always_inline)) void
rowsOf(const double* __restrict a, Eigen::Index rows, Eigen::Index inner, const double* __restrict x,
       Eigen::Index xStride, Eigen::Index columns, double* __restrict y, Into into) {
    for (Eigen::Index c = 0; c < columns; ++c, x += xStride, y += rows) {
        Four sum[B] = {};
        const double* column = a;
        for (Eigen::Index k = 0; k < inner; ++k, column += rows) {
            const Four factor = {x[k], x[k], x[k], x[k]};
            for (Eigen::Index b = 0; b < B; ++b) {
                Four part;
                load(part, column + 4 * b);
                sum[b] += part * factor;
            }
        }
        for (Eigen::Index b = 0; b < B; ++b) {
            Four was;
            load(was, y + 4 * b);
            sum[b] = into == Into::Set ? sum[b] : into == Into::Add ? was + sum[b] : was - sum[b];
            store(y + 4 * b, sum[b]);
        }
    }
}

EMBER_KERNEL inline __attribute__((always_inline)) void allRows(const double* a, Eigen::Index rows, Eigen::Index inner,
                                                                const double* x, Eigen::Index xStride,
                                                                Eigen::Index columns, double* y, Into into) {
    Eigen::Index at = 0;
    for (; rows - at >= 32; at += 32) rowsOf<8>(a + at, rows, inner, x, xStride, columns, y + at, into);
    for (; rows - at >= 16; at += 16) rowsOf<4>(a + at, rows, inner, x, xStride, columns, y + at, into);
    switch (rows - at) {
    case 12: return rowsOf<3>(a + at, rows, inner, x, xStride, columns, y + at, into);
    case 8: return rowsOf<2>(a + at, rows, inner, x, xStride, columns, y + at, into);
    case 4: return rowsOf<1>(a + at, rows, inner, x, xStride, columns, y + at, into);
    default: return;
    }
}

using Kernel = void (*)(const double*, Eigen::Index, Eigen::Index, const double*, Eigen::Index, Eigen::Index, double*,
                        Into);

EMBER_KERNEL void anyProcessor(const double* a, Eigen::Index rows, Eigen::Index inner, const double* x,
                               Eigen::Index xStride, Eigen::Index columns, double* y, Into into) {
    allRows(a, rows, inner, x, xStride, columns, y, into);
}

EMBER_KERNEL EMBER_WIDE void wideRegisters(const double* a, Eigen::Index rows, Eigen::Index inner, const double* x,
                                           Eigen::Index xStride, Eigen::Index columns, double* y, Into into) {
    allRows(a, rows, inner, x, xStride, columns, y, into);
}

} // namespace

Eigen::MatrixXd padded(const Eigen::MatrixXd& A, Eigen::Index rows) {
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(inFours(std::max(rows, A.rows())), A.cols());
    out.topRows(A.rows()) = A;
    return out;
}

void product(const Eigen::MatrixXd& A, const double* x, Eigen::Index xStride, Eigen::Index columns, double* y,
             Into into) {
    static const Kernel chosen = wide::available() ? wideRegisters : anyProcessor;
    wide::mayTouch(A.data(), A.size());
    wide::mayTouch(x, xStride * (columns - 1) + A.cols());
    wide::mayTouch(y, A.rows() * columns);
    chosen(A.data(), A.rows(), A.cols(), x, xStride, columns, y, into);
}

} // namespace ember::circuit
