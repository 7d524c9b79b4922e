#include "iron_pickup.h"

#include <cmath>
#include <numbers>

namespace ember::wires {

namespace {

const OutputTransformer* ironOf(const Build& b, const std::string& id) {
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages)
            for (const StagePart& p : s.parts)
                if (const auto* t = std::get_if<OutputTransformer>(&p.part); t && t->id == id) return t;
    return nullptr;
}

} // namespace

std::vector<IronReceiver> ironReceivers(const Build& b, const ChannelReach& r) {
    constexpr double usualLowest = 40; // [Hz] of one whose rating does not say
    const auto dipoles = chassis::dipolesOf(b.chassis, chassis::assemble(b.chassis));
    std::vector<IronReceiver> out(r.iron.size());
    for (std::size_t k = 0; k < r.iron.size(); ++k) {
        const OutputTransformer* t = ironOf(b, r.iron[k]);
        for (const chassis::Dipole& d : dipoles) {
            const PlacedPart& p = b.chassis.parts[d.part];
            if (!t || p.of != t->id || !(t->primaryInductance > 0) || !(r.ironHenries[k] > 0)) continue;
            const double lowest = t->lowestHertz > 0 ? t->lowestHertz : usualLowest,
                         rated = std::sqrt(2 * t->watts * t->primaryImpedance) / (2 * std::numbers::pi * lowest),
                         share = std::sqrt(r.ironHenries[k] / t->primaryInductance); // of the turns, in the first coil
            out[k] = {d, coreGathers * p.stray * share * rated / ratedTesla / r.ironTurns[k]};
        }
    }
    return out;
}

std::complex<double> voltsATurn(const IronReceiver& receiver, std::size_t harmonic, double mainsHertz) {
    return {0, 2 * std::numbers::pi * mainsHertz * static_cast<double>(harmonic + 1) * receiver.webersPerTesla};
}

double axialField(const FieldSource& source, const IronReceiver& receiver) {
    if (!(receiver.webersPerTesla > 0)) return 0;
    double sum = 0;
    for (const chassis::Dipole& d : source.dipoles)
        if (d.part != receiver.place.part) sum += chassis::fieldAt(d, receiver.place.centre).dot(receiver.place.axis);
    return sum;
}

} // namespace ember::wires
