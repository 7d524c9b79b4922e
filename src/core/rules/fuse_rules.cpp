// Fuses and the panel meter against what flows: all day, and at switch-on.
#include "findings.h"

#include "core/build/build_json.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

std::string amps(double a) {
    return format(a, Unit::Ampere);
}

void mainsFuseRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    const double rms = f.high->primaryRms;
    const auto advice = plan::mainsFuse(b, f);
    // A winding that carries more than it is made for needs the fuse that it has, until it carries less.
    const bool overloaded = f.high->legRms > b.transformer.plateAmps ||
                            std::any_of(b.transformer.heaters.begin(), b.transformer.heaters.end(), [&](const auto& w) {
                                const auto feed = f.high->heaterFeeds.find(w.id);
                                return feed != f.high->heaterFeeds.end() && feed->second.windingAmps > w.amps;
                            });
    const auto better = [&](Finding& x) {
        if (overloaded && advice && advice->amps > b.fuse.amps) return;
        if (advice && std::abs(advice->amps / b.fuse.amps - 1) > 1e-6)
            x.fix = setValue(fmt::format("use {}", amps(advice->amps)), "/fuse/amps", advice->amps);
    };
    // 1.5 to 2 times what flows; more where only that bears the surge from cold.
    const double most = advice ? std::max(2 * rms, advice->amps) : 2 * rms;
    if (b.fuse.amps < 1.5 * rms || b.fuse.amps > 1.001 * most) {
        const bool small = b.fuse.amps < 1.5 * rms;
        Finding x = finding(
            "supply", "fuse", Level::Warn, fmt::format("{} is too {}", upper(b.fuse.id), small ? "small" : "large"),
            fmt::format("{} against {} RMS from the mains at its high end; 1.5 to 2 times that is usual{}. {}",
                        amps(b.fuse.amps), amps(rms),
                        most > 2 * rms ? fmt::format(", {} where it has to bear the surge from cold", amps(most)) : "",
                        small ? "It would open in use." : "It would let the transformer overheat before it opens."));
        better(x);
        out.push_back(std::move(x));
    }
    const double bears = plan::fuseBears(b.fuse.amps, b.fuse.slow);
    if (f.inrush.i2t > bears) {
        Finding x = finding(
            "supply", "fuse-inrush", Level::Warn, fmt::format("{} may open at switch-on", upper(b.fuse.id)),
            fmt::format("The surge from cold, {} at its crest, brings {:.2g} A2s; a {} fuse of {} is sure to bear "
                        "{:.2g}. A thermistor in the primary{} keeps it whole.",
                        amps(f.inrush.peakAmps), f.inrush.i2t, b.fuse.slow ? "time-lag" : "quick", amps(b.fuse.amps),
                        bears, b.fuse.slow ? "" : " or a time-lag fuse"));
        // A fuse that bears it and much more than what flows protects little: then the surge is to be held back.
        constexpr double sensible = 1.7;
        if (!b.fuse.slow)
            x.fix = setFlag("a time-lag fuse", "/fuse/slow", true);
        else if (!advice || advice->forSurge <= sensible * advice->forContinuous)
            better(x);
        if (!x.fix) {
            const double crest = std::numbers::sqrt2 * b.mains.high, now = crest / f.inrush.peakAmps;
            const double more = std::max(1.0, now * (std::sqrt(f.inrush.i2t / bears) - 1));
            const double cold = nextUp((b.thermistor.hot > 0 ? b.thermistor.cold : 0) + more, Series::E6);
            x.fix = together(fmt::format("a thermistor of {} cold", format(cold, Unit::Ohm)),
                             {setValue("", "/thermistor/cold", cold), setValue("", "/thermistor/hot", cold / 20)});
        }
        out.push_back(std::move(x));
    }
}

/// What it has to break: the mains' own fault current through a loop that only wires limit, at the mains' volts.
void breakingRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (b.mains.volts > b.fuse.volts) {
        Finding x = finding("supply", "fuse-volts", Level::Stop,
                            fmt::format("{} is rated for less than the mains", upper(b.fuse.id)),
                            fmt::format("{} on mains of {}: it may not put the arc out.",
                                        format(b.fuse.volts, Unit::Volt), format(b.mains.volts, Unit::Volt)));
        const double enough = b.mains.volts <= 250 ? 250 : 500;
        x.fix = setValue(fmt::format("one of {}", format(enough, Unit::Volt)), "/fuse/volts", enough);
        out.push_back(std::move(x));
    }
    if (!f.wires || !(f.wires->hum.faults.liveAmps > b.fuse.breakingAmps())) return;
    Finding x = finding("supply", "fuse-breaking", Level::Warn,
                        fmt::format("{} cannot break a fault to the chassis", upper(b.fuse.id)),
                        fmt::format("{} would flow through an earth loop of {}{}; a {} fuse is sure to break {} "
                                    "(IEC 60127-2) and may burst beyond that. A ceramic one of high breaking capacity "
                                    "breaks 1500 A.",
                                    amps(f.wires->hum.faults.liveAmps), format(b.mains.loop(), Unit::Ohm),
                                    b.mains.loopOhms > 0 ? "" : " (assumed)",
                                    b.fuse.breaking == Breaking::Low ? "glass" : "such", amps(b.fuse.breakingAmps())));
    x.fix = setText("one of high breaking capacity", "/fuse/breaking", "high");
    out.push_back(std::move(x));
}

/// Contacts and fuses made for AC draw an arc at DC that does not go out.
void dcVoltsRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    const Section& s = b.supply.sections[k];
    if (!f.cold) return;
    const double volts = f.cold->nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].most;
    if (volts <= s.dcVolts) return;
    const bool fuse = s.kind == SectionKind::Fuse;
    Finding x =
        finding("supply", "dc-volts/" + s.id, Level::Stop, fmt::format("{} cannot break the volts there", upper(s.id)),
                fmt::format("{} DC with the valves cold and mains at the high end; the {} is made to break {} "
                            "at DC. Beyond that the arc stays{}.",
                            format(volts, Unit::Volt), fuse ? "fuse" : "switch", format(s.dcVolts, Unit::Volt),
                            fuse ? "" : " and the contacts weld"));
    for (const double rating : {125.0, 250.0, 440.0, 500.0, 600.0, 1000.0})
        if (!x.fix && rating >= volts)
            x.fix = setValue(fmt::format("one made for {} DC", format(rating, Unit::Volt)),
                             fmt::format("/supply/sections/{}/dcVolts", k), rating);
    out.push_back(std::move(x));
}

void chainFuseRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    const Section& s = b.supply.sections[k];
    const auto advice = plan::chainFuse(f, s);
    if (!advice) return;
    const double rms = advice->continuous, bears = plan::fuseBears(s.amps, true);
    const bool small = s.amps<1.3 * rms, large = s.amps> 3 * rms && s.amps > 1.01 * advice->amps,
               surge = advice->i2t > bears;
    if (!small && !large && !surge) return;
    std::string text = fmt::format("{} RMS flows there with mains at the high end; 1.5 times that is {}.", amps(rms),
                                   amps(advice->forContinuous));
    if (std::isfinite(advice->i2t))
        text += fmt::format(" The worst tenth of a second of a switch-on brings {:.2g} A2s; a time-lag fuse of {} is "
                            "sure to bear {:.2g}.",
                            advice->i2t, amps(s.amps), bears);
    Finding x = finding("supply", "chain-fuse/" + s.id, small || surge ? Level::Warn : Level::Note,
                        fmt::format("{} is too {}", upper(s.id), large ? "large" : "small"), text);
    x.fix =
        setValue(fmt::format("use {}", amps(advice->amps)), fmt::format("/supply/sections/{}/amps", k), advice->amps);
    out.push_back(std::move(x));
}

void meterRule(const Build& b, const plan::Figures& f, std::size_t k, std::vector<Finding>& out) {
    const Section& s = b.supply.sections[k];
    const auto at = static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1);
    const double flows = (f.high->nodes[at].mean - f.high->nodes[at + 1].mean) / plan::asComputed(s).resistance;
    if (flows < 0.9 * s.amps && flows > 0.2 * s.amps) return;
    const bool small = flows > 0.5 * s.amps;
    Finding x = finding("supply", "meter-range/" + s.id, small ? Level::Warn : Level::Note,
                        fmt::format("{}'s range is too {}", upper(s.id), small ? "small" : "large"),
                        fmt::format("{} flows there with mains at the high end; its scale ends at {}. A third to "
                                    "four fifths reads best.",
                                    amps(flows), amps(s.amps)));
    for (const double decade : {1e-3, 1e-2, 0.1, 1.0, 10.0})
        for (const double scale : {1.0, 1.5, 2.0, 2.5, 3.0, 5.0}) // full scales that meters are made with
            if (!x.fix && flows > 0 && scale * decade >= 1.25 * flows)
                x.fix = setValue(fmt::format("a scale of {}", amps(scale * decade)),
                                 fmt::format("/supply/sections/{}/amps", k), scale * decade);
    out.push_back(std::move(x));
}

} // namespace

void fuseRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    breakingRule(b, f, out);
    if (!f.high) return;
    mainsFuseRule(b, f, out);
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const SectionKind kind = b.supply.sections[k].kind;
        if (kind == SectionKind::Fuse) chainFuseRule(b, f, k, out);
        if (kind == SectionKind::Fuse || kind == SectionKind::Switch) dcVoltsRule(b, f, k, out);
        if (b.supply.sections[k].kind == SectionKind::Meter) meterRule(b, f, k, out);
    }
}

} // namespace ember::rules
