// Wires, heaters at their sockets, returns and hum.
#include "findings.h"

#include "core/quantity/letters.h"
#include "core/wires/hum.h"
#include "core/wires/run_figures.h"
#include "core/wires/wire_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::rules {

using namespace wires;

namespace {

std::string between(const Run& r) {
    return fmt::format("{} to {}", wires::spoken(r.wire.from), wires::spoken(r.wire.to));
}

/// Of the rectifier's output, valves cold, mains high [V].
double mostVolts(const plan::Figures& f) {
    return f.cold && !f.cold->nodes.empty() ? f.cold->nodes.front().most : plan::unknown;
}

void heaterRules(const Build& b, const plan::Figures& figures, const WireFigures& w, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < w.heaters.windings.size(); ++k) {
        const HeatedWinding& x = w.heaters.windings[k];
        if (x.floating) {
            Finding f = finding(
                "heaters", "heater-floating/" + x.id, Level::Stop, fmt::format("Heater winding {} floats", upper(x.id)),
                fmt::format("Nothing ties it to ground: leakage sets its volts, up to the {} of B+1, and the "
                            "heater-cathode insulation of every valve on it bears what they become. A centre tap, two "
                            "resistors or a divider holds it.",
                            format(mostVolts(figures), Unit::Volt)));
            f.fix = setText("reference it by its centre tap", fmt::format("/transformer/heaters/{}/reference", k),
                            nameIn(heaterReferenceNames, HeaterReference::CentreTap));
            out.push_back(std::move(f));
        }
        const SocketVolts* worst = nullptr;
        for (const SocketVolts& s : x.sockets)
            if (std::isfinite(s.nominal) && (!worst || s.nominal / s.rated < worst->nominal / worst->rated)) worst = &s;
        if (!worst) continue;
        const double lost = x.nominal.volts - worst->nominal, share = worst->nominal / worst->rated - 1;
        if (share < -0.05 && lost > 0.02 * worst->rated) {
            Finding f = finding(
                "heaters", "heater-drop/" + x.id, share < -0.1 ? Level::Stop : Level::Warn,
                fmt::format("{} gets {} at its heater", upper(worst->valve), format(worst->nominal, Unit::Volt)),
                fmt::format(
                    "{:.1f} % below its {}; {} of it are lost in the wires of {}. Thicker wire, or another order of "
                    "the sockets.",
                    -100 * share, format(worst->rated, Unit::Volt), format(lost, Unit::Volt), upper(x.id)));
            std::vector<std::string> ids;
            double area = 0;
            for (const Run& r : w.harness.runs)
                if (r.kind == RunKind::Heater && r.heater == x.id)
                    ids.push_back(r.wire.id), area = std::max(area, r.wire.area);
            if (area < 2.4e-6)
                f.fix = changeWires(b, "2.5 mm² for these heaters", ids, [](Wire& wire) { wire.area = 2.5e-6; });
            out.push_back(std::move(f));
        }
    }
    std::vector<std::string> straight;
    for (const Run& r : w.harness.runs)
        if (r.kind == RunKind::Heater && r.pair() && r.wire.straight) straight.push_back(r.wire.id);
    if (!straight.empty()) {
        double hum = 0;
        for (const ChannelHum& c : w.hum.channels)
            hum = std::max(hum, c.by[static_cast<std::size_t>(HumSource::Heaters)]);
        Finding f = finding(
            "heaters", "heater-straight", Level::Warn, "Heater wires lie side by side, not twisted",
            fmt::format("{} of hum at the load come from the heaters. Twist the two wires, 20 mm to a turn: what "
                        "neighbouring half turns induce cancels.",
                        format(hum, Unit::Volt)));
        f.fix = changeWires(b, "twist the heater wires", straight, [](Wire& wire) { wire.straight = false; });
        out.push_back(std::move(f));
    }
}

void groundRules(const Build& b, const plan::Figures& figures, const WireFigures& w, std::vector<Finding>& out) {
    const Harness& h = w.harness;
    if (h.points.empty()) return;
    const bool byChassis = b.wiring.grounds == GroundScheme::ChassisReturn;
    if (!byChassis && w.hum.bonds.empty()) {
        Finding f = finding("grounds", "bond/none", Level::Stop, "The signal ground does not meet the chassis",
                            "If the high voltage or the mains reaches it, no fuse blows and everything that hangs on "
                            "the jacks is live. "
                            "Exactly one wire joins it to the earthed chassis.");
        f.fix = setText("bond it to the chassis by a wire", "/wiring/bond", nameIn(bondNames, Bond::Direct));
        out.push_back(std::move(f));
    }
    if (!byChassis && w.hum.bonds.size() > 1) {
        double induced = 0, area = 0;
        for (const GroundLoop& l : w.hum.loops) induced = std::max(induced, l.induced), area = std::max(area, l.area);
        Finding f = finding(
            "grounds", "bond/several", Level::Warn,
            fmt::format("The signal ground meets the chassis {} times", w.hum.bonds.size()),
            fmt::format(
                "Each further bond closes a loop through the metal: the largest is {:.0f} cm², with {} induced in one. "
                "Exactly one bond; input jacks insulated from the panel.",
                area * 1e4, format(induced, Unit::Volt)));
        if (!b.wiring.insulatedJacks) f.fix = setFlag("insulate the jacks", "/wiring/insulatedJacks", true);
        out.push_back(std::move(f));
    }
    if (w.hum.loops.size() > 0 && w.hum.bonds.size() < 2)
        for (const GroundLoop& l : w.hum.loops) {
            std::vector<std::string> names;
            for (const std::string& id : l.wires)
                if (const Run* r = h.find(id)) names.push_back(between(*r));
            out.push_back(finding(
                "grounds", "loop/" + l.wires.front(), l.induced > 20e-6 ? Level::Warn : Level::Note,
                fmt::format("A loop of {} ground wires", l.wires.size()),
                fmt::format(
                    "{} enclose {:.0f} cm²; the stray fields induce {} in them. One of these wires is not needed: "
                    "without it everything is still joined.",
                    fmt::join(names, ", "), l.area * 1e4, format(l.induced, Unit::Volt))));
        }
    const double most = mostVolts(figures);
    for (const std::string& point : w.hum.loose) {
        const Terminal* at = h.terminals.find(point);
        const bool speaker = at && (h.terminals.serves(*at) == schematic::Serves::SignalIron ||
                                    h.terminals.serves(*at) == schematic::Serves::Terminals);
        out.push_back(finding(
            "grounds", "unconnected/" + point, Level::Stop,
            fmt::format("The return {} is not connected", spoken(point)),
            speaker ? fmt::format("No wire leads from it to the supply's negative end: a fault from the primary to "
                                  "the secondary puts {} on the loudspeaker's terminals, and nothing clears it.",
                                  format(most, Unit::Volt))
                    : "No wire leads from it to the supply's negative end: what hangs on it floats up to the high "
                      "voltage."));
    }
    // A wire with the pulses of the rectifier in it that does not begin at a winding.
    double charging = 0;
    const auto atWinding = [&](const Run& r) {
        for (const int p : {r.fromPoint, r.toPoint})
            if (p >= 0 && (h.points[static_cast<std::size_t>(p)].what == Returns::Winding ||
                           h.points[static_cast<std::size_t>(p)].what == Returns::BiasWinding))
                return true;
        return false;
    };
    for (const Run& r : h.runs)
        if (r.kind == RunKind::Ground && atWinding(r) && std::isfinite(r.amps)) charging = std::max(charging, r.amps);
    const Run* shared = nullptr;
    for (const Run& r : h.runs)
        if (r.kind == RunKind::Ground && !atWinding(r) && r.amps > 0.2 * charging && (!shared || r.amps > shared->amps))
            shared = &r;
    if (shared && charging > 0) {
        double hum = 0;
        for (const ChannelHum& c : w.hum.channels)
            hum = std::max(hum, c.by[static_cast<std::size_t>(HumSource::Grounds)]);
        Finding f = finding("grounds", "charging-return", Level::Warn,
                            fmt::format("Charging pulses flow in the ground wire {}", between(*shared)),
                            fmt::format("{} of the rectifier's pulses share it with what returns there: {} at the "
                                        "load. The winding's centre goes to "
                                        "the first capacitor's negative end before anything else.",
                                        format(shared->amps, Unit::Ampere), format(hum, Unit::Volt)));
        if (byChassis) {
            f.fix = setText("each stage to its own capacitor", "/wiring/grounds",
                            nameIn(groundSchemeNames, GroundScheme::LocalStars));
        } else {
            std::vector<Edit> back;
            for (std::size_t k = b.wiring.wires.size(); k-- > 0;) {
                const Wire& x = b.wiring.wires[k];
                const Run* run = h.find(x.id);
                if (x.removed || (run && run->own && run->kind == RunKind::Ground))
                    back.push_back(removeAt("", fmt::format("/wiring/wires/{}", k)));
            }
            if (!back.empty()) f.fix = together("returns as proposed", back);
        }
        out.push_back(std::move(f));
    }
}

bool isEarthed(const Harness& h) {
    return std::any_of(h.runs.begin(), h.runs.end(), [](const Run& r) { return r.kind == RunKind::Earth; });
}

void wiringRules(const Build& b, const WireFigures& w, std::vector<Finding>& out) {
    const Harness& h = w.harness;
    const bool inlet = h.terminals.find("inlet.E") != nullptr;
    if (inlet && !isEarthed(h))
        out.push_back(finding("wiring", "earth/none", Level::Stop, "The chassis has no safety earth",
                              "From the inlet's earth pin to a bolt of its own near it: short, first on and last off, "
                              "with a lock washer, on bare "
                              "metal, never shared with a transformer's bolt."));
    if (inlet && b.wiring.colours == MainsColours::NotChosen)
        out.push_back(
            finding("wiring", "mains-colours", Level::Note, "The mains side's colours are not chosen",
                    "They are those of your country's code; choose them, so that cutting list and labels name them."));
    const Obstacles obstacles(b.chassis);
    for (const Run& r : h.runs) {
        if (r.amps > mostAmps(r.wire.area)) {
            const double next = leastArea(r.amps);
            Finding f = finding("wiring", "wire-amps/" + r.wire.id, Level::Stop,
                                fmt::format("The wire {} is too thin", between(r)),
                                fmt::format("It carries {}; {:.2f} mm² in a bundle bears {} (IEC 60204-1).",
                                            format(r.amps, Unit::Ampere), r.wire.area * 1e6,
                                            format(mostAmps(r.wire.area), Unit::Ampere)));
            f.fix = changeWires(b, fmt::format("{:g} mm²", next * 1e6), {r.wire.id}, [&](Wire& x) { x.area = next; });
            out.push_back(std::move(f));
        }
        if (r.worstVolts > r.wire.insulationVolts) {
            Finding f =
                finding("wiring", "wire-insulation/" + r.wire.id, Level::Stop,
                        fmt::format("The insulation of {} is for less than its volts", between(r)),
                        fmt::format("{} at its worst moment, on insulation for {}.", format(r.worstVolts, Unit::Volt),
                                    format(r.wire.insulationVolts, Unit::Volt)));
            const double rated = insulationFor(r.worstVolts);
            f.fix = changeWires(b, fmt::format("insulation for {}", format(rated, Unit::Volt)), {r.wire.id},
                                [&](Wire& x) { x.insulationVolts = rated; });
            out.push_back(std::move(f));
        }
        for (const std::size_t part : obstacles.hit(r.path, r.fromSpot, r.toSpot))
            out.push_back(finding("wiring", "wire-through/" + r.wire.id + "/" + b.chassis.parts[part].id, Level::Note,
                                  fmt::format("The wire {} passes through {}", between(r),
                                              upper(b.chassis.parts[part].of.empty() ? b.chassis.parts[part].id
                                                                                     : b.chassis.parts[part].of)),
                                  "No clear route was found. Move the part, or give the wire a path of its own."));
    }
    // Mains in one bundle with an input.
    for (const Run& m : h.runs)
        for (const Run& s : h.runs) {
            if (m.kind != RunKind::Mains || !s.screened) continue;
            double beside = 0;
            for (std::size_t k = 0; k + 1 < s.path.size(); ++k)
                for (int n = 0; n < 20; ++n) {
                    const Vector at = s.path[k] + (s.path[k + 1] - s.path[k]) * (n + 0.5) / 20;
                    for (std::size_t e = 0; e + 1 < m.path.size(); ++e) {
                        const Vector way = m.path[e + 1] - m.path[e];
                        const double share = way.squaredNorm() > 0
                                                 ? std::clamp((at - m.path[e]).dot(way) / way.squaredNorm(), 0.0, 1.0)
                                                 : 0;
                        if ((m.path[e] + share * way - at).norm() < 0.015) {
                            beside += (s.path[k + 1] - s.path[k]).norm() / 20;
                            break;
                        }
                    }
                }
            if (beside > 0.03)
                out.push_back(finding(
                    "wiring", "mains-beside-input/" + s.wire.id, Level::Warn,
                    fmt::format("Mains runs beside the input lead {}", between(s)),
                    fmt::format(
                        "{:.0f} mm of it lie within 15 mm of {}. Cross at right angles, or go round by another wall.",
                        beside * 1e3, between(m))));
        }
    for (const Problem& p : h.problems)
        out.push_back(finding("wiring", "wire" + p.where, Level::Warn, "A wire that cannot be as written", p.sentence));
}

void humRules(const Build& b, const WireFigures& w, std::vector<Finding>& out) {
    for (const ChannelHum& c : w.hum.channels) {
        const double db = c.belowRatedDb();
        if (!(db < 70)) continue;
        std::size_t worst = 0;
        for (std::size_t s = 1; s < humSources; ++s)
            if (c.by[s] > c.by[worst]) worst = s;
        if (static_cast<HumSource>(worst) == HumSource::Ripple) continue; // the supply's finding says it
        const auto line = std::max_element(c.lines.begin(), c.lines.end(),
                                           [](const HumLine& x, const HumLine& y) { return x.rms < y.rms; });
        out.push_back(finding(
            "grounds", "hum/" + b.channels[c.channel].id, db < 60 ? Level::Warn : Level::Note,
            fmt::format("{}: hum {:.0f} dB below rated output", b.channels[c.channel].name, db),
            fmt::format(
                "{} at the load with the input shorted, most of it {} at {:.0f} Hz. 70 dB is quiet in a living room.",
                format(c.rms, Unit::Volt), nameOf(static_cast<HumSource>(worst)),
                line == c.lines.end() ? 0 : line->hertz)));
    }
}

} // namespace

void wireRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.wires || !f.nominal) return;
    heaterRules(b, f, *f.wires, out);
    humRules(b, *f.wires, out);
    if (b.chassis.parts.empty()) return; // nothing is placed: there are no wires yet
    groundRules(b, f, *f.wires, out);
    wiringRules(b, *f.wires, out);
}

} // namespace ember::rules
