#include "report.h"

#include "circuit_part.h"
#include "page.h"
#include "parts_list.h"

#include "circuit_part.h"
#include "core/build/build_json.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/metal.h"
#include "core/chassis/picture_svg.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/power_words.h"
#include "core/procedure/first_power.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/wires/hum.h"
#include "page.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::report {

namespace {

std::string v(double x) {
    return format(x, Unit::Volt);
}
std::string a(double x) {
    return format(x, Unit::Ampere);
}

void figuresPart(Page& page, const Build& b, const plan::Figures& f) {
    page.heading("Supply");
    if (!f.nominal) page.paragraph("The supply could not be solved.");
    if (f.low && f.nominal && f.high) {
        page.table({"node", fmt::format("mains {}", v(b.mains.low)), fmt::format("mains {}", v(b.mains.volts)),
                    fmt::format("mains {}", v(b.mains.high)), "ripple", "highest ever", "drawn"});
        for (std::size_t n = 0; n < f.nominal->nodes.size(); ++n) {
            const auto& x = f.nominal->nodes[n];
            page.row({fmt::format("B+{}", n + 1), v(f.low->nodes[n].mean), v(x.mean), v(f.high->nodes[n].mean),
                      format(x.ripplePp, Unit::Volt, 2) + " p-p", f.cold ? v(f.cold->nodes[n].most) : "-", a(x.load)});
        }
        page.end();
        page.table({"figure", "nominal mains"});
        page.row({"rectifier peak", a(f.nominal->rectifierPeak)});
        page.row({"rectifier output", a(f.nominal->rectifierMean)});
        page.row({"plate winding RMS, a leg", a(f.nominal->legRms)});
        page.row({"mains current", a(f.nominal->primaryRms)});
        page.row({"mains power", format(f.nominal->mainsWatts, Unit::Watt)});
        page.row({"bias rail", v(f.nominal->biasRail)});
        page.end();
        if (const auto fuse = plan::mainsFuse(b, f))
            page.paragraph(fmt::format(
                "Mains fuse: {} by {} RMS at high mains{}; {} is built in.", a(fuse->amps), a(fuse->continuous),
                fuse->forSurge > 0 ? fmt::format(" and {:.2g} A2s from cold", fuse->i2t) : "", a(b.fuse.amps)));
    }
    std::vector<Page::Line> nodes, held;
    for (std::size_t n = 0; n < f.switchOn.nodes.size(); ++n)
        nodes.push_back({fmt::format("B+{}", n + 1), &f.switchOn.nodes[n]});
    page.curve(f.switchOn.seconds, nodes, false, "Switch-on from cold, nominal mains");
    for (const plan::CapacitorDischarge& c : f.discharge.capacitors) held.push_back({upper(c.id), &c.volts});
    page.curve(
        f.discharge.seconds, held, true,
        "Switched off at worst: valves cold, fuses open, guaranteed paths alone. The curve is not proof; the meter "
        "is.");
    if (const auto* c = f.discharge.slowest(); c && c->start > 50)
        page.paragraph(
            fmt::format("{} is the last below 50 V: {}.", upper(c->id),
                        std::isnan(c->to50) ? "it holds for hours" : "after " + format(c->to50, Unit::Second, 2)));
}

void channelsPart(Page& page, const Build& b, const Catalogue& catalogue, const plan::Figures& f) {
    if (!f.nominal) return;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        page.heading(ch.name + " channel, as planned");
        page.table(
            {"valve", "stage", "plate", "screen", "grid", "cathode", "plate current", "plate watts", "screen watts"});
        for (const plan::ValvePoint& p : f.nominal->channels[k].valves) {
            const Valve& bottle = b.bottles[p.bottle];
            const ValveType* type = catalogue.valve(bottle.type);
            const schematic::StageKind* kind = schematic::stageKind(ch.stages[p.stage].kind);
            const bool screen = std::isfinite(p.screen) && p.screen != p.plate;
            page.row({upper(bottle.id) + (type && type->sections() > 1 ? fmt::format(" {}", p.section) : ""),
                      kind ? std::string(kind->title) : "", v(p.plate), screen ? v(p.screen) : "", v(p.grid),
                      v(p.cathode), a(p.plateAmps), format(p.plateWatts(), Unit::Watt),
                      screen ? format(p.screenWatts(), Unit::Watt) : ""});
        }
        page.end();
        if (k < f.power.size()) {
            const plan::PowerFigures& x = f.power[k];
            const std::string words = plan::powerWords(x), thd = format(x.thdAtReference, Unit::None, 2);
            page.paragraph(fmt::format("Expected: {}{}{} % THD at {}; gain {}.", words, words.empty() ? "" : "; ", thd,
                                       x.reference(), format(x.gain, Unit::None)));
        }
        for (const Stage& stage : ch.stages) {
            if (!stage.note.empty()) page.paragraph(fmt::format("{}: {}", stage.id, stage.note));
            for (const StagePart& part : stage.parts)
                if (!part.note.empty()) page.paragraph(fmt::format("{}: {}", upper(idOf(part.part)), part.note));
        }
    }
}

/// Why valves and loose parts differ from the drawing that one follows.
void notesPart(Page& page, const Build& b) {
    for (const Valve& x : b.bottles)
        if (!x.note.empty()) page.paragraph(fmt::format("{}: {}", upper(x.id), x.note));
    for (const LoosePart& x : b.loose)
        page.paragraph(
            fmt::format("{} from {} to {}{}{}", upper(idOf(x.part)), x.from, x.to, x.note.empty() ? "" : ": ", x.note));
}

void layoutPart(Page& page, const Build& b, const plan::Figures& f, const std::string& solidPng) {
    const Chassis& c = b.chassis;
    if (c.parts.empty() || !f.layout) return;
    page.heading("Layout");
    page.paragraph(fmt::format("{:g} x {:g} x {:g} mm, {:g} mm {}. From above; what hangs below is dashed.",
                               c.width * 1e3, c.depth * 1e3, c.height * 1e3, c.thickness * 1e3,
                               chassis::sheetOf(c).name));
    std::string picture = chassis::pictureSvg(c);
    if (const auto at = picture.find(" xmlns="); at != std::string::npos) // a page's own SVG needs no address
        picture.erase(at, picture.find('"', at + 8) + 1 - at);
    page.text += "<figure>" + picture + "</figure>\n";
    if (!solidPng.empty())
        page.text +=
            "<figure><img style=\"max-width:100%\" alt=\"The finished amplifier\" src=\"data:image/png;base64," +
            solidPng + "\"></figure>\n";
    const chassis::LayoutSummary s = chassis::summarise(b, *f.layout);
    const auto mm = [](double metres) { return fmt::format("{:.0f} mm", metres * 1e3); };
    page.table({"figure", "this layout"});
    page.row({"weight", fmt::format("{:.1f} kg", f.layout->mass)});
    page.row({"hum pickup at " + s.victim,
              fmt::format("{:.1f} dB relative to the limit, strongest source {}", s.exposureDb, s.strongestSource)});
    page.row(
        {"hum into the output transformers", fmt::format("{:.1f} dB relative to touching, coaxial", s.couplingDb)});
    page.row({"shielded input lead", mm(s.inputLead)});
    page.row({"hottest capacitor, at its foot", fmt::format("{:.0f} \u00b0C", s.hottestCan - 273.15)});
    page.row({"sag when carried", fmt::format("{:.2f} mm", s.sagCarried * 1e3)});
    page.end();
}

/// The run list in the order of work, heater volts at the sockets, hum by source.
void wiresPart(Page& page, const Build& b, const plan::Figures& f) {
    if (!f.wires) return;
    const wires::WireFigures& w = *f.wires;
    if (!w.heaters.windings.empty()) {
        page.heading("Heaters");
        page.table({"winding", "socket", "rated", "low mains", "nominal", "high mains"});
        for (const wires::HeatedWinding& x : w.heaters.windings)
            for (const wires::SocketVolts& s : x.sockets)
                page.row({upper(x.id), upper(s.valve), format(s.rated, Unit::Volt), format(s.low, Unit::Volt),
                          format(s.nominal, Unit::Volt), format(s.high, Unit::Volt)});
        page.end();
    }
    if (f.nominal && f.low &&
        std::any_of(b.transformer.heaters.begin(), b.transformer.heaters.end(),
                    [](const HeaterWinding& h) { return h.rectified(); })) {
        page.heading("Direct current for heaters");
        page.table({"winding", "at the heaters", "ripple", "reservoir, least", "left for the regulator", "regulator",
                    "junction, at most"});
        for (const wires::HeatedWinding& x : w.heaters.windings) {
            const auto nominal = f.nominal->heaterFeeds.find(x.id), low = f.low->heaterFeeds.find(x.id);
            if (nominal == f.nominal->heaterFeeds.end() || low == f.low->heaterFeeds.end() ||
                !std::isfinite(nominal->second.reservoir))
                continue;
            const auto volts = [](double v) { return std::isfinite(v) ? format(v, Unit::Volt) : std::string(); };
            page.row({upper(x.id), volts(nominal->second.out), volts(nominal->second.ripplePp),
                      volts(low->second.reservoirLeast), volts(low->second.headroom),
                      x.regulator ? format(x.regulator->watts, Unit::Watt) : "",
                      x.regulator && std::isfinite(x.regulator->now)
                          ? fmt::format("{:.0f} °C", x.regulator->now - 273.15)
                          : ""});
        }
        page.end();
    }
    if (!w.hum.channels.empty()) {
        page.heading("Hum and noise, input shorted");
        page.table({"channel", "at the load", "A-weighted", "ripple", "heaters", "grounds", "field", "noise"});
        for (const wires::ChannelHum& c : w.hum.channels) {
            std::vector<std::string> cells{b.channels[c.channel].name, format(c.rms, Unit::Volt),
                                           format(c.weighted, Unit::Volt)};
            for (const double by : c.by) cells.push_back(format(by, Unit::Volt));
            page.row(cells);
        }
        page.end();
    }
    if (w.harness.runs.empty()) return;
    page.heading("Wires, in the order of work");
    page.table({"", "from", "to", "net", "colour", "mm²", "cut", "note"});
    int number = 0;
    for (const wires::Run& r : w.harness.runs)
        page.row({fmt::format("{}", ++number), r.wire.from, r.wire.to, r.net, r.wire.colour,
                  fmt::format("{:g}", r.wire.area * 1e6), fmt::format("{:.0f} mm", r.length * 1e3),
                  fmt::format("{}{}{}", r.pair() && !r.wire.straight ? "twisted pair " : "",
                              r.screened ? "screened " : "", r.wire.note)});
    page.end();
}

/// What it is made of, with weights, and prices where the builder typed them.
void partsPart(Page& page, const Build& b, const Catalogue& catalogue, const plan::Figures& f) {
    const PartsList list = partsList(b, catalogue, f);
    if (list.lines.empty()) return;
    page.heading("Parts");
    page.table({"part", "for", "number", "weight", "price each", "total"});
    const auto money = [](double v) { return std::isfinite(v) ? fmt::format("{:.2f}", v) : std::string(); };
    for (const ListedPart& l : list.lines) {
        page.row({l.words, l.tags(), l.metres ? fmt::format("{:.1f} m", l.count) : fmt::format("{:g}", l.count),
                  std::isfinite(l.mass) ? fmt::format("{:.0f} g", l.mass * 1e3) : "", money(l.each), money(l.price())});
    }
    page.end();
    page.paragraph(list.price > 0 ? fmt::format("Total {:.2f}; {} lines have no price yet. {:.1f} kg are known.",
                                                list.price, list.unpriced, list.mass)
                                  : fmt::format("{:.1f} kg are known.", list.mass));
}

void findingsPart(Page& page, const plan::Figures& f, const std::vector<rules::Finding>& findings) {
    page.heading("Findings");
    // What could not be solved is no sign that all is well.
    for (const std::string& failure : f.failures) page.paragraph("NOT COMPUTED: " + failure);
    if (!f.nominal) page.paragraph("The amplifier could not be solved: what the rules would say is not known.");
    if (f.nominal && findings.empty() && f.failures.empty()) page.paragraph("None.");
    static constexpr std::array<const char*, 3> levels{"Note", "WARN", "STOP"};
    for (const auto& x : findings)
        page.paragraph(fmt::format("{}: {} {}{}", levels[static_cast<std::size_t>(x.level)], x.title + ".", x.text,
                                   x.waived ? " Waived: " + x.waiverReason : ""));
}

/// Each step of First Power: whether the amplifier passed it, when, and by readings of what kind.
void firstPowerPart(Page& page, const Build& b) {
    using namespace procedure;
    page.heading("First Power");
    page.table({"step", "state", "when", "readings"});
    const Progress real = progressOf(b, Strand::Amplifier), practice = progressOf(b, Strand::Practice);
    for (int k = 0; k < stageCount; ++k) {
        const auto at = static_cast<std::size_t>(k);
        std::string when;
        int read = 0, explained = 0;
        for (std::size_t n = 0; n < b.log.size(); ++n) {
            const LogEntry& e = b.log[n];
            if (e.struck || e.stage != k || strandOf(e) != Strand::Amplifier || n < real.steps[at].begun) continue;
            if (e.kind == "stage" && e.event == StageEvent::Passed) when = e.time;
            if (e.kind == "reading") ++(e.text.empty() ? read : explained);
        }
        const char* state = real.steps[at].passed       ? "passed"
                            : real.steps[at].ended      ? "ended by a stop"
                            : practice.steps[at].passed ? "practised only"
                                                        : "not done";
        page.row({std::string(stageName(k)), state, real.steps[at].passed ? when : "",
                  fmt::format("{} read, {} explained in words", read, explained)},
                 false);
    }
    page.end();
}

void readingsPart(Page& page, const Build& b, procedure::Strand strand) {
    const bool practice = strand == procedure::Strand::Practice;
    const auto wanted = [&](const LogEntry& e) { return e.kind == "reading" && procedure::strandOf(e) == strand; };
    if (practice && std::none_of(b.log.begin(), b.log.end(), wanted)) return;
    page.heading(practice ? "Practice readings: they prove nothing of this amplifier" : "Readings");
    page.table({"when", "step", "where", "read", "range", "verdict", "from"});
    const auto points = procedure::testPoints(b);
    for (const LogEntry& e : b.log)
        if (wanted(e)) {
            const Unit unit = procedure::unitOf(e);
            page.row({e.time,
                      e.stage >= 0 && e.stage < procedure::stageCount ? std::string(procedure::stageName(e.stage)) : "",
                      procedure::nameOf(points, e), procedure::readText(e.value, unit, 4),
                      procedure::bandText(procedure::bandOf(e), unit),
                      e.verdict + (e.text.empty() ? "" : ", explained: " + e.text), e.source},
                     e.struck);
        }
    page.end();
}

} // namespace

std::string html(const Build& b, const Catalogue& catalogue, const plan::Figures& f,
                 const std::vector<rules::Finding>& findings, const std::string& when, const std::string& solidPng) {
    Page page;
    page.text =
        fmt::format("<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>{0}</title><style>"
                    "body{{font-family:B612,sans-serif;color:#1d1a17;background:#fbf8f2;max-width:60rem;margin:2rem "
                    "auto;padding:0 1rem;line-height:1.45}}"
                    "table{{border-collapse:collapse;margin:.6rem 0 1.2rem}}td,th{{text-align:left;padding:.15rem 1rem "
                    ".15rem 0;border-bottom:1px solid #d8d0c2;"
                    "font-variant-numeric:tabular-nums}}.struck{{text-decoration:line-through;color:#777}}.caution{{"
                    "border-left:4px solid #b3261e;padding-left:.8rem}}"
                    "svg text{{font-size:11px}}h1,h2{{line-height:1.2}}</style></head><body>\n<h1>{0}</h1>\n",
                    escaped(b.name));
    page.paragraph(b.notes);
    page.paragraph("Printed " + when + ".");
    page.text += "<p class=\"caution\">Lethal voltages: unplug, wait, measure. Capacitors hold charge. Never alone. "
                 "Follow the electrical code of your place; "
                 "if unsure, a licensed person.</p>\n";
    figuresPart(page, b, f);
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        page.figure("Circuit: " + b.channels[k].name, circuitSvg(b, catalogue, k, f.nominal ? &*f.nominal : nullptr));
    channelsPart(page, b, catalogue, f);
    notesPart(page, b);
    layoutPart(page, b, f, solidPng);
    wiresPart(page, b, f);
    partsPart(page, b, catalogue, f);
    findingsPart(page, f, findings);
    firstPowerPart(page, b);
    readingsPart(page, b, procedure::Strand::Amplifier);
    readingsPart(page, b, procedure::Strand::Practice);
    page.heading("Log");
    page.table({"when", "what", ""});
    for (const LogEntry& e : b.log)
        if (e.kind != "reading")
            page.row({e.time, e.kind, e.text + (e.struck ? " (struck: " + e.struckWhy + ")" : "")}, e.struck);
    page.end();
    page.text += "</body></html>\n";
    return page.text;
}

} // namespace ember::report
