// The stepper's inner product, against the library's, for every size that a supply has.

#include "../support/suite.h"

#include "core/circuit/small_product.h"

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
