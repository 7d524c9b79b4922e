#include "findings.h"

#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>

#include <array>
#include <cmath>

namespace ember::rules {

using namespace chassis;

namespace {

std::string mm(double metres) {
    return fmt::format("{:.1f} mm", metres * 1e3);
}
double celsius(double kelvin) {
    return kelvin - 273.15;
}

Finding make(std::string id, Level level, std::string title, std::string text) {
    Finding f;
    f.id = std::move(id);
    f.station = "chassis";
    f.level = level;
    f.title = std::move(title);
    f.text = std::move(text);
    return f;
}

void fitRules(const Build& b, const LayoutFigures& layout, double volts, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    for (const FitProblem& p : layout.fit) {
        const PlacedPart &a = c.parts[p.a], &other = c.parts[p.b];
        const std::string one = tagOf(a), two = tagOf(other), pair = a.id + "/" + other.id;
        Finding f;
        switch (p.kind) {
        case FitKind::Touching:
            f = make("touching/" + pair, Level::Stop, fmt::format("{} touches {}", one, two),
                     fmt::format("Their bodies meet; {} is the least between parts at {}.", mm(p.wanted),
                                 format(volts, Unit::Volt)));
            break;
        case FitKind::TooNear:
            f = make("too-near/" + pair, Level::Warn, fmt::format("{} is near to {}", one, two),
                     fmt::format("{} between them; {} is the least at {}: 2 mm and 1 mm for each 100 V.", mm(p.gap),
                                 mm(p.wanted), format(volts, Unit::Volt)));
            break;
        case FitKind::OffTheFace:
            f = make("off-face/" + a.id, Level::Stop, one + " hangs over the edge",
                     fmt::format("It stands {} beyond its face.", mm(-p.gap)));
            break;
        case FitKind::NearEdge:
            f = make("near-edge/" + a.id, Level::Warn, one + " is drilled near the edge",
                     fmt::format("{} from a hole to the edge; {} keeps clear of the bend and leaves metal to hold.",
                                 mm(p.gap), mm(p.wanted)));
            break;
        case FitKind::BelowDepth:
            f = make("too-deep/" + a.id, Level::Stop, one + " reaches out below",
                     fmt::format("It is {} longer than the {} of the walls.", mm(-p.gap), mm(c.height)));
            break;
        case FitKind::AboveLid:
            f = make("under-lid/" + a.id, Level::Stop, one + " does not fit under the lid",
                     fmt::format("It is {} higher than the {} there.", mm(-p.gap), mm(c.lid)));
            break;
        case FitKind::CannotDraw:
            f = make(
                "cannot-draw/" + a.id, Level::Warn, one + " cannot be drawn out under the lid",
                fmt::format("It needs its own length and 20 mm, {}, above it; {} are free.", mm(p.wanted), mm(p.gap)));
            break;
        }
        f.fix = mend(c, p, volts);
        out.push_back(std::move(f));
    }
}

void heatRules(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k) {
        const PlacedPart& p = b.chassis.parts[k];
        const double t = celsius(layout.partKelvin[k]);
        if (p.kind == "can" && t > 60)
            out.push_back(make("hot-capacitor/" + p.id, Level::Warn, tagOf(p) + " cooks",
                               fmt::format("{:.0f} \u00b0C at its foot. An electrolytic's life halves with each 10 K; "
                                           "above 60 \u00b0C it is short.",
                                           t)));
    }
    if (celsius(layout.hottest) > 55)
        out.push_back(make("hot-chassis", Level::Warn, "The top gets hot to the hand",
                           fmt::format("{:.0f} \u00b0C at its hottest; 55 \u00b0C is what hands bear. More surface, "
                                       "vents beside the valves, or the hot parts apart.",
                                       celsius(layout.hottest))));
}

void fieldRules(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const Hum hum = humOf(b);
    const auto hums = [&](std::size_t k) {
        return std::find(hum.iron.begin(), hum.iron.end(), c.parts[k].of) != hum.iron.end();
    };
    for (const CouplingFigures& k : layout.couplings) {
        // From iron that hums into output iron, whose secondary is heard directly.
        if (hums(k.a) == hums(k.b) || k.db < -40) continue;
        const PlacedPart &one = c.parts[k.a], &two = c.parts[k.b];
        Finding f = make("stray/" + one.id + "/" + two.id, Level::Warn,
                         fmt::format("{} hums into {}", tagOf(hums(k.a) ? one : two), tagOf(hums(k.a) ? two : one)),
                         fmt::format("Their stray fields couple at {:.0f} dB of touching and in line; -40 dB is quiet. "
                                     "Turned by {:.0f}\u00b0, {} would {}.",
                                     k.db, k.best.turn, tagOf(two),
                                     k.best.null ? "stand in a null" : fmt::format("be at {:.0f} dB", k.best.db)));
        if (!two.locked) f.fix = turnParts(c, {k.b}, k.best.turn);
        out.push_back(std::move(f));
    }
    for (const auto& [victim, tesla] : layout.exposure.victims) {
        const double db = 20 * std::log10(std::max(1e-15, tesla) / allowedTesla);
        if (db < 0) continue;
        const auto worst = std::find_if(layout.exposure.pairs.begin(), layout.exposure.pairs.end(),
                                        [v = victim](const Exposure& e) { return e.victim == v; });
        if (worst == layout.exposure.pairs.end()) continue;
        out.push_back(make("exposed/" + c.parts[victim].id, Level::Warn,
                           tagOf(c.parts[victim]) + " stands in a hum field",
                           fmt::format("{:.1f} \u00b5T, {:.0f} dB above what a quiet input bears; most of it from {} "
                                       "({:.0f} dB). Farther away, or that part turned, helps most.",
                                       tesla * 1e6, db, tagOf(c.parts[worst->source]), worst->db())));
    }
}

void plateRules(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    if (c.parts.empty()) return;
    if (layout.rest.most > 0.5 * c.thickness || layout.carried.stress > 60e6) {
        Finding f = make(
            "sag", Level::Warn, "The top bends",
            fmt::format(
                "{} at rest, {} and {:.0f} MPa when carried, under {:.1f} kg. A rib under the iron, or thicker sheet.",
                mm(layout.rest.most), mm(layout.carried.most), layout.carried.stress * 1e-6, layout.mass));
        for (const double t : {1.0e-3, 1.5e-3, 2e-3, 2.5e-3, 3e-3, 4e-3, 5e-3})
            if (t > c.thickness * 1.01 && layout.rest.most * std::pow(c.thickness / t, 3) < 0.5 * t) { // w as 1 / t^3
                f.fix = setValue(fmt::format("use {:g} mm sheet", t * 1e3), "/chassis/thickness", t);
                break;
            }
        out.push_back(std::move(f));
    }
    const double across = layout.massCentre.x() / c.width - 0.5, along = layout.massCentre.y() / c.depth - 0.5;
    if (std::abs(across) > 0.15 || std::abs(along) > 0.25)
        out.push_back(make(
            "balance", Level::Note, "It lifts unevenly",
            fmt::format("The weight of {:.1f} kg is centred {:.0f} mm to the {} and {:.0f} mm to the {} of the middle.",
                        layout.mass, std::abs(across) * c.width * 1e3, across > 0 ? "right" : "left",
                        std::abs(along) * c.depth * 1e3, along > 0 ? "back" : "front")));
}

void peopleRules(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const Hum hum = humOf(b);
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (p.liveAbove && p.face == Face::Top)
            out.push_back(make("live-above/" + p.id, Level::Stop, tagOf(p) + " has live lugs where hands go",
                               "Open frames and live lugs never stand above the plate without a cover. Cover it, "
                               "choose a closed body, or mount it below."));
        if (p.kind != "socket" ||
            std::find(hum.smallValves.begin(), hum.smallValves.end(), p.of) == hum.smallValves.end())
            continue;
        for (const Dipole& d : layout.dipoles) {
            const double apart = (layout.assembly.centres[d.part] - layout.assembly.centres[k]).head<2>().norm();
            if (c.parts[d.part].of == b.transformer.id && apart < 0.07)
                out.push_back(make(
                    "vibration/" + p.id, Level::Note, tagOf(p) + " shakes with the iron",
                    fmt::format("{:.0f} mm from {}, bolted to the same plate: soft-mount the socket or move it away.",
                                apart * 1e3, tagOf(c.parts[d.part]))));
        }
    }
}

} // namespace

void chassisRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.layout || f.layout->assembly.of.size() != b.chassis.parts.size()) return;
    const double volts = f.cold && !f.cold->nodes.empty() ? f.cold->nodes[0].most : 400;
    fitRules(b, *f.layout, volts, out);
    heatRules(b, *f.layout, out);
    fieldRules(b, *f.layout, out);
    plateRules(b, *f.layout, out);
    peopleRules(b, *f.layout, out);
}

} // namespace ember::rules
