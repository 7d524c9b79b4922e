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
      ambient(c.ambient) {
    constexpr double cell = 6e-3;
    nx = std::clamp(static_cast<int>(std::lround(width / cell)), 8, 100);
    ny = std::clamp(static_cast<int>(std::lround(depth / cell)), 8, 100);
    dx = width / nx;
    dy = depth / ny;
    const double alongX = conductivity * thickness * dy / dx, alongY = conductivity * thickness * dx / dy;
    const double loss = 2 * filmCoefficient * dx * dy;
    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(static_cast<std::size_t>(5 * nx * ny));
    const auto index = [&](int i, int j) { return j * nx + i; };
    for (int j = 0; j < ny; ++j)
        for (int i = 0; i < nx; ++i) {
            double own = loss;
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
}

bool HeatSheet::fits(const Chassis& c) const {
    return c.width == width && c.depth == depth && c.thickness == thickness && c.ambient == ambient &&
           sheetOf(c).conductivity == conductivity;
}

std::vector<double> HeatSheet::solve(const std::vector<HeatSource>& sources) const {
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
    const Eigen::VectorXd rise = factor->solve(q);
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
