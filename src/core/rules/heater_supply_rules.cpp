// What makes direct current for heaters: head-room, heat, ratings; windings in series; the centre tap behind a bridge.
#include "findings.h"
#include "remedies.h"

#include "core/plan/heater_feed.h"
#include "core/plan/regulator_heat.h"
#include "core/plan/steady.h"
#include "core/quantity/letters.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

struct At {
    const Build& b;
    std::size_t k;
    const HeaterWinding& w;
    [[nodiscard]] std::string id(const char* what) const { return fmt::format("{}/{}", what, w.id); }
    [[nodiscard]] std::string place(const char* key) const { return fmt::format("/transformer/heaters/{}/{}", k, key); }
};

void centreTapRule(const At& at, std::vector<Finding>& out) {
    if (at.w.rectifier != HeaterRectifier::Bridge || at.w.reference != HeaterReference::CentreTap) return;
    Finding x = finding("heaters", at.id("heater-centre-bridge"), Level::Stop,
                        fmt::format("{} has a bridge and a grounded centre tap", upper(at.w.id)),
                        "With the bridge's minus at ground too, each half of the winding is shorted through a diode. "
                        "Insulate the tap and reference one side of the direct current, or use two diodes.");
    x.fix = setText("reference the minus side", at.place("reference"),
                    nameIn(heaterReferenceNames, HeaterReference::OneSide));
    out.push_back(std::move(x));
}

/// Two diodes use both halves of a winding about its tap; one in series would be in one half's way alone.
void seriesRule(const At& at, std::vector<Finding>& out) {
    const HeaterWinding* other = inSeriesWith(at.b.transformer, at.w);
    if (at.w.rectifier != HeaterRectifier::FullWave || !other) return;
    Finding x =
        finding("heaters", at.id("heater-series-halves"), Level::Stop,
                fmt::format("{} stands in series with half of {}", upper(other->id), upper(at.w.id)),
                fmt::format("With two diodes about the centre tap the halves would be unlike; it is left out of "
                            "the figures. A bridge takes both windings of {} and {} in series.",
                            format(at.w.volts, Unit::Volt), format(other->volts, Unit::Volt)));
    x.fix = setText("a bridge", at.place("rectifier"), nameIn(heaterRectifierNames, HeaterRectifier::Bridge));
    out.push_back(std::move(x));
}

void headroomRule(const At& at, const plan::Steady& steady, const plan::HeaterFeedFigures& low,
                  std::vector<Finding>& out) {
    const HeaterDc& d = at.w.dc;
    if (d.regulator == HeaterRegulator::None) return;
    const double needed = plan::dropoutAt(d, plan::heaterAmps(steady, at.w.id)), margin = 0.1;
    if (!(low.headroom < needed + margin)) return;
    const bool fails = low.ripplePp > 0.01 * low.out || low.headroom <= needed;
    Finding x = finding(
        "heaters", at.id("heater-headroom"), fails ? Level::Stop : Level::Warn,
        fmt::format("{}'s regulator has {} left", upper(at.w.id), format(low.headroom, Unit::Volt)),
        fmt::format(
            "At mains of {} its reservoir falls to {} in each cycle; at this current the regulator needs "
            "{} from input to output{}.",
            format(at.b.mains.low, Unit::Volt), format(low.reservoirLeast, Unit::Volt), format(needed, Unit::Volt),
            fails ? fmt::format(", and {} of ripple pass where it has less", format(low.ripplePp, Unit::Volt)) : ""));
    const double missing = needed + 2 * margin - low.headroom, sag = low.reservoir - low.reservoirLeast;
    if (sag > missing && d.reservoir < 0.02) // twice the capacitor halves the sag below the mean
        x.fix = setValue(fmt::format("a reservoir of {}", format(2 * d.reservoir, Unit::Farad)),
                         at.place("dc/reservoir"), 2 * d.reservoir);
    else if (d.regulator == HeaterRegulator::Linear && missing < d.dropout - 0.5)
        x.fix =
            together("a low-dropout regulator",
                     {setText("", at.place("dc/regulator"), nameIn(heaterRegulatorNames, HeaterRegulator::LowDropout)),
                      setValue("", at.place("dc/dropout"), 0.5)});
    else {
        const double halves = at.w.rectifier == HeaterRectifier::FullWave ? 2 : 1,
                     more = halves * missing / std::numbers::sqrt2 * at.b.mains.volts / at.b.mains.low,
                     volts = std::ceil(10 * (at.w.volts + 1.1 * more)) / 10;
        x.fix =
            setValue(fmt::format("a winding of {} without load", format(volts, Unit::Volt)), at.place("volts"), volts);
    }
    out.push_back(std::move(x));
}

void heatRule(const At& at, const wires::RegulatorHeat& heat, std::vector<Finding>& out) {
    const HeaterDc& d = at.w.dc;
    if (!(heat.now > d.mostKelvin)) return;
    const auto celsius = [](double kelvin) { return fmt::format("{:.0f} °C", kelvin - 273.15); };
    Finding x = finding(
        "heaters", at.id("heater-regulator-heat"), Level::Stop,
        fmt::format("{}'s regulator reaches {}", upper(at.w.id), celsius(heat.now)),
        fmt::format(
            "{} with mains at {} and {} around it; its junction may have {}. {}", format(heat.watts, Unit::Watt),
            format(at.b.mains.high, Unit::Volt), celsius(at.b.chassis.ambient), celsius(d.mostKelvin),
            heat.sinkNeeded > 0.5
                ? fmt::format("A heat sink of {:.2g} K/W at most keeps it there.", heat.sinkNeeded)
                : std::string("No heat sink is enough: less volts before it, or a resistor that takes a part.")));
    if (heat.sinkNeeded > 0.5)
        x.fix = together(fmt::format("a heat sink of {:.2g} K/W", 0.8 * heat.sinkNeeded),
                         {setText("", at.place("dc/mount"), nameIn(regulatorMountNames, RegulatorMount::HeatSink)),
                          setValue("", at.place("dc/sink"), 0.8 * heat.sinkNeeded)});
    out.push_back(std::move(x));
}

void ratingRules(const At& at, const Catalogue& catalogue, const plan::Steady& high, std::vector<Finding>& out) {
    const HeaterDc& d = at.w.dc;
    const double amps = plan::heaterAmps(high, at.w.id);
    const std::string tail = fmt::format("with mains at {}.", format(at.b.mains.high, Unit::Volt));
    if (d.regulator == HeaterRegulator::Linear || d.regulator == HeaterRegulator::LowDropout)
        againstLimit(out, at.id("heater-regulator-amps"), upper(at.w.id) + "'s regulator", amps, d.mostAmps,
                     Unit::Ampere, tail);
    const RectifierType& diode = *catalogue.rectifier(d.diode);
    againstLimit(out, at.id("heater-diode-amps"), upper(at.w.id) + "'s diodes", amps / 2, diode.dcAmps, Unit::Ampere,
                 "the mean of each, " + tail);
    const double crest = at.w.volts * std::numbers::sqrt2 * high.primaryVolts / at.b.transformer.primaryVolts,
                 stored = at.w.rectifier == HeaterRectifier::Bridge ? crest : crest / 2;
    againstLimit(out, at.id("heater-diode-volts"), upper(at.w.id) + "'s diodes", crest, diode.inverseVolts, Unit::Volt,
                 "in reverse, " + tail);
    std::optional<Edit> fix;
    if (const auto better = nextVolts(stored))
        fix = setValue(fmt::format("capacitors of {}", format(*better, Unit::Volt)), at.place("dc/capacitorVolts"),
                       *better);
    againstLimit(out, at.id("heater-capacitor-volts"), upper(at.w.id) + "'s capacitors", stored, d.capacitorVolts,
                 Unit::Volt, "the winding's crest without load, " + tail, std::move(fix));
}

void legRule(const At& at, const plan::HeaterFeedFigures& high, std::vector<Finding>& out) {
    if (at.w.legResistance > 0)
        againstWatts(out, at.id("heater-leg-watts"), fmt::format("the resistors in {}'s leads", upper(at.w.id)),
                     high.legWatts, at.w.legWatts, at.place("legWatts"));
}

} // namespace

void heaterSupplyRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high || !f.low) return;
    const std::size_t before = out.size();
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
        const At at{b, k, b.transformer.heaters[k]};
        const auto high = f.high->heaterFeeds.find(at.w.id), low = f.low->heaterFeeds.find(at.w.id);
        if (high == f.high->heaterFeeds.end() || low == f.low->heaterFeeds.end()) continue;
        legRule(at, high->second, out);
        if (!at.w.rectified()) continue;
        centreTapRule(at, out);
        seriesRule(at, out);
        headroomRule(at, *f.low, low->second, out);
        ratingRules(at, catalogue, *f.high, out);
        if (!f.wires) continue;
        for (const wires::HeatedWinding& x : f.wires->heaters.windings)
            if (x.id == at.w.id && x.regulator) heatRule(at, *x.regulator, out);
    }
    for (std::size_t n = before; n < out.size(); ++n) out[n].station = "heaters";
}

} // namespace ember::rules
