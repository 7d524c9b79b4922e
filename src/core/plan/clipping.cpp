#include "clipping.h"

#include "core/build/path.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::plan {

namespace {

constexpr double cutOff = 0.02;     // of the greatest current
constexpr double gridBegins = 5e-6; // [A] from which a grid loads what drives it
constexpr double kneeShare = 0.25;  // of its mean volts: where a plate has nothing left to give
constexpr double fluxNear = 0.9;    // of the rated one

/// Rated crest of flux [Vs] at the whole primary: watts at the lowest frequency.
double ratedFlux(const OutputTransformer& t) {
    if (!(t.lowestHertz > 0) || !(t.watts > 0)) return unknown;
    return std::sqrt(2 * t.watts * t.primaryImpedance) / (2 * std::numbers::pi * t.lowestHertz);
}

std::string list(const std::vector<std::string>& names) {
    std::string out;
    for (std::size_t k = 0; k < names.size(); ++k)
        out += (k == 0 ? "" : k + 1 == names.size() ? " and " : ", ") + names[k];
    return out;
}

std::string inWords(const Clipping& c) {
    std::vector<std::string> grids, cuts, knees;
    double crest = 0, least = 1e9;
    bool driver = false;
    for (const ValveSwing& v : c.valves) {
        const bool output = v.duty == schematic::Duty::Output;
        const std::string name = v.valve + (v.side.empty() ? "" : " (side " + v.side + ")");
        if (v.gridAmps > gridBegins) {
            grids.push_back(name), crest = std::max(crest, v.gridCrest);
            driver = driver || !output;
        }
        if (!output && v.cutShare > 0.02) cuts.push_back(name);
        if (output && v.plateLeast < kneeShare * v.plateMean)
            knees.push_back(name), least = std::min(least, v.plateLeast);
    }
    std::string out;
    const auto add = [&](const std::string& s) { out += (out.empty() ? "" : "; ") + s; };
    if (!cuts.empty()) add(fmt::format("{} cut off", list(cuts) + (cuts.size() > 1 ? " are" : " is")));
    if (!grids.empty())
        add(fmt::format("the grid{} of {} reach{} {} and draw{} current", grids.size() > 1 ? "s" : "", list(grids),
                        grids.size() > 1 ? "" : "es", format(crest, Unit::Volt, 2), grids.size() > 1 ? "" : "s"));
    if (!knees.empty())
        add(fmt::format("the plate{} of {} come{} down to {}, into the knee", knees.size() > 1 ? "s" : "", list(knees),
                        knees.size() > 1 ? "" : "s", format(least, Unit::Volt, 2)));
    if (c.fluxShare > fluxNear)
        add(fmt::format("the output transformer's core is at {:.0f} % of its rated flux", 100 * c.fluxShare));
    return out.empty() ? "no valve is cut off, draws grid current or reaches its knee, and no core is full" : out;
}

} // namespace

Expected<Clipping> clippingAt(const Build& b, const Catalogue& catalogue, const Steady& steady, std::size_t channel,
                              bool every, const Tone& tone) {
    Sag sag{.warm = steady.end ? *steady.end : WarmStart{}, .steady = steady};
    ToneRun run;
    if (auto done = solveToneWithSag(b, catalogue, channel, every, tone, sag, run); !done) return done.problem();
    const HeldChannel h = heldChannel(b, catalogue, channel, supplyOf(b, sag.steady),
                                      {0, tone.inputRms * std::numbers::sqrt2, tone.frequency, 0}, tone.wiring);
    const auto wave = [&](schematic::NetId net) -> std::vector<double> {
        if (net.index <= 0) return std::vector<double>(run.tone.samples.size(), 0.0);
        const auto solved = schematic::steadyTone(h.schematic, tone.frequency, net, &run.tone, tone.stop);
        return solved ? solved->samples : std::vector<double>{};
    };
    Clipping out;
    out.inputRms = tone.inputRms, out.hertz = tone.frequency;
    for (const schematic::ValveUse& use : h.valves) {
        const auto g = wave(use.grid), p = wave(use.plate), k = wave(use.cathode),
                   s = use.screen.index > 0 ? wave(use.screen) : p;
        const std::size_t n = std::min({g.size(), p.size(), k.size(), s.size()});
        const ValveType* type = catalogue.valve(b.bottles[use.bottle].type);
        if (n == 0 || !type) continue;
        const TypeSection& section = type->section(use.section);
        ValveSwing v;
        v.valve = upper(b.bottles[use.bottle].id) + (type->sections() > 1 ? fmt::format(".{}", use.section) : "");
        // Of a single valve at each side, the side alone.
        const bool several = std::any_of(h.valves.begin(), h.valves.end(), [&](const schematic::ValveUse& o) {
            return o.stage == use.stage && o.at != use.at && o.at.substr(0, 1) == use.at.substr(0, 1);
        });
        v.side = several ? use.at : use.at.substr(0, 1), v.duty = use.duty;
        std::vector<double> amps(n);
        v.gridCrest = -1e9, v.gridLeast = 1e9, v.plateLeast = 1e9, v.plateMean = 0;
        for (std::size_t m = 0; m < n; ++m) {
            std::array<double, 3> volts{g[m] - k[m], 0, 0}, currents{};
            std::array<double, 9> slopes{};
            const bool pentode = circuit::portCount(section.law) == 3;
            volts[1] = pentode ? s[m] - k[m] : p[m] - k[m], volts[2] = p[m] - k[m];
            circuit::evaluate(section.law, b.bottles[use.bottle].emission, volts.data(), currents.data(),
                              slopes.data());
            amps[m] = currents[pentode ? 2 : 1];
            if (volts[0] > v.gridCrest) v.gridCrest = volts[0], v.gridAmps = currents[0];
            v.gridLeast = std::min(v.gridLeast, volts[0]);
            v.plateLeast = std::min(v.plateLeast, p[m] - k[m]);
            v.plateMean += (p[m] - k[m]) / static_cast<double>(n);
        }
        const double most = *std::max_element(amps.begin(), amps.end());
        v.cutShare =
            static_cast<double>(std::count_if(amps.begin(), amps.end(), [&](double a) { return a < cutOff * most; })) /
            static_cast<double>(n);
        out.valves.push_back(std::move(v));
    }
    for (const Stage& stage : b.channels[channel].stages)
        for (const StagePart& p : stage.parts)
            if (const auto* t = std::get_if<OutputTransformer>(&p.part);
                t && schematic::isOutput(stage) && h.load > 0) {
                // The primary's volts from the load's: the turns' ratio, copper left out.
                const double primary = run.figures.outputRms * std::sqrt(t->primaryImpedance / t->loadImpedance);
                out.fluxShare = primary * std::numbers::sqrt2 / (2 * std::numbers::pi * tone.frequency) / ratedFlux(*t);
            }
    out.words = inWords(out);
    return out;
}

} // namespace ember::plan
