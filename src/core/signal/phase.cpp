#include "phase.h"

#include <cmath>

namespace ember::signal {

std::vector<double> groupDelay(const std::vector<ResponsePoint>& p) {
    std::vector<double> out(p.size(), std::numeric_limits<double>::quiet_NaN());
    double reference = 0, nearest = 1e9;
    for (std::size_t k = 1; k + 1 < p.size(); ++k) {
        out[k] = -(p[k + 1].degrees - p[k - 1].degrees) / 360 / (p[k + 1].hertz - p[k - 1].hertz);
        if (const double off = std::abs(std::log(p[k].hertz / 1000)); off < nearest) nearest = off, reference = out[k];
    }
    for (double& v : out) v -= reference;
    return out;
}

std::vector<double> phaseFrom1kHz(const std::vector<ResponsePoint>& p) {
    std::vector<double> out;
    std::size_t at = 0;
    for (std::size_t k = 0; k < p.size(); ++k)
        if (std::abs(std::log(p[k].hertz / 1000)) < std::abs(std::log(p[at].hertz / 1000))) at = k;
    if (at == 0 || at + 1 >= p.size()) return std::vector<double>(p.size(), std::numeric_limits<double>::quiet_NaN());
    const double slope = (p[at + 1].degrees - p[at - 1].degrees) / (p[at + 1].hertz - p[at - 1].hertz);
    for (const ResponsePoint& q : p) out.push_back(q.degrees - p[at].degrees - slope * (q.hertz - p[at].hertz));
    return out;
}

} // namespace ember::signal
