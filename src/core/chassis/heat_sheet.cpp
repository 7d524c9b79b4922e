#include "heat_sheet.h"

#include "metal.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis {

HeatSheet::HeatSheet(const Chassis& c)
    : width(c.width),
      depth(c.depth),
      thickness(c.thickness),
      conductivity(sheetOf(c).conductivity),
      ambient(c.ambient),
      lost(heatLossOf(c)) {
    constexpr double cell = 6e-3;
    nx = std::clamp(static_cast<int>(std::lround(width / cell)), 8, 100);
    ny = std::clamp(static_cast<int>(std::lround(depth / cell)), 8, 100);
    dx = width / nx;
    dy = depth / ny;
    const double alongX = conductivity * thickness * dy / dx, alongY = conductivity * thickness * dx / dy;
    const double loss = (lost.above + lost.below) * dx * dy;
    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(static_cast<std::size_t>(5 * nx * ny));
    const auto index = [&](int i, int j) { return j * nx + i; };
    for (int j = 0; j < ny; ++j)
        for (int i = 0; i < nx; ++i) {
            double own = loss;
            if (i == 0 || i == nx - 1) own += lost.rim * dy;
            if (j == 0 || j == ny - 1) own += lost.rim * dx;
            const auto link = [&](int ni, int nj, double g) {
                if (ni < 0 || nj < 0 || ni >= nx || nj >= ny) return;
                own += g;
                entries.emplace_back(index(i, j), index(ni, nj), -g);
            };
            link(i - 1, j, alongX);
            link(i + 1, j, alongX);
            link(i, j - 1, alongY);
            link(i, j + 1, alongY);
            entries.emplace_back(index(i, j), index(i, j), own);
        }
    Eigen::SparseMatrix<double> A(nx * ny, nx * ny);
    A.setFromTriplets(entries.begin(), entries.end());
    factor = std::make_shared<Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>>(A);
    ofWarmAir = factor->solve(Eigen::VectorXd::Constant(nx * ny, lost.below * dx * dy));
}

bool HeatSheet::fits(const Chassis& c) const {
    return c.width == width && c.depth == depth && c.thickness == thickness && c.ambient == ambient &&
           sheetOf(c).conductivity == conductivity && heatLossOf(c) == lost;
}

Eigen::VectorXd HeatSheet::riseOf(const std::vector<HeatSource>& sources) const {
    Eigen::VectorXd q = Eigen::VectorXd::Zero(nx * ny);
    for (const HeatSource& s : sources) {
        const double left = std::clamp(s.over.left, 0.0, width - dx / 2),
                     right = std::clamp(s.over.right, left + dx / 2, width);
        const double near = std::clamp(s.over.near, 0.0, depth - dy / 2),
                     far = std::clamp(s.over.far, near + dy / 2, depth);
        const double density = s.watts / ((right - left) * (far - near));
        for (int j = static_cast<int>(near / dy); j < ny && j * dy < far; ++j)
            for (int i = static_cast<int>(left / dx); i < nx && i * dx < right; ++i) {
                const double w = std::min(right, (i + 1) * dx) - std::max(left, i * dx);
                const double d = std::min(far, (j + 1) * dy) - std::max(near, j * dy);
                if (w > 0 && d > 0) q[j * nx + i] += density * w * d;
            }
    }
    return factor->solve(q);
}

double HeatSheet::airRise(const Eigen::VectorXd& rise, double inside) const {
    if (!(lost.box > 0)) return 0;
    // What the sheet gives the air, lost.below (T - Tair) over its area, and `inside` leave by the box.
    const double perCell = lost.below * dx * dy;
    return (perCell * rise.sum() + inside) /
           (lost.box + perCell * (static_cast<double>(rise.size()) - ofWarmAir.sum()));
}

double HeatSheet::insideRise(const std::vector<HeatSource>& sources, double inside) const {
    return airRise(riseOf(sources), inside);
}

std::vector<double> HeatSheet::solve(const std::vector<HeatSource>& sources, double inside) const {
    const Eigen::VectorXd alone = riseOf(sources), rise = alone + airRise(alone, inside) * ofWarmAir;
    std::vector<double> out(static_cast<std::size_t>(nx * ny));
    for (int k = 0; k < nx * ny; ++k) out[static_cast<std::size_t>(k)] = ambient + rise[k];
    return out;
}

double HeatSheet::at(const std::vector<double>& field, double x, double y) const {
    const double u = std::clamp(x / dx - 0.5, 0.0, nx - 1.0), v = std::clamp(y / dy - 0.5, 0.0, ny - 1.0);
    const int i = std::min(static_cast<int>(u), nx - 2), j = std::min(static_cast<int>(v), ny - 2);
    const double a = u - i, b = v - j;
    const auto cell = [&](int ii, int jj) { return field[static_cast<std::size_t>(jj * nx + ii)]; };
    return (1 - b) * ((1 - a) * cell(i, j) + a * cell(i + 1, j)) +
           b * ((1 - a) * cell(i, j + 1) + a * cell(i + 1, j + 1));
}

} // namespace ember::chassis
