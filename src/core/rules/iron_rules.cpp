#include "findings.h"

#include "core/build/typical_iron.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/mains_iron.h"
#include "core/quantity/letters.h"
#include "core/schematic/channel_parts.h"

#include <fmt/format.h>

#include <array>

namespace ember::rules {

namespace {

/// Mains of a tenth above the rated volts are within what every transformer is made for.
constexpr double usualFlux = 1.15;

void mainsFluxRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    const plan::MainsIron iron = plan::mainsIron(b, *f.high);
    if (!(iron.flux > usualFlux)) return;
    const PowerTransformer& t = b.transformer;
    const bool slow = t.ratedHertz > 1.02 * b.mains.frequency;
    Finding x = finding(
        "supply", "mains-flux", iron.flux > 1.3 ? Level::Stop : Level::Warn,
        fmt::format("{} is not made for these mains", upper(t.id)),
        fmt::format("It is rated {} at {}; at {} and {} its flux is {:.2f} times that. Unloaded it draws {} and loses "
                    "{} in the core: it hums, runs hot and its field reaches the valves.",
                    format(t.primaryVolts, Unit::Volt), format(t.ratedHertz, Unit::Hertz),
                    format(b.mains.high, Unit::Volt), format(b.mains.frequency, Unit::Hertz), iron.flux,
                    format(iron.noLoadAmps, Unit::Ampere, 2), format(iron.coreWatts, Unit::Watt, 2)));
    x.fix = slow ? setValue(fmt::format("a transformer for {}", format(b.mains.frequency, Unit::Hertz)),
                            "/transformer/ratedHertz", b.mains.frequency)
                 : setValue(fmt::format("a primary for {}", format(b.mains.volts, Unit::Volt)),
                            "/transformer/primaryVolts", b.mains.volts);
    out.push_back(std::move(x));
}

/// A winding whose current has a mean, as behind a half-wave rectifier, holds the core to one side.
void directRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    constexpr double noticed = 1.25; // times the no-load current
    const plan::MainsIron iron = plan::mainsIron(b, *f.high);
    if (!(iron.noLoadAmps > noticed * iron.withoutDirect)) return;
    Finding x = finding(
        "supply", "core-direct", iron.noLoadAmps > 3 * iron.withoutDirect ? Level::Warn : Level::Note,
        fmt::format("Direct current magnetises {}", upper(b.transformer.id)),
        fmt::format("The mean of its windings' currents, {} as seen by the primary, shifts the flux by {:.0f} % "
                    "of its rated peak. Its core draws {} instead of {}: more hum, more stray "
                    "field, more heat. A bridge or a centre-tapped winding with both "
                    "halves alike draws no direct current.",
                    format(std::abs(f.high->coreDc), Unit::Ampere, 2), 100 * iron.direct,
                    format(iron.noLoadAmps, Unit::Ampere, 2), format(iron.withoutDirect, Unit::Ampere, 2)));
    if (b.supply.connection == Connection::HalfWave && b.supply.rectifier.type.starts_with("silicon"))
        x.fix = setText("a bridge of four diodes", "/supply/connection", "bridge");
    out.push_back(std::move(x));
}

void insulationRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.layout || !f.layout->mainsIron) return;
    const chassis::MainsIronHeat& heat = *f.layout->mainsIron;
    const auto celsius = [](double kelvin) { return kelvin - 273.15; };
    const double spot = celsius(heat.kelvin) + plan::hotSpot, limit = hottestSpot(b.transformer.insulation);
    if (spot <= limit) return;
    Finding x = finding(
        "chassis", "insulation", spot > limit + 20 ? Level::Stop : Level::Warn,
        fmt::format("{} runs hotter than its insulation bears", upper(b.transformer.id)),
        fmt::format("{} in the copper, warm, and {} in the core bring it to about {:.0f} \u00b0C in air of {:.0f}, "
                    "{:.0f} at its hottest spot; its class bears {:.0f}. Each 10 K above halves its life. Read the "
                    "primary's ohms cold and after two hours, plug out: 0.39 % more is a kelvin.",
                    format(heat.copperWatts, Unit::Watt, 2), format(heat.coreWatts, Unit::Watt, 2),
                    celsius(heat.kelvin), celsius(b.chassis.ambient), spot, limit));
    static constexpr std::array names{"A", "E", "B", "F", "H"};
    for (std::size_t k = 0; k < names.size(); ++k)
        if (hottestSpot(static_cast<InsulationClass>(k)) >= spot) {
            x.fix = setText(fmt::format("insulation of class {}", names[k]), "/transformer/insulation", names[k]);
            break;
        }
    out.push_back(std::move(x));
}

/// Values that nobody read are said to be so.
void typicalRule(const Build& b, std::vector<Finding>& out) {
    const auto usual = [&](const std::string& id, const char* read) {
        out.push_back(finding("supply", "typical-iron/" + id, Level::Note,
                              fmt::format("{} is typical iron, not yours", upper(id)),
                              fmt::format("Its copper and inductance are those of a usual one; real ones differ by a "
                                          "third. {}",
                                          read)));
    };
    if (isTypical(b.transformer))
        usual(b.transformer.id,
              "Its plate and an ohmmeter on each winding, plug out, tell (\"Plate winding data\" in Supply).");
    for (const Section& s : b.supply.sections)
        if (isTypical(s)) usual(s.id, "Its plate and an ohmmeter tell.");
    for (const Channel& ch : b.channels) {
        const Stage* stage = schematic::outputStage(ch);
        const StagePart* iron = stage ? stage->part("transformer") : nullptr;
        const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
        const auto of = t ? typicalOf(*t) : std::nullopt;
        if (!of) continue;
        const IronSpread spread;
        out.push_back(finding(
            "stages", "typical-iron/" + t->id, Level::Note, fmt::format("{} is typical iron, not yours", upper(t->id)),
            fmt::format("Its values are usual of {}: real ones differ by {:.0f} % in inductance, {:.0f} % in leakage, "
                        "{:.0f} % in winding capacitance. Its ratio, ohms and one open and one shorted reading, or its "
                        "maker's figures, tell (\"{} from readings\").",
                        ironClassNames[static_cast<std::size_t>(*of)], 100 * spread.inductance, 100 * spread.leakage,
                        100 * spread.capacitance, upper(t->id))));
    }
}

} // namespace

void ironRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (f.high) mainsFluxRule(b, f, out), directRule(b, f, out);
    insulationRule(b, f, out);
    typicalRule(b, out);
}

} // namespace ember::rules
