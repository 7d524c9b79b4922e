// The stepper's inner product and its small systems, against the library's, for every size that a supply has.

#include "../support/suite.h"

#include "core/circuit/small_product.h"
#include "core/circuit/small_system.h"

#include <QTest>

#include <Eigen/Dense>

using namespace ember::circuit;

class TestSmallProduct : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void isTheMatrixProduct() {
        srand(7);
        for (int rows = 1; rows <= 37; ++rows)
            for (const int inner : {0, 1, 2, 7, 19})
                for (const int columns : {1, 3, 8}) {
                    const Eigen::MatrixXd A = Eigen::MatrixXd::Random(rows, inner), P = padded(A);
                    const Eigen::MatrixXd x = Eigen::MatrixXd::Random(inner + 2, columns); // wider apart than needed
                    const Eigen::MatrixXd want = A * x.topRows(inner);
                    Eigen::MatrixXd y = Eigen::MatrixXd::Constant(P.rows(), columns, 5);
                    product(P, x.data(), x.rows(), columns, y.data(), Into::Set);
                    QVERIFY((y.topRows(rows) - want).cwiseAbs().maxCoeff() < 1e-13);
                    QVERIFY((y.bottomRows(P.rows() - rows).array() == 0).all());
                    product(P, x.data(), x.rows(), columns, y.data(), Into::Add);
                    QVERIFY((y.topRows(rows) - 2 * want).cwiseAbs().maxCoeff() < 1e-13);
                    product(P, x.data(), x.rows(), columns, y.data(), Into::Subtract);
                    product(P, x.data(), x.rows(), columns, y.data(), Into::Subtract);
                    QVERIFY(y.cwiseAbs().maxCoeff() < 1e-13);
                }
    }

    /// With pivots out of order, several right-hand sides at once, and one more behind them.
    void aSystemIsSolvedAndSolvedAgain() {
        srand(3);
        for (int n = 1; n <= 15; ++n)
            for (const int sides : {1, 3, 6}) {
                const Eigen::MatrixXd A = Eigen::MatrixXd::Random(n, n), B = Eigen::MatrixXd::Random(n, sides);
                SmallSystem s;
                s.resize(n, sides);
                for (int r = 0; r < n; ++r) {
                    for (int c = 0; c < n; ++c) s.coefficient(r, c) = A(r, c);
                    for (int c = 0; c < sides; ++c) s.side(r, c) = B(r, c);
                }
                s.solve();
                const Eigen::MatrixXd want = A.fullPivLu().solve(B);
                for (int r = 0; r < n; ++r)
                    QVERIFY((s.side(r) - want.row(r)).cwiseAbs().maxCoeff() < 1e-9 * (1 + want.cwiseAbs().maxCoeff()));
                Eigen::VectorXd x = Eigen::VectorXd::Random(n);
                const Eigen::VectorXd again = A.fullPivLu().solve(x);
                s.solveAgain(x.data());
                QVERIFY((x - again).cwiseAbs().maxCoeff() < 1e-9 * (1 + again.cwiseAbs().maxCoeff()));
            }
    }

    void paddingIsZeroAndNoMoreThanNeeded() {
        const Eigen::MatrixXd A = Eigen::MatrixXd::Ones(5, 2);
        QCOMPARE(padded(A).rows(), Eigen::Index(8));
        QCOMPARE(padded(A).sum(), 10.0);
        QCOMPARE(padded(A, 9).rows(), Eigen::Index(12));
        QCOMPARE(padded(Eigen::MatrixXd::Ones(4, 1)).rows(), Eigen::Index(4));
        QCOMPARE(padded(Eigen::MatrixXd(0, 3)).rows(), Eigen::Index(0));
    }
};

EMBER_TESTS(TestSmallProduct)
#include "test_small_product.moc"
