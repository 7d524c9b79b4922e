#include "bending.h"

#include "metal.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis {

namespace {

constexpr int terms = 31, columns = 41, rows = 29;
constexpr double pi = std::numbers::pi;

/// sin(m pi x / length) for m = 1 .. terms (columns) at `count` points from rim to rim (rows).
Eigen::MatrixXd sines(int count) {
    Eigen::MatrixXd s(count, terms);
    for (int k = 0; k < count; ++k)
        for (int m = 0; m < terms; ++m) s(k, m) = std::sin((m + 1) * pi * k / (count - 1));
    return s;
}

/// Mean of sin(m pi x / length) over [from, to] for every m.
Eigen::VectorXd means(double from, double to, double length) {
    Eigen::VectorXd v(terms);
    const double middle = (from + to) / 2, half = (to - from) / 2;
    for (int m = 0; m < terms; ++m) {
        const double w = (m + 1) * pi / length, x = w * half;
        v[m] = std::sin(w * middle) * (x > 1e-9 ? std::sin(x) / x : 1);
    }
    return v;
}

} // namespace

Bending bend(const Chassis& c, const std::vector<PlateLoad>& loads, double factor, bool ownWeight) {
    const MetalFigures metal = sheetOf(c);
    const double a = c.width, b = c.depth, t = c.thickness;
    const double D = metal.youngs * t * t * t / (12 * (1 - metal.poisson * metal.poisson));
    Eigen::MatrixXd load = Eigen::MatrixXd::Zero(terms, terms); // the pressure's coefficients [Pa]
    const auto add = [&](const Footprint& f, double newtons) {
        const double left = std::clamp(f.left, 0.0, a), right = std::clamp(f.right, left, a);
        const double near = std::clamp(f.near, 0.0, b), far = std::clamp(f.far, near, b);
        load.noalias() += 4 * newtons / (a * b) * means(left, right, a) * means(near, far, b).transpose();
    };
    for (const PlateLoad& l : loads) add(l.over, factor * l.newtons);
    if (ownWeight) add({0, a, 0, b}, factor * metal.density * a * b * t * gravity);

    Eigen::MatrixXd w(terms, terms), mx(terms, terms), my(terms, terms);
    for (int m = 0; m < terms; ++m)
        for (int n = 0; n < terms; ++n) {
            const double p = std::pow((m + 1) / a, 2), q = std::pow((n + 1) / b, 2);
            w(m, n) = load(m, n) / (std::pow(pi, 4) * D * (p + q) * (p + q));
            mx(m, n) = D * pi * pi * w(m, n) * (p + metal.poisson * q);
            my(m, n) = D * pi * pi * w(m, n) * (q + metal.poisson * p);
        }
    static const Eigen::MatrixXd alongX = sines(columns), alongY = sines(rows);
    const Eigen::MatrixXd sag = alongX * w * alongY.transpose();
    const Eigen::MatrixXd momentX = alongX * mx * alongY.transpose(), momentY = alongX * my * alongY.transpose();
    Bending out;
    out.columns = columns;
    out.rows = rows;
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i) out.sag.push_back(sag(i, j));
    Eigen::Index i = 0, j = 0;
    out.most = sag.maxCoeff(&i, &j);
    out.mostX = a * static_cast<double>(i) / (columns - 1);
    out.mostY = b * static_cast<double>(j) / (rows - 1);
    out.stress = 6 / (t * t) * std::max(momentX.cwiseAbs().maxCoeff(), momentY.cwiseAbs().maxCoeff());
    return out;
}

} // namespace ember::chassis
