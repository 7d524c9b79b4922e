#include "setup.h"

#include "core/quantity/quantity.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <cmath>
#include <complex>
#include <numbers>

namespace ember::bench {

namespace {

std::string loadInWords(const Setup& s) {
    if (s.loudspeaker) return "the loudspeaker";
    return s.loadOhms > 0 ? "a load of " + formatExact(s.loadOhms, Unit::Ohm) : "the build's own load";
}

/// Voice coil and resonance from the output to ground, the resistor taken off.
void connectLoudspeaker(Build& b, const Channel& channel, const Loudspeaker& l) {
    const std::string output = schematic::outputNet(channel), inner = "loudspeaker " + channel.name;
    const auto add = [&](const std::string& id, const std::string& from, const std::string& to, PartValue part) {
        idOf(part) = "loudspeaker-" + id + "-" + channel.id;
        b.loose.push_back({{}, from, to, "", std::move(part)});
    };
    ResistorPart resonance;
    resonance.resistance = l.resonanceOhms;
    CapacitorPart mass;
    mass.capacitance = l.farads;
    ChokePart coil, spring;
    coil.inductance = l.henries, coil.resistance = l.ohms;
    spring.inductance = l.coil, spring.resistance = 1e-3;
    add("coil", output, inner, coil);
    add("resonance", inner, "ground", resonance);
    add("mass", inner, "ground", mass);
    add("spring", inner, "ground", spring);
}

} // namespace

std::string changeInWords(const Setup& from, const Setup& to, const std::string& channel) {
    std::string out;
    if (from.loudspeaker != to.loudspeaker || from.loadOhms != to.loadOhms)
        out += fmt::format("Connect {} to {}, the amplifier switched off meanwhile.", loadInWords(to), channel);
    if (from.control != to.control && to.control >= 0)
        out += fmt::format("{}Turn the level control to {:.0f} % of its travel.", out.empty() ? "" : " ",
                           100 * to.control);
    if (from.everyChannel != to.everyChannel)
        out += std::string(out.empty() ? "" : " ") + (to.everyChannel
                                                          ? "Join the inputs of all channels, each with its load."
                                                          : "Drive this channel alone, the other inputs shorted.");
    if (from.second != to.second && to.second != SecondInput::Nothing)
        out += std::string(out.empty() ? "" : " ") +
               (to.second == SecondInput::Input ? "Put the recorder's second input across the amplifier's input."
                                                : "Put the recorder's second input across the next channel's load.");
    return out;
}

std::string inWords(const Setup& s) {
    std::string out;
    if (s.loudspeaker) out = "loudspeaker";
    if (!s.loudspeaker && s.loadOhms > 0) out = formatExact(s.loadOhms, Unit::Ohm);
    if (s.control >= 0) out += fmt::format("{}control at {:.0f} %", out.empty() ? "" : ", ", 100 * s.control);
    if (s.everyChannel) out += out.empty() ? "all channels" : ", all channels";
    return out.empty() ? "as built" : out;
}

double Loudspeaker::impedance(double hertz) const {
    using C = std::complex<double>;
    const double w = 2 * std::numbers::pi * hertz;
    const C moving = 1.0 / (1 / resonanceOhms + C(0, w * farads) + 1.0 / C(0, w * coil));
    return std::abs(C(ohms, w * henries) + moving);
}

Loudspeaker loudspeakerOf(double nominal) {
    constexpr double resonance = 60, q = 3; // [Hz]
    const double w = 2 * std::numbers::pi * resonance;
    Loudspeaker l;
    l.ohms = 0.75 * nominal;
    l.henries = 0.5e-3 * nominal / 8;
    l.resonanceOhms = 4 * nominal;
    l.farads = q / (w * l.resonanceOhms);
    l.coil = 1 / (w * w * l.farads);
    return l;
}

Expected<Loudspeaker> loudspeakerFrom(const std::vector<std::pair<double, double>>& z) {
    if (z.size() < 10)
        return Problem{"", "at least ten points of impedance are needed, frequency and ohms in each line"};
    for (std::size_t k = 0; k < z.size(); ++k)
        if (!(z[k].first > 0) || !(z[k].second > 0) || (k > 0 && z[k].first <= z[k - 1].first))
            return Problem{"", "frequencies above 0 that rise, with ohms above 0, are expected"};
    std::size_t peak = 0;
    for (std::size_t k = 1; k < z.size() && z[k].first < 400; ++k)
        if (z[k].second > z[peak].second) peak = k;
    std::size_t least = peak;
    for (std::size_t k = peak; k < z.size(); ++k)
        if (z[k].second < z[least].second) least = k;
    if (peak == 0 || least == peak || z[peak].second < 1.3 * z[least].second)
        return Problem{"",
                       "no resonance between the lowest frequency and 400 Hz: start lower, or measure it in free air"};
    Loudspeaker l;
    // What is left of coil and resonance at the least is a few per cent of the resistance.
    l.ohms = 0.98 * z[least].second;
    l.resonanceOhms = z[peak].second - l.ohms;
    const double middle = std::sqrt(l.ohms * z[peak].second);
    const auto cross = [&](std::size_t in, std::size_t past) {
        const double share = (z[in].second - middle) / (z[in].second - z[past].second);
        return z[in].first * std::pow(z[past].first / z[in].first, share);
    };
    double below = 0, above = 0;
    for (std::size_t k = peak; k > 0 && below == 0; --k)
        if (z[k - 1].second < middle) below = cross(k, k - 1);
    for (std::size_t k = peak; k + 1 < z.size() && above == 0; ++k)
        if (z[k + 1].second < middle) above = cross(k, k + 1);
    if (below == 0) below = z[peak].first * z[peak].first / above; // the resonance is symmetrical
    const double resonance = std::sqrt(below * above), w = 2 * std::numbers::pi * resonance,
                 q = resonance * std::sqrt(z[peak].second / l.ohms) / (above - below);
    l.farads = q / (w * l.resonanceOhms);
    l.coil = 1 / (w * w * l.farads);
    const auto& [top, ohms] = z.back();
    l.henries = std::sqrt(std::max(0.0, ohms * ohms - l.ohms * l.ohms)) / (2 * std::numbers::pi * top);
    return l;
}

Build asSetUp(const Build& build, std::size_t channel, const Setup& s) {
    Build b = build;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        if (k != channel && !s.everyChannel) continue;
        if (PotentiometerPart* control = schematic::levelControl(b.channels[k].stages); control && s.control >= 0)
            control->position = s.control;
        ResistorPart* load = schematic::loadResistor(b.channels[k].stages);
        if (!load) continue;
        if (s.loudspeaker) {
            load->resistance = 1e6;
            connectLoudspeaker(b, b.channels[k], *s.loudspeaker);
        } else if (s.loadOhms > 0) {
            load->resistance = s.loadOhms;
        }
    }
    return b;
}

} // namespace ember::bench
