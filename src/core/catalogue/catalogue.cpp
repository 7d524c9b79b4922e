#include "catalogue.h"

#include "core/base/embedded.h"
#include "core/quantity/letters.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace ember {

namespace {

template <typename T>
const T* find(const std::vector<T>& all, std::string_view name) {
    if (name.empty()) return nullptr;
    const auto called = [&](const std::string& other) { return sameLetters(other, name); };
    for (const T& t : all)
        if (called(t.type) || std::any_of(t.names.begin(), t.names.end(), called)) return &t;
    return nullptr;
}

} // namespace

Heater Heater::wiredFor(double windingVolts) const {
    Heater out = *this;
    for (const HeaterWiring& w : wirings)
        if (std::abs(std::log(w.volts / windingVolts)) < std::abs(std::log(out.volts / windingVolts)))
            out.volts = w.volts, out.amps = w.amps;
    return out;
}

const TypeSection& ValveType::section(int number) const {
    const int last = sections() - 1;
    return halves[static_cast<std::size_t>(std::clamp(number - 1, 0, std::max(0, last)))];
}

double RectifierType::leastSourceOhms(double volts) const {
    if (sourceOhms.empty()) return 0;
    if (volts <= sourceOhms.front().first) return sourceOhms.front().second;
    for (std::size_t k = 1; k < sourceOhms.size(); ++k) {
        const auto& [v0, r0] = sourceOhms[k - 1];
        const auto& [v1, r1] = sourceOhms[k];
        if (volts <= v1) return r0 + (r1 - r0) * (volts - v0) / (v1 - v0);
    }
    return sourceOhms.back().second;
}

circuit::IncandescentLaw LampType::law() const {
    // A lamp is timed at constant volts, where its power falls with T^-1.2 while it radiates T^4; the law's heat
    // capacity counts the radiation alone.
    return {volts, watts, kelvin, timeConstant * (4 + 1.2) / 4, 293};
}

const Catalogue& Catalogue::shipped() {
    static const Catalogue one = [] {
        auto c = read(embedded::text("valves.json"), embedded::text("rectifiers.json"), embedded::text("lamps.json"));
        if (!c) throw std::logic_error(c.problem().text()); // our own file: a defect of the build, not of the user
        return std::move(*c);
    }();
    return one;
}

const ValveType* Catalogue::valve(std::string_view name) const {
    return find(valves, name);
}
const RectifierType* Catalogue::rectifier(std::string_view name) const {
    return find(rectifiers, name);
}

double Catalogue::predictionError(const ValveType& type) const {
    double own = 0;
    for (const TypeSection& s : type.halves) own = std::max(own, s.fit.predicted);
    if (!(own > 0)) {
        std::vector<double> others;
        for (const ValveType& v : valves)
            for (const TypeSection& s : v.halves)
                if (s.fit.predicted > 0) others.push_back(s.fit.predicted);
        if (others.empty()) return 0.1;
        std::nth_element(others.begin(), others.begin() + static_cast<std::ptrdiff_t>(others.size() / 2), others.end());
        own = others[others.size() / 2];
    }
    return std::min(own, 0.25);
}

const LampType& Catalogue::lamp(double volts, double watts) const {
    return *std::min_element(lamps.begin(), lamps.end(), [&](const LampType& a, const LampType& b) {
        const auto far = [&](const LampType& l) {
            return 10 * std::abs(std::log(l.volts / volts)) + std::abs(std::log(l.watts / watts));
        };
        return far(a) < far(b);
    });
}

} // namespace ember
