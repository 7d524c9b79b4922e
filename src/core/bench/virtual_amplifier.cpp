#include "virtual_amplifier.h"

#include "faults.h"

#include "core/plan/tone.h"

#include "core/procedure/first_power.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::bench {

using namespace plan;

Build asBuilt(const Build& build, std::uint64_t seed) {
    Build b = build;
    if (seed == 0) return b;
    std::mt19937_64 chance(seed);
    std::normal_distribution<double> normal(0, 0.5); // the tolerance is two sigma
    const auto within = [&](double tolerance) { return 1 + tolerance * std::clamp(normal(chance), -1.0, 1.0); };
    const auto resistor = [&](ResistorPart& r) { r.resistance *= within(r.tolerance); };
    const auto capacitor = [&](CapacitorPart& c) { c.capacitance *= within(c.tolerance); };
    b.transformer.plateVolts *= within(build.transformer.voltsTolerance);
    b.transformer.plateResistance *= within(build.transformer.resistanceTolerance);
    b.transformer.primaryResistance *= within(build.transformer.resistanceTolerance);
    b.transformer.biasVolts *= within(0.03);
    b.bias.feed *= within(0.05);
    b.bias.feedCapacitance *= within(0.1);
    for (HeaterWinding& h : b.transformer.heaters) h.volts *= within(build.transformer.voltsTolerance);
    b.supply.rectifier.emission *= within(0.15);
    b.limiter.watts *= within(0.08);
    for (Section& s : b.supply.sections) {
        const double factor = within(s.tolerance);
        if (s.kind == SectionKind::Capacitor)
            s.capacitance *= factor;
        else if (s.kind == SectionKind::Resistor)
            s.resistance *= factor;
        else if (s.kind == SectionKind::Tap) // of the same iron and wire
            s.volts *= b.transformer.plateVolts / build.transformer.plateVolts,
                s.resistance *= b.transformer.plateResistance / std::max(1e-3, build.transformer.plateResistance);
        else
            s.inductance *= factor, s.resistance *= within(0.1);
    }
    for (Bleeder& x : b.supply.bleeders) resistor(x.resistor);
    resistor(b.bias.series);
    capacitor(b.bias.reservoir);
    capacitor(b.bias.second);
    b.bias.adjuster *= within(0.2);
    for (Channel& ch : b.channels) {
        ch.small.emission *= within(ch.small.tolerance);
        ch.pair.a.emission *= within(ch.pair.a.tolerance);
        ch.pair.b.emission *= within(ch.pair.b.tolerance);
        for (ResistorPart* r : {&ch.voltageStage.plate, &ch.voltageStage.cathode, &ch.splitLoad.plate,
                                &ch.splitLoad.cathode, &ch.pair.gridLeakA, &ch.pair.gridLeakB, &ch.pair.screenA,
                                &ch.pair.screenB, &ch.pair.senseA, &ch.pair.senseB})
            resistor(*r);
        for (CapacitorPart* c : {&ch.voltageStage.bypass, &ch.pair.couplingA, &ch.pair.couplingB}) capacitor(*c);
    }
    b.supply.rectifier.legResistance *= within(0.05);
    for (HeaterWinding& h : b.transformer.heaters) h.referenceOhms *= within(0.05);
    return b;
}

Expected<VirtualAmplifier> VirtualAmplifier::make(const Build& build, const Catalogue& catalogue, std::uint64_t seed,
                                                  const std::string& fault) {
    Build b = asBuilt(build, seed);
    if (!fault.empty()) {
        const auto all = faultsOf(build);
        const auto at = std::find_if(all.begin(), all.end(), [&](const Fault& f) { return f.id == fault; });
        if (at == all.end()) {
            std::string known;
            for (const Fault& f : all) known += (known.empty() ? "" : ", ") + f.id;
            return Problem{"", fmt::format("there is no fault \"{}\"; this build can have: {}", fault, known)};
        }
        at->inflict(b);
    }
    return VirtualAmplifier(std::move(b), catalogue, seed + 1);
}

Expected<Done> VirtualAmplifier::power(int stage, double mainsVolts, std::stop_token stop) {
    if (stage < 0 || stage >= procedure::stageCount)
        return Problem{"", fmt::format("stage {} does not exist; First Power has stages 0 to {}", stage,
                                       procedure::stageCount - 1)};
    stageNow = stage;
    if (stage == 0) return Done{};
    auto s =
        solveSteady(real, *catalogue, procedure::stageConditions(real, stage, mainsVolts), {false, 2e-5, stop}, &warm);
    if (!s) return s.problem();
    steady = std::move(*s);
    return Done{};
}

void VirtualAmplifier::adjust(const Build& positions) {
    for (std::size_t k = 0; k < std::min(real.channels.size(), positions.channels.size()); ++k) {
        real.channels[k].pair.adjusterA = positions.channels[k].pair.adjusterA;
        real.channels[k].pair.adjusterB = positions.channels[k].pair.adjusterB;
    }
}

Expected<double> VirtualAmplifier::read(const std::string& id) {
    const auto points = procedure::testPoints(real);
    const auto* point = procedure::findPoint(points, id);
    if (!point) return Problem{"", fmt::format("there is no test point \"{}\"", id)};
    if (stageNow < 0) return Problem{"", "the practice amplifier is not set up: choose a stage first"};
    if (!point->readAt(0) && stageNow == 0)
        return Problem{"", "the amplifier is unplugged: there is nothing to read here"};
    if (point->mode == procedure::MeterMode::Ohms && stageNow != 0)
        return Problem{"", "resistance is read with the power off and the plug out"};
    const double value = stageNow == 0 ? procedure::coldReading(real, *catalogue, *point)
                                       : procedure::reading(real, *catalogue, steady, *point);
    if (!std::isfinite(value)) return Problem{"", fmt::format("nothing can be read at {} in this stage", point->label)};
    const double share = procedure::meterShare(real, point->mode);
    std::normal_distribution<double> error(0, share / 2);
    const double shown = value * (1 + std::clamp(error(chance), -share, share));
    // A display of four digits.
    if (shown == 0) return 0.0;
    const double digit = std::pow(10.0, std::floor(std::log10(std::abs(shown))) - 3);
    return std::round(shown / digit) * digit;
}

void VirtualAmplifier::set(double voltsRms, double hertz) {
    toneVolts = voltsRms;
    toneHertz = hertz;
}

Expected<Capture> VirtualAmplifier::capture(std::size_t channel, double seconds) {
    if (stageNow < 5) return Problem{"", "a tone needs full mains: pass First Power up to \"full mains\" first"};
    if (channel >= real.channels.size()) return Problem{"", fmt::format("there is no channel {}", channel + 1)};
    Sag sag{warm, {}, steady};
    ToneRun run;
    if (auto done = solveToneWithSag(real, *catalogue, channel, false, {toneVolts, toneHertz}, sag, run); !done)
        return done.problem();
    const std::vector<double>& period = run.tone.samples;
    Capture out;
    out.source = "practice";
    const auto count = static_cast<std::size_t>(seconds * out.sampleRate);
    const double crest = std::abs(
        *std::max_element(period.begin(), period.end(), [](double a, double b) { return std::abs(a) < std::abs(b); }));
    out.fullScale = std::max(1.0, 1.5 * crest);
    std::normal_distribution<double> noise(0, out.fullScale * 3e-6); // a good 24-bit converter
    // The period as its Fourier series: exact between its samples and free of harmonics beyond half the sample rate.
    const auto n = period.size();
    std::vector<std::complex<double>> series;
    for (std::size_t h = 0; h < n / 2 && static_cast<double>(h) * toneHertz < 0.49 * out.sampleRate; ++h) {
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < n; ++k)
            sum += period[k] * std::polar(h == 0 ? 1.0 / static_cast<double>(n) : 2.0 / static_cast<double>(n),
                                          -2 * std::numbers::pi * static_cast<double>(h * k) / static_cast<double>(n));
        series.push_back(sum);
    }
    for (std::size_t k = 0; k < count; ++k) {
        const double t = static_cast<double>(k) / out.sampleRate;
        const auto turn = std::polar(1.0, 2 * std::numbers::pi * std::fmod(toneHertz * t, 1.0));
        std::complex<double> w = 1;
        double v = 0;
        for (const auto& c : series) {
            v += (c * w).real();
            w *= turn;
        }
        out.volts.push_back(std::clamp(v + noise(chance), -out.fullScale, out.fullScale));
    }
    return out;
}

} // namespace ember::bench
