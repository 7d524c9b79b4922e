#include "findings.h"

#include "core/build/structure.h"
#include "core/chassis/bodies.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/chassis/pins.h"
#include "core/chassis/tower.h"
#include "core/quantity/quantity.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

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
    return finding("chassis", std::move(id), level, std::move(title), std::move(text));
}

void fitRules(const Build& b, const LayoutFigures& layout, double volts, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const auto over = [](const PlacedPart& x) { return isLower(x.face) ? "upper chassis" : "lid"; };
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
            f = make("under-lid/" + a.id, Level::Stop, fmt::format("{} does not fit under the {}", one, over(a)),
                     fmt::format("It is {} higher than the {} there.", mm(-p.gap), mm(roomOver(c, a.face))));
            break;
        case FitKind::CannotDraw:
            f = make("cannot-draw/" + a.id, Level::Warn,
                     fmt::format("{} cannot be drawn out under the {}", one, over(a)),
                     fmt::format("It needs {} and 20 mm, {}, above it; {} are free.",
                                 isLower(a.face) ? "the length of its pins" : "its own length", mm(p.wanted),
                                 mm(std::max(0.0, p.gap))));
            break;
        case FitKind::AtPillar:
            f = make("at-pillar/" + a.id, p.gap > 0 ? Level::Warn : Level::Stop,
                     fmt::format("{} {} a pillar", one, p.gap > 0 ? "is near to" : "stands where the tower has"),
                     fmt::format("A pillar of {:.0f} mm goes through both plates at each corner; {} stays free around "
                                 "it.",
                                 pillarDiameter * 1e3, mm(p.wanted)));
            break;
        case FitKind::HolesMeet:
            f = make("holes-meet/" + pair, p.gap < 0 ? Level::Stop : Level::Warn,
                     fmt::format("Holes of {} and {} meet", one, two),
                     p.gap < 0
                         ? fmt::format("They run into each other by {}.", mm(-p.gap))
                         : fmt::format("{} of metal between them; {} holds a drill true.", mm(p.gap), mm(p.wanted)));
            break;
        case FitKind::NoScrewdriver:
            f = make("no-screwdriver/" + pair, Level::Warn, fmt::format("{} stands over a bolt of {}", two, one),
                     fmt::format("A screwdriver needs {:.0f} mm of width and {:.0f} mm of height over the head.",
                                 toolDiameter * 1e3, toolLength * 1e3));
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
    if (celsius(layout.hottest()) > 55) {
        Finding f = make("hot-chassis", Level::Warn, "The top gets hot to the hand",
                         fmt::format("At most {:.0f} \u00b0C at its hottest point; above 55 \u00b0C it hurts to touch. "
                                     "A larger plate, vents beside the valves, paint, which radiates, or the hot parts "
                                     "apart.",
                                     celsius(layout.hottest())));
        if (b.chassis.plateFinish == PlateFinish::Bare && b.chassis.form != ChassisForm::Board)
            f.fix = setText("paint the plate black", "/chassis/plateFinish", "black");
        out.push_back(std::move(f));
    }
}

/// Hum of iron in iron that is left alone, below the rated output [dB]: a tenth of the power that is silence.
constexpr double quietPickup = -85;

/// What one piece of iron makes by another, at the load; nullptr: not computed.
const wires::IronPickup* pickupOf(const plan::Figures& f, const std::string& from, const std::string& into) {
    if (!f.wires) return nullptr;
    for (const wires::IronPickup& p : f.wires->hum.pickups)
        if (p.from == from && p.into == into && p.channel < f.wires->hum.channels.size()) return &p;
    return nullptr;
}

void fieldRules(const Build& b, const plan::Figures& figures, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const Hum& hum = layout.hum;
    const auto hums = [&](std::size_t k) {
        return std::find(hum.iron.begin(), hum.iron.end(), c.parts[k].of) != hum.iron.end();
    };
    for (const CouplingFigures& k : layout.couplings) {
        // From iron that hums into output iron, whose secondary is heard directly.
        if (hums(k.a) == hums(k.b)) continue;
        const PlacedPart &one = c.parts[k.a], &two = c.parts[k.b];
        const PlacedPart &source = hums(k.a) ? one : two, &victim = hums(k.a) ? two : one;
        const wires::IronPickup* heard = pickupOf(figures, source.of, victim.of);
        const double rated = heard ? figures.wires->hum.channels[heard->channel].rated : plan::unknown;
        // Where its volts at the load are known, they decide; else how the two couple.
        if (heard && rated > 0 ? 20 * std::log10(heard->output / rated) < quietPickup : k.db < -40) continue;
        const std::string volts = heard && rated > 0 ? fmt::format("{} at the load, {:.0f} dB below the rated output. ",
                                                                   format(heard->output, Unit::Volt, 2),
                                                                   -20 * std::log10(heard->output / rated))
                                                     : "";
        Finding f =
            make("stray/" + one.id + "/" + two.id, Level::Warn,
                 fmt::format("{} induces hum in {}", tagOf(source), tagOf(victim)),
                 fmt::format("{}Their fields couple at {:.0f} dB of touching, coaxial. Turned by {:.0f}\u00b0, {} "
                             "would {}.",
                             volts, k.db, k.best.turn, tagOf(two),
                             k.best.null ? "couple least, in a null" : fmt::format("be at {:.0f} dB", k.best.db)));
        if (!two.locked) f.fix = turnParts(c, {k.b}, k.best.turn);
        out.push_back(std::move(f));
    }
    for (const auto& [victim, tesla] : layout.exposure.victims) {
        const double db = 20 * std::log10(std::max(1e-15, tesla) / allowedTesla);
        if (db < 0) continue;
        const auto worst = std::find_if(layout.exposure.pairs.begin(), layout.exposure.pairs.end(),
                                        [v = victim](const Exposure& e) { return e.victim == v; });
        if (worst == layout.exposure.pairs.end()) continue;
        Finding f = make("exposed/" + c.parts[victim].id, Level::Warn, tagOf(c.parts[victim]) + " picks up hum",
                         fmt::format("{:.1f} \u00b5T, {:.0f} dB above the limit for a quiet input; strongest source {} "
                                     "({:.0f} dB). Farther away, or that part turned, helps most.",
                                     tesla * 1e6, db, tagOf(c.parts[worst->source]), worst->db()));
        if (isLower(c.parts[worst->source].face) && !isLower(c.parts[victim].face))
            f.fix = quieterStorey(c, hum, victim);
        out.push_back(std::move(f));
    }
}

void plateRules(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    if (c.parts.empty()) return;
    const bool wood = c.form == ChassisForm::Board;
    const PlateFigures& bent = layout.mostBent();
    if (bent.rest.most > 0.5 * c.thickness || bent.carried.stress > (wood ? 10e6 : 60e6)) {
        Finding f = make(
            "sag", Level::Warn, "The top bends",
            fmt::format(
                "{} at rest, {} and {:.0f} MPa when carried, under {:.1f} kg. A rib under the iron, or thicker sheet.",
                mm(bent.rest.most), mm(bent.carried.most), bent.carried.stress * 1e-6, layout.mass));
        for (const double t : {1.0e-3, 1.5e-3, 2e-3, 2.5e-3, 3e-3, 4e-3, 5e-3, 9e-3, 12e-3, 15e-3, 18e-3, 21e-3, 25e-3})
            if (t > c.thickness * 1.01 && bent.rest.most * std::pow(c.thickness / t, 3) < 0.5 * t) { // w as 1 / t^3
                f.fix = setValue(fmt::format("use {:g} mm {}", t * 1e3, wood ? "plywood" : "sheet"),
                                 "/chassis/thickness", t);
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

void peopleRules(const Build& b, const LayoutFigures& layout, double volts, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    for (const PlacedPart& p : c.parts)
        if (p.liveAbove && isPlate(p.face) && (isLower(p.face) || c.cover == Cover::None) &&
            c.form != ChassisForm::Board)
            out.push_back(
                make("live-above/" + p.id, Level::Stop, tagOf(p) + " has live lugs where hands go",
                     fmt::format("Up to {} stand there, above the plate and without a cover. Cover it, choose a "
                                 "closed body, or mount it below.",
                                 format(volts, Unit::Volt))));
    if (c.cover == Cover::Cage)
        out.push_back(make("cage-earth", Level::Note, "The cage needs its own safety earth",
                           "It is metal around live parts, and paint under its screws insulates: a wire from it to the "
                           "earth bolt. Plug out, read less than 0.1 \u03a9 from its bars to the inlet's earth pin."));
    for (const NearIron& v : layout.nearIron) {
        if (v.apart > 0.07) continue;
        const PlacedPart& p = c.parts[v.socket];
        out.push_back(
            make("near-iron/" + p.id, Level::Note, tagOf(p) + " stands near iron on the same plate",
                 fmt::format("{:.0f} mm from {}, which hums at twice the mains. How much of it the plate carries to "
                             "the valve is not computed: tap the plate beside it with a pencil while you listen. If "
                             "the valve rings, "
                             "mount its socket on rubber or move it away.",
                             v.apart * 1e3, tagOf(c.parts[v.iron]))));
    }
}

/// What a chassis with mains in it has to have, and boards their sheet.
void fittingRules(const Build& b, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const auto find = [&](std::string_view kind) {
        return std::find_if(c.parts.begin(), c.parts.end(), [&](const PlacedPart& p) { return p.kind == kind; });
    };
    const auto inlet = find("inlet"), relief = find("relief"), transformer = find("transformer");
    if (transformer == c.parts.end()) return; // nothing of the mains stands here yet
    if (find("earth") == c.parts.end()) {
        Finding f = make(
            "no-earth-bolt", Level::Stop, "The safety earth has no bolt of its own",
            fmt::format("The metal would stand at up to {} if the mains touched it. A bolt near the inlet, scraped "
                        "bare, with a lock washer, first on and last off, shared with nothing.",
                        format(b.mains.volts, Unit::Volt)));
        if (inlet != c.parts.end()) {
            PlacedPart bolt = *makePart("earth-bolt");
            bolt.id = freshId(b, "p-earth1");
            bolt.of = "earth";
            bolt.face = inlet->face;
            bolt.y = inlet->y;
            const double side = inlet->x > frameOf(c, inlet->face).width / 2 ? -1 : 1;
            bolt.x = inlet->x + side * 0.045;
            f.fix = insertAt("a bolt for the safety earth", "/chassis/parts/-", bolt);
        }
        out.push_back(std::move(f));
    }
    if (inlet == c.parts.end() && relief == c.parts.end()) {
        Finding f = make("no-strain-relief", Level::Warn, "The mains lead has no strain relief",
                         "Neither an inlet nor a strain relief is placed: a pull on the lead would load the soldered "
                         "joints.");
        PlacedPart gland = *makePart("strain-relief");
        gland.id = freshId(b, "p-relief1");
        gland.x = 0.03;
        gland.y = c.height / 2;
        f.fix = insertAt("a strain relief in the back", "/chassis/parts/-", gland);
        out.push_back(std::move(f));
    }
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (p.kind != "board" || p.body.find("turret") == std::string::npos) continue;
        if (std::any_of(p.bodies.begin(), p.bodies.end(), [](const Body& body) { return body.id == "sheet"; }))
            continue;
        const auto board =
            std::find_if(p.bodies.begin(), p.bodies.end(), [](const Body& body) { return body.id == "board"; });
        Finding f = make(
            "no-sheet/" + p.id, Level::Warn, tagOf(p) + " has no insulating sheet behind it",
            fmt::format("Turrets and their leads face the metal at {}; a sheet 2 mm larger all round keeps them off.",
                        format(400.0, Unit::Volt)));
        if (board != p.bodies.end())
            f.fix = insertAt("a sheet behind " + tagOf(p), fmt::format("/chassis/parts/{}/bodies/-", k),
                             Body{{},
                                  "sheet",
                                  BodyShape::Box,
                                  board->x,
                                  board->y,
                                  board->width + 4e-3,
                                  board->depth + 4e-3,
                                  -2e-3,
                                  1e-3});
        out.push_back(std::move(f));
    }
}

void socketRules(const Build& b, const Catalogue& catalogue, std::vector<Finding>& out) {
    for (const PinView& v : pinViews(b, catalogue)) {
        const PlacedPart& p = b.chassis.parts[v.part];
        if (v.heaterOff + v.gridOff < v.bestHeaterOff + v.bestGridOff + 90) continue;
        Finding f = make(
            "pins/" + p.id, Level::Note, tagOf(p) + "'s socket is turned the long way",
            fmt::format("Its grid pin points {:.0f}\u00b0 away from {}, its heater pins {:.0f}\u00b0 away from the "
                        "nearest edge; pin 1 at {:g}\u00b0 makes that {:.0f}\u00b0 and {:.0f}\u00b0.",
                        v.gridOff, v.driver, v.heaterOff, v.pinOne, v.bestGridOff, v.bestHeaterOff));
        f.fix = setValue(fmt::format("turn the socket of {} to {:g}\u00b0", tagOf(p), v.pinOne),
                         fmt::format("/chassis/parts/{}/pinOne", v.part), v.pinOne);
        out.push_back(std::move(f));
    }
}

/// Glass that nothing covers, where a child's hand comes: its heat by radiation and air, 12 W/m2K, over the glass.
void glassRule(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const bool covered = c.lid > 0 || c.cover != Cover::None; // a cabinet or a cage keeps hands away from the top
    const PlacedPart* worst = nullptr;
    double hottest = 0;
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (p.kind != "socket" || !isPlate(p.face) || p.bodies.size() < 2) continue;
        if (covered && !isLower(p.face)) continue;
        const chassis::Solid& glass = layout.assembly.bodies[layout.assembly.of[k].back()].solid;
        const double area = std::numbers::pi * 2 * glass.half.x() * 2 * glass.half.z();
        const double rise = (1 - shareToTop(c, p)) * layout.partWatts[k] / (12 * std::max(1e-4, area));
        if (rise <= hottest) continue;
        hottest = rise;
        worst = &p;
    }
    const double bulb = celsius(c.ambient) + hottest;
    if (!worst || bulb < 70) return; // EN 563: glass of 70 degrees burns within a few seconds
    Finding f =
        make("hot-glass", Level::Note, "Hot glass stands open",
             fmt::format("{}'s bulb reaches about {:.0f} \u00b0C; 70 \u00b0C burns within seconds. Where children "
                         "or guests come near, a cage or a cabinet belongs over the valves.",
                         tagOf(*worst), bulb));
    if (!isLower(worst->face)) f.fix = setText("a cage over the top", "/chassis/cover", "cage");
    out.push_back(std::move(f));
}

} // namespace

void chassisRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.layout || f.layout->assembly.of.size() != b.chassis.parts.size()) return;
    const double volts = liveVolts(f);
    fitRules(b, *f.layout, volts, out);
    heatRules(b, *f.layout, out);
    fieldRules(b, f, *f.layout, out);
    plateRules(b, *f.layout, out);
    peopleRules(b, *f.layout, volts, out);
    fittingRules(b, out);
    socketRules(b, catalogue, out);
    glassRule(b, *f.layout, out);
}

} // namespace ember::rules
