// The terms of a sketch's score.
#include "sketch.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis {

namespace {

double shortfall(double db, double from, double over) {
    return std::max(0.0, db - from) / over;
}

} // namespace

double Sketch::symmetry() const {
    double sum = 0;
    int count = 0;
    for (std::size_t n = 0; n < parts.size(); ++n) {
        const Part &p = parts[n], &q = parts[p.mate];
        if (p.mate <= n) continue;
        const double dx = isPlate(p.face) || p.face == q.face ? p.faceWidth - p.x - q.x : 0;
        sum += std::min(3.0, std::hypot(dx, p.y - q.y) / 0.02);
        ++count;
    }
    return count ? sum / count : 0;
}

double Sketch::rows() const {
    double sum = 0;
    int count = 0;
    for (const auto& row : rowsOfParts)
        for (const std::size_t n : row) {
            if (row.size() < 2) break;
            double least = 0.015;
            for (const std::size_t m : row)
                if (m != n)
                    least = std::min({least, std::abs(parts[n].x - parts[m].x), std::abs(parts[n].y - parts[m].y)});
            sum += least / 0.005;
            ++count;
        }
    return count ? sum / count : 0;
}

double Sketch::ironBlock() const {
    double left = 1e9, right = -1e9, near = 1e9, far = -1e9;
    for (const Part& p : parts)
        if (p.iron && isPlate(p.face))
            for (const Box& b : p.boxes) {
                if (b.of != Of::Body) continue;
                left = std::min(left, b.low.x());
                right = std::max(right, b.high.x());
                near = std::min(near, b.low.y());
                far = std::max(far, b.high.y());
            }
    if (right <= left) return 0;
    const double share = (right - left) * (far - near) / (plateWidth * plateDepth);
    return std::max({0.0, (0.25 - share) / 0.1, (share - 0.45) / 0.2});
}

double Sketch::signalWay() const {
    double worst = 0;
    for (const auto& path : paths) {
        if (path.size() < 2) continue;
        double length = 0;
        for (std::size_t k = 1; k < path.size(); ++k)
            length += (parts[path[k]].centre - parts[path[k - 1]].centre).norm();
        const double straight = (parts[path.back()].centre - parts[path.front()].centre).norm();
        worst = std::max(worst, (length - straight) / 0.15 + length / (plateWidth + plateDepth));
    }
    return worst / 2;
}

Scores Sketch::scores() const {
    Scores s{};
    const auto set = [&](Term t, double v) { s[static_cast<std::size_t>(t)] = v; };
    set(Term::Fit, std::max(0.0, touching) / 0.01);
    double worst = 0, sum = 0;
    const std::size_t count = parts.size();
    for (const std::size_t v : victims) {
        double square = 0;
        for (std::size_t n = 0; n < count; ++n) square += tesla[n * count + v];
        const double one = shortfall(10 * std::log10(std::max(1e-30, square) / (allowedTesla * allowedTesla)), -20, 20);
        worst = std::max(worst, one);
        sum += one;
    }
    set(Term::Exposure, victims.empty() ? 0 : (worst + sum / static_cast<double>(victims.size())) / 2);
    sum = 0;
    for (const std::size_t o : outputs) {
        double most = -200;
        for (std::size_t n = 0; n < count; ++n)
            if (parts[n].hums && parts[n].moment > 0) most = std::max(most, decibel[n * count + o]);
        sum += shortfall(most, -60, 20);
    }
    set(Term::Coupling, outputs.empty() ? 0 : sum / static_cast<double>(outputs.size()));
    worst = 0;
    for (const std::size_t k : cans) {
        double rise = 0;
        for (std::size_t n = 0; n < count; ++n) rise += kelvin[n * count + k];
        worst = std::max(worst, rise / 20);
    }
    set(Term::Heat, worst);
    Vector centre = Vector::Zero();
    double mass = 0;
    for (const Part& p : parts) {
        centre += p.mass * p.centre;
        mass += p.mass;
    }
    centre /= std::max(1e-9, mass);
    set(Term::Balance, std::hypot((centre.x() / plateWidth - 0.5) / 0.15, (centre.y() / plateDepth - 0.5) / 0.25));
    set(Term::Symmetry, symmetry());
    set(Term::Rows, rows());
    set(Term::Iron, ironBlock());
    set(Term::Signal, signalWay());
    return s;
}

} // namespace ember::chassis
