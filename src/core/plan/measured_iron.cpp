#include "measured_iron.h"

#include "core/circuit/laws.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <numbers>
#include <tuple>

namespace ember::plan {

namespace {

using std::numbers::pi;

/// Mean squares of cos, cos^9 and their product over a period.
constexpr double meanFirst = 0.5, meanProduct = 63.0 / 256, meanNinth = 12155.0 / 65536;
constexpr double beyond = circuit::gappedCoreShare;

/// Crest of the flux over the rated one, at which the current's RMS is `ratio` times the constant inductance's crest
/// current; 0 where the core adds nothing that a meter shows.
double fluxShare(double ratio) {
    const double a = beyond * beyond * meanNinth, b = 2 * beyond * meanProduct, c = meanFirst - ratio * ratio;
    if (!(c < -0.01)) return 0;
    return std::pow((-b + std::sqrt(b * b - 4 * a * c)) / (2 * a), 1.0 / 8);
}

class Deducing {
  public:
    Deducing(const OutputTransformer& t, bool halves, const Meter& m, const IronReadings& r)
        : now(t),
          pushPull(halves),
          meter(m),
          x(r) {}
    std::optional<Problem> impossible() const {
        for (const double v :
             {x.primaryVolts, x.secondaryVolts, x.tapVolts, x.ohmsA, x.ohmsB, x.secondaryOhms, x.openVolts[0],
              x.openVolts[1], x.openAmps[0], x.openAmps[1], x.shortVolts, x.shortAmps, x.resonanceHertz})
            if (!(v >= 0 && v < 1e9)) return Problem{"", "a reading is a number that is not below nothing"};
        if (!(x.hertz > 0) || !(x.shortHertz > 0)) return Problem{"", "the frequencies of the readings are needed"};
        if ((x.primaryVolts > 0) != (x.secondaryVolts > 0))
            return Problem{"", "the ratio needs both: volts on the primary, and those on the secondary then"};
        if (x.tapVolts > 0 && !(x.tapVolts < x.primaryVolts))
            return Problem{"", fmt::format("{} at the tap cannot be: the whole primary has {}",
                                           format(x.tapVolts, Unit::Volt), format(x.primaryVolts, Unit::Volt))};
        for (int k = 0; k < 2; ++k)
            if ((x.openVolts[k] > 0) != (x.openAmps[k] > 0))
                return Problem{"", "an open reading needs volts and amps together"};
        if ((x.shortVolts > 0) != (x.shortAmps > 0))
            return Problem{"", "the shorted reading needs volts and amps together"};
        return std::nullopt;
    }
    Expected<MeasuredIron> run() {
        if (auto problem = impossible()) return *problem;
        ratio();
        copper();
        inductance();
        leakage();
        if (out.values.empty() && out.notes.empty()) return Problem{"", "there is no reading yet"};
        return std::move(out);
    }

  private:
    void put(const char* key, double value, double error, std::string how) {
        out.values.push_back({key, value, error, std::move(how)});
    }
    void ratio() {
        if (!(x.primaryVolts > 0)) return;
        const double turns = x.primaryVolts / x.secondaryVolts;
        impedance = now.loadImpedance * turns * turns;
        put("primaryImpedance", impedance, 2 * std::numbers::sqrt2 * meter.ac,
            fmt::format("{:.4g} to 1, with {} on it", turns, formatExact(now.loadImpedance, Unit::Ohm)));
        if (x.tapVolts > 0) { // of a push-pull half
            const double whole = pushPull ? x.primaryVolts / 2 : x.primaryVolts, share = x.tapVolts / whole;
            if (share < 0.95)
                put("screenTap", share, std::numbers::sqrt2 * meter.ac,
                    fmt::format("{:.0f} % of the {}'s turns", 100 * share, pushPull ? "half" : "primary"));
        }
    }
    void copper() {
        for (const auto& [key, ohms] : {std::pair("primaryResistanceA", x.ohmsA),
                                        {"primaryResistanceB", x.ohmsB},
                                        {"secondaryResistance", x.secondaryOhms}})
            if (ohms > 0) put(key, ohms, meter.ohms, "as read");
        if (x.secondaryOhms > 0 && x.secondaryOhms < 1)
            out.notes.push_back("Below an ohm the leads count: read them shorted, and take that off.");
    }
    [[nodiscard]] double primaryOhms() const {
        return x.ohmsA + x.ohmsB > 0 ? x.ohmsA + x.ohmsB : now.primaryResistanceA + now.primaryResistanceB;
    }
    void inductance() {
        std::array<int, 2> level{0, 1};
        if (x.openVolts[1] > 0 && (!(x.openVolts[0] > 0) || x.openVolts[1] < x.openVolts[0])) level = {1, 0};
        const double volts = x.openVolts[level[0]], amps = x.openAmps[level[0]];
        if (!(volts > 0)) return;
        const double z = volts / amps, r = primaryOhms();
        if (!(z > 1.05 * r)) {
            out.notes.push_back(
                fmt::format("{} at {} is hardly more than the copper's {}: the core takes nothing there, "
                            "or a winding is shorted.",
                            format(z, Unit::Ohm), format(volts, Unit::Volt), format(r, Unit::Ohm)));
            return;
        }
        const double henries = std::sqrt(z * z - r * r) / (2 * pi * x.hertz);
        put("primaryInductance", henries, std::numbers::sqrt2 * meter.ac,
            fmt::format("at {} and {}; iron has more at higher levels, until it saturates", format(volts, Unit::Volt),
                        format(x.hertz, Unit::Hertz)));
        saturation(x.openVolts[level[1]], x.openAmps[level[1]], henries);
    }
    void saturation(double volts, double amps, double henries) {
        if (!(volts > 0)) return;
        const double flux = std::numbers::sqrt2 * volts / (2 * pi * x.hertz);
        const double share = fluxShare(amps * henries / flux);
        if (!(share > 0)) {
            out.notes.push_back(
                fmt::format("At {} the core does not saturate yet: it bears at least {:.2g} Vs. A higher "
                            "level, or a lower frequency, would tell where it ends.",
                            format(volts, Unit::Volt), flux));
            return;
        }
        const double rated = flux / share - henries * now.dcAmps, z = impedance > 0 ? impedance : now.primaryImpedance;
        if (!(rated > 0)) {
            out.notes.push_back("The direct current that the gap is for takes all of the flux that was found.");
            return;
        }
        // The current's and the inductance's errors, through the ninth power.
        const double open = 2 * meter.ac, ratio = amps * henries / flux;
        const double error = std::hypot(fluxShare(ratio * (1 + open)) / share - 1, meter.ac);
        put("lowestHertz", std::sqrt(2 * now.watts * z) / (2 * pi * rated), error,
            fmt::format("for {}: the flux ends at {:.2g} Vs", format(now.watts, Unit::Watt), flux / share));
    }
    void leakage() {
        if (!(x.shortVolts > 0)) return;
        const double turns = std::sqrt((impedance > 0 ? impedance : now.primaryImpedance) / now.loadImpedance);
        const double secondary = x.secondaryOhms > 0 ? x.secondaryOhms : now.secondaryResistance;
        const double r = primaryOhms() + secondary * turns * turns, z = x.shortVolts / x.shortAmps;
        if (!(z > 1.1 * r)) {
            out.notes.push_back(fmt::format("At {} the copper ({}) hides the leakage: read it at a higher frequency.",
                                            format(x.shortHertz, Unit::Hertz), format(r, Unit::Ohm)));
            return;
        }
        const double reactance = std::sqrt(z * z - r * r), henries = reactance / (2 * pi * x.shortHertz);
        // What the meter leaves open in z and r, as the difference of squares takes it over.
        const double error =
            std::hypot(z * z * std::numbers::sqrt2 * meter.ac, r * r * meter.ohms) / (reactance * reactance);
        put("leakageInductance", henries, error,
            fmt::format("secondary shorted, {}", format(x.shortHertz, Unit::Hertz)));
        if (x.resonanceHertz > x.shortHertz)
            put("windingCapacitance", 1 / (std::pow(2 * pi * x.resonanceHertz, 2) * henries), error,
                fmt::format("resonates with it at {}; the meter's own leads are in it",
                            format(x.resonanceHertz, Unit::Hertz)));
    }

    const OutputTransformer& now;
    bool pushPull;
    const Meter& meter;
    const IronReadings& x;
    MeasuredIron out;
    double impedance = 0;
};

} // namespace

Expected<MeasuredIron> ironFrom(const OutputTransformer& now, bool pushPull, const Meter& meter,
                                const IronReadings& readings) {
    return Deducing(now, pushPull, meter, readings).run();
}

Expected<MeasuredIron> ironFromNameplate(const OutputTransformer& plate, IronClass of) {
    if (!(plate.watts > 0) || !(plate.primaryImpedance > 0) || !(plate.loadImpedance > 0))
        return Problem{"", "watts and both impedances are needed: they stand on every plate"};
    const OutputTransformer t = typicalIron(plate, of);
    const IronSpread spread;
    MeasuredIron out;
    constexpr double made = 0.03; // of turns and sheets as they are wound and cut
    const std::string typical = fmt::format("typical of {}", ironClassNames[static_cast<std::size_t>(of)]);
    for (const auto& [key, value] : {std::pair("watts", plate.watts),
                                     {"primaryImpedance", plate.primaryImpedance},
                                     {"loadImpedance", plate.loadImpedance},
                                     {"lowestHertz", plate.lowestHertz},
                                     {"dcAmps", plate.dcAmps},
                                     {"screenTap", plate.screenTap}})
        if (value > 0) out.values.push_back({key, value, made, "its plate"});
    if (!(plate.lowestHertz > 0))
        out.values.push_back({"lowestHertz", t.lowestHertz, 0.4, "a guess: it is not stated"});
    for (const auto& [key, value, error] : {std::tuple("primaryInductance", t.primaryInductance, spread.inductance),
                                            {"leakageInductance", t.leakageInductance, spread.leakage},
                                            {"windingCapacitance", t.windingCapacitance, spread.capacitance},
                                            {"primaryResistanceA", t.primaryResistanceA, spread.copper},
                                            {"primaryResistanceB", t.primaryResistanceB, spread.copper},
                                            {"secondaryResistance", t.secondaryResistance, spread.copper},
                                            {"coreLoss", t.coreLoss, spread.loss}})
        out.values.push_back({key, value, error, typical});
    out.notes.push_back(
        fmt::format("With these its leakage resonates near {}; ratio and ohms with a meter make the most "
                    "of it sure.",
                    format(1 / (2 * pi * std::sqrt(t.leakageInductance * t.windingCapacitance)), Unit::Hertz, 2)));
    return out;
}

Edit useIron(const std::string& pointer, const std::string& id, const MeasuredIron& iron) {
    std::vector<Edit> edits;
    for (const IronValue& v : iron.values) edits.push_back(setValue("", pointer + "/" + v.key, v.value));
    return together(upper(id) + " as it was measured", edits);
}

std::vector<ReflectedLoad> reflectedLoads(double primaryVolts, double secondaryVolts) {
    constexpr std::array usual{1600.0, 2000.0, 2500.0, 3000.0, 3500.0, 4000.0,  4500.0,  5000.0,
                               5200.0, 6600.0, 7000.0, 8000.0, 9000.0, 10000.0, 12000.0, 15000.0};
    std::vector<ReflectedLoad> out;
    if (!(primaryVolts > 0) || !(secondaryVolts > 0)) return out;
    for (const double load : {2.0, 4.0, 8.0, 16.0}) {
        ReflectedLoad r{load, load * std::pow(primaryVolts / secondaryVolts, 2), 0};
        for (const double u : usual)
            if (const double off = std::abs(std::log(u / r.primary));
                off < std::log(1.1) && !(r.usual > 0 && std::abs(std::log(r.usual / r.primary)) <= off))
                r.usual = u;
        out.push_back(r);
    }
    return out;
}

} // namespace ember::plan
