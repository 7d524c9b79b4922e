#include "findings.h"

#include "remedies.h"

#include "core/plan/bias_range.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

Finding finding(std::string id, Level level, std::string title, std::string text) {
    return rules::finding("bias", std::move(id), level, std::move(title), std::move(text));
}

/// The connections under which a plate winding's end swings below ground by itself; behind a bridge or a doubler it
/// never does, and only a capacitor can feed a negative rail from it.
bool endSwingsNegative(Connection c) {
    return c == Connection::CentreTapped || c == Connection::HalfWave;
}

} // namespace

void outputRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high || !f.nominal) return;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const plan::ChannelPoint& p = f.high->channels[k];
        const ValveLimits& limits = catalogue.valve(ch.pair.a.type)->limits;
        const auto side = [&](const Valve& v, double plateWatts, double screenWatts, double plate, double screen,
                              double cathodeAmps) {
            const std::string tail = fmt::format(" with mains at {}.", format(b.mains.high, Unit::Volt));
            const ValveLimits& own = catalogue.valve(v.type)->limits;
            const std::string name = upper(v.id);
            againstValveLimit(out, "plate-watts/" + v.id, name + " plate", plateWatts, own.plateWatts, Unit::Watt,
                              tail + " Turn its adjuster colder.");
            againstValveLimit(out, "screen-watts/" + v.id, name + " screen", screenWatts, own.screenWatts, Unit::Watt,
                              tail);
            againstValveLimit(out, "plate-volts/" + v.id, name + " plate volts", plate, own.mostPlateVolts(), Unit::Volt,
                              tail + (own.system == RatingSystem::DesignCentre
                                          ? " A design-centre limit, with a tenth of grace."
                                          : " A limit without grace."));
            againstValveLimit(out, "screen-volts/" + v.id, name + " screen volts", screen, own.mostScreenVolts(),
                              Unit::Volt, tail);
            againstValveLimit(out, "cathode-amps/" + v.id, name + " cathode current", cathodeAmps, own.cathodeAmps,
                              Unit::Ampere, tail);
        };
        side(ch.pair.a, p.plateWattsA, p.screenWattsA, p.plateA - p.senseA, p.screenA - p.senseA,
             p.plateAmpsA + p.screenAmpsA);
        side(ch.pair.b, p.plateWattsB, p.screenWattsB, p.plateB - p.senseB, p.screenB - p.senseB,
             p.plateAmpsB + p.screenAmpsB);
        if (k < f.power.size() && std::isfinite(f.power[k].clipScreen)) {
            // What the screens' node gives beyond rest at full power, the two valves alike.
            const plan::ChannelPoint& rest = f.nominal->channels[k];
            const double screen = rest.screenA - rest.senseA;
            const double watts = screen * (rest.screenAmpsA + f.power[k].clipScreen / 2);
            againstValveLimit(out, "screen-power/" + ch.id, ch.name + " screens at full power", watts,
                              limits.screenWattsSignal > 0 ? limits.screenWattsSignal : limits.screenWatts, Unit::Watt,
                              " each, with a steady tone at 3 % THD. Larger screen resistors hold it down.");
        }
        const plan::ChannelPoint& n = f.nominal->channels[k];
        const double mean = (n.plateAmpsA + n.plateAmpsB) / 2, apart = std::abs(n.plateAmpsA - n.plateAmpsB);
        if (mean > 1e-3 && apart > 0.05 * 2 * mean)
            out.push_back(finding("balance/" + ch.id, Level::Warn, fmt::format("{}: output currents unbalanced", ch.name),
                                  fmt::format("{} and {}: the difference magnetises the output transformer. Bring them "
                                              "within 5 % with the adjusters.",
                                              format(n.plateAmpsA, Unit::Ampere), format(n.plateAmpsB, Unit::Ampere))));
        for (const auto& [leak, coupling, name] : {std::tuple{&ch.pair.gridLeakA, &ch.pair.couplingA, "gridLeakA"},
                                                   std::tuple{&ch.pair.gridLeakB, &ch.pair.couplingB, "gridLeakB"}}) {
            if (leak->resistance > limits.gridLeakOhms) {
                auto x = finding(
                    "grid-leak/" + leak->id, Level::Warn, fmt::format("{} is high for fixed bias", upper(leak->id)),
                    fmt::format("{}; the type allows {} with fixed bias: grid current in an old valve would shift its "
                                "bias and run away.",
                                format(leak->resistance, Unit::Ohm), format(limits.gridLeakOhms, Unit::Ohm)));
                x.fix = setValue(
                    fmt::format("use {}", formatExact(nextDown(limits.gridLeakOhms * 1.001, Series::E12), Unit::Ohm)),
                    fmt::format("/channels/{}/pair/{}/resistance", k, name),
                    nextDown(limits.gridLeakOhms * 1.001, Series::E12));
                out.push_back(std::move(x));
            }
            const double corner = 1 / (2 * std::numbers::pi * leak->resistance * coupling->capacitance);
            if (corner > 20)
                out.push_back(finding(
                    "coupling/" + coupling->id, Level::Warn, fmt::format("{} limits the low frequencies", upper(coupling->id)),
                    fmt::format("{} into {} is -3 dB at {}.", format(coupling->capacitance, Unit::Farad),
                                format(leak->resistance, Unit::Ohm), format(corner, Unit::Hertz))));
        }
    }
}

void biasRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.nominal || b.channels.empty()) return;
    if (!biasIsFed(b.bias, b.transformer)) {
        Finding x = finding("no-bias", Level::Stop, "There is no bias supply",
                            "The output grids sit at 0 V: each valve draws all it can. Give the transformer a bias "
                            "winding, or feed it from the plate winding.");
        x.fix = endSwingsNegative(b.supply.connection)
                    ? setText("feed it from the plate winding through a resistor", "/bias/from", "plate-resistor")
                    : setText("feed it from the plate winding through a capacitor", "/bias/from", "plate-capacitor");
        out.push_back(std::move(x));
        return;
    }
    if (b.bias.failSafe <= 0) {
        auto x = finding("adjuster-open", Level::Warn, "An open wiper removes the bias",
                         "When a potentiometer's wiper lifts, its grid floats. A resistor from wiper to the rail lets "
                         "it fall to its coldest instead.");
        x.fix = setValue("add 100 kΩ from each wiper to the rail", "/bias/failSafe", 100e3);
        out.push_back(std::move(x));
    }
    // At the end of the mains where it is farthest from reaching.
    const plan::Steady* worst = &*f.nominal;
    const auto wanting = [&](const plan::Steady& s) {
        return plan::coldEnough(b, catalogue, s) / plan::biasRange(b.bias, s).coldest;
    };
    for (const auto* s : {&f.low, &f.high})
        if (*s && wanting(**s) > wanting(*worst)) worst = &**s;
    const double needed = -plan::coldEnough(b, catalogue, *worst), reached = -plan::biasRange(b.bias, *worst).coldest;
    if (reached < needed) {
        Finding x = finding(
            "bias-cold", Level::Stop, "The bias is not negative enough for a cold start",
            fmt::format("{} at the cold end with mains at {}; {} on the screens want {} to start at a quarter of the "
                        "plates' watts. {}",
                        format(-reached, Unit::Volt), format(worst->conditions.mainsVolts, Unit::Volt),
                        format(worst->channels[0].screenA, Unit::Volt), format(-needed, Unit::Volt),
                        b.bias.from == BiasSource::Winding         ? "Raise the bias winding's volts."
                        : b.bias.from == BiasSource::PlateResistor ? "A smaller feeding resistor gives more."
                                                                   : "A larger feeding capacitor gives more."));
        const double more = 1.1 * needed / std::max(0.1, reached);
        if (b.bias.from == BiasSource::Winding)
            x.fix = setValue(fmt::format("a bias winding of {}", format(more * b.transformer.biasVolts, Unit::Volt)),
                             "/transformer/biasVolts", more * b.transformer.biasVolts);
        else if (b.bias.from == BiasSource::PlateResistor)
            x.fix = setValue(
                fmt::format("feed it through {}", format(nextDown(b.bias.feed / more, Series::E12), Unit::Ohm)),
                "/bias/feed", nextDown(b.bias.feed / more, Series::E12));
        else
            x.fix = setValue(fmt::format("feed it through {}",
                                         format(nextUp(b.bias.feedCapacitance * more, Series::E6), Unit::Farad)),
                             "/bias/feedCapacitance", nextUp(b.bias.feedCapacitance * more, Series::E6));
        out.push_back(std::move(x));
    }
    for (const auto& [part, volts, name] : {std::tuple{&b.bias.reservoir, f.nominal->biasReservoir, "reservoir"},
                                            std::tuple{&b.bias.second, f.nominal->biasRail, "second"}}) {
        const double most = std::abs(volts) * b.mains.high / b.mains.volts;
        if (!(most > 0.9 * part->volts)) continue;
        Finding x = finding("capacitor-volts/" + part->id, most > part->volts ? Level::Stop : Level::Warn,
                            upper(part->id) + " is near its rating",
                            fmt::format("{} of {} with mains at its high end.", format(most, Unit::Volt),
                                        format(part->volts, Unit::Volt)));
        if (const auto better = nextVolts(most))
            x.fix = setValue(fmt::format("use {}", format(*better, Unit::Volt)), fmt::format("/bias/{}/volts", name),
                             *better);
        out.push_back(std::move(x));
    }
}

} // namespace ember::rules
