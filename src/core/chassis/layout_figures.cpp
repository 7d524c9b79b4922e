#include "layout_figures.h"

#include "bodies.h"
#include "finishes.h"

#include "core/build/path.h"
#include "core/plan/choke_flux.h"
#include "core/plan/mains_iron.h"
#include "core/plan/steady.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace ember::chassis {

namespace {

constexpr double carryingFactor = 2.5;

double valveHeat(const Build& b, const Catalogue& catalogue, const plan::Steady& s, const std::string& id) {
    const auto heater = [&](const std::string& type) {
        if (const ValveType* v = catalogue.valve(type)) return v->heater.volts * v->heater.amps;
        if (const RectifierType* r = catalogue.rectifier(type))
            return r->vacuum ? r->heater.volts * r->heater.amps : 0.0;
        return 0.0;
    };
    if (id == b.supply.rectifier.id) {
        return heater(b.supply.rectifier.type) + (std::isfinite(s.rectifierWatts) ? s.rectifierWatts : 0);
    }
    const Valve* bottle = bottleOf(b, id);
    if (!bottle) return std::numeric_limits<double>::quiet_NaN();
    double watts = heater(bottle->type);
    for (const plan::ChannelPoint& p : s.channels)
        for (const plan::ValvePoint& v : p.valves)
            if (b.bottles[v.bottle].id == id) watts += v.plateWatts() + v.screenWatts();
    return watts;
}

/// The power transformer's own temperature: what it does not give to the air by its sides and top goes through its
/// mounting into the sheet, which others warm too. Copper warms, and loses more: settled by repetition.
MainsIronHeat ironHeat(const Build& b, const plan::Steady& s, const PlacedPart& p, double plateAlone, double plate,
                       double inPlate) {
    constexpr double mounting = 0.5; // [K/W] of four bolts and a painted seat
    const plan::MainsIron iron = plan::mainsIron(b, s);
    const double side = std::cbrt(ironMass(p.voltAmperes) / 5000), ambient = b.chassis.ambient;
    const double air = ironFilm(b.chassis.ironFinish, b.chassis) * 5 * side * side; // [W/K]
    const double spread = inPlate > 0 ? (plate - plateAlone) / inPlate : 0, seat = 1 / (mounting + spread);
    MainsIronHeat out;
    out.kelvin = ambient;
    for (int pass = 0; pass < 20; ++pass) {
        out.copperWatts = iron.copperWatts * (1 + plan::copperPerKelvin * (out.kelvin - plan::ohmsTakenAt));
        out.coreWatts = iron.coreWatts;
        out.kelvin = (out.copperWatts + out.coreWatts + p.heat + air * ambient + seat * plateAlone) / (air + seat);
    }
    return out;
}

double heaterBoardHeat(const plan::HeaterFeedFigures& f) {
    const auto known = [](double watts) { return std::isfinite(watts) ? watts : 0; };
    return known(f.regulatorWatts) + known(f.boardWatts);
}

} // namespace

double shareToTop(const Chassis& c, const PlacedPart& p) {
    const bool iron = isIron(p);
    if (c.form == ChassisForm::Board) return sunkBy(c, p) < 0 ? 0.05 : iron ? 0.2 : 0.3; // wood takes little
    if (iron) return 0.7;
    return p.kind == "socket" ? 0.25 : 0.6;
}

double heatOf(const Build& b, const Catalogue& catalogue, const plan::Figures& figures, const PlacedPart& p) {
    if (!figures.nominal || p.of.empty()) return p.heat;
    const plan::Steady& s = *figures.nominal;
    if (p.of == b.transformer.id) {
        const plan::MainsIron iron = plan::mainsIron(b, s);
        return p.heat + iron.coreWatts + iron.copperWatts;
    }
    if (const auto feed = s.heaterFeeds.find(p.of); feed != s.heaterFeeds.end())
        return p.heat + heaterBoardHeat(feed->second);
    const double valve = valveHeat(b, catalogue, s, p.of);
    if (std::isfinite(valve)) return p.heat + valve;
    const auto part = s.partWatts.find(p.of);
    return p.heat + (part == s.partWatts.end() || !std::isfinite(part->second) ? 0 : part->second);
}

std::vector<HeatSource> heatSources(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                                    Face plate, const std::string& without) {
    constexpr double rising = 0.5; // of what lower parts do not give to their own plate
    std::vector<HeatSource> sources;
    const Chassis& c = b.chassis;
    for (const PlacedPart& p : c.parts) {
        if (!without.empty() && p.of == without) continue;
        const bool below = plate == Face::Top && p.face == Face::LowerTop;
        if (p.face != plate && !below) continue;
        const double watts = heatOf(b, catalogue, figures, p), own = shareToTop(c, p), wider = c.storey / 4;
        const Footprint f = footprint(p);
        if (below)
            sources.push_back(
                {{f.left - wider, f.right + wider, f.near - wider, f.far + wider}, rising * (1 - own) * watts});
        else
            sources.push_back({f, own * watts});
    }
    return sources;
}

double heatInside(const Build& b, const Catalogue& catalogue, const plan::Figures& figures, Face plate) {
    double watts = 0;
    for (const PlacedPart& p : b.chassis.parts) // sockets and iron on the plate give the rest to the air above
        if (isLower(p.face) == isLower(plate) && !isIron(p) && p.kind != "socket")
            watts += (isPlate(p.face) ? 1 - shareToTop(b.chassis, p) : 1) * heatOf(b, catalogue, figures, p);
    return watts;
}

double LayoutFigures::hottest() const {
    return std::max(plates[0].hottest, plates[1].hottest);
}

const PlateFigures& LayoutFigures::mostBent() const {
    return plates[plates[1].carried.most > plates[0].carried.most ? 1 : 0];
}

Hum humOf(const Build& b, const plan::Figures& figures) {
    Hum hum{{b.transformer.id}, {}, b.supply.rectifier.id, {}};
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Choke) continue;
        hum.iron.push_back(s.id);
        if (figures.nominal) hum.shares[s.id] = plan::gapLeak * plan::alternatingShare(b, *figures.nominal, k);
    }
    for (const Channel& ch : b.channels)
        for (const std::string& id : schematic::smallBottles(ch))
            if (std::find(hum.smallValves.begin(), hum.smallValves.end(), id) == hum.smallValves.end())
                hum.smallValves.push_back(id);
    return hum;
}

double liveVolts(const plan::Figures& f) {
    return f.cold && !f.cold->nodes.empty() ? f.cold->nodes[0].most : 400;
}

std::string otherChannels(const Build& b, const std::string& id) {
    if (b.channels.size() != 2 || id.empty()) return {};
    const auto duties = [](const Channel& ch) {
        std::vector<std::string> out = bottlesOf(ch);
        for (const std::string& iron : schematic::signalIron(ch)) out.push_back(iron);
        out.push_back("input-" + ch.id);
        out.push_back("output-" + ch.id);
        return out;
    };
    const auto one = duties(b.channels[0]), two = duties(b.channels[1]);
    if (one.size() != two.size()) return {};
    for (std::size_t k = 0; k < one.size(); ++k) {
        if (one[k] == id) return two[k];
        if (two[k] == id) return one[k];
    }
    return {};
}

std::vector<std::size_t> signalPath(const Build& b, std::size_t channel) {
    std::vector<std::size_t> out;
    const Channel& ch = b.channels[channel];
    const auto add = [&](const std::string& of) {
        for (std::size_t k = 0; k < b.chassis.parts.size(); ++k)
            if (b.chassis.parts[k].of == of) {
                out.push_back(k);
                return;
            }
    };
    add("input-" + ch.id);
    for (const std::string& id : bottlesOf(ch)) add(id);
    for (const std::string& iron : schematic::signalIron(ch)) add(iron);
    add("output-" + ch.id);
    return out;
}

LayoutFigures LayoutSolver::solve(const Build& b, const Catalogue& catalogue, const plan::Figures& figures) {
    const Chassis& c = b.chassis;
    LayoutFigures f;
    f.assembly = assemble(c);
    f.dipoles = dipolesOf(c, f.assembly);
    const double volts = liveVolts(figures);
    f.fit = checkFit(c, f.assembly, volts);
    f.room = roomOf(c, f.assembly);
    const Hum& hum = f.hum = humOf(b, figures);
    f.exposure = exposures(c, f.dipoles, hum);
    for (std::size_t i = 0; i < f.dipoles.size(); ++i)
        for (std::size_t j = i + 1; j < f.dipoles.size(); ++j) {
            const Dipole &x = f.dipoles[i], &y = f.dipoles[j];
            const Vector normal = frameOf(c, c.parts[y.part]).axes.col(2);
            CouplingFigures pair{x.part, y.part, couplingDb(x, y), bestAngle(x, y, normal)};
            const double share = std::min(hum.shareOf(c.parts[x.part].of), hum.shareOf(c.parts[y.part].of)),
                         quieter = 20 * std::log10(std::max(1e-6, share));
            pair.db += quieter, pair.best.db += quieter;
            f.couplings.push_back(pair);
        }
    std::sort(f.couplings.begin(), f.couplings.end(),
              [](const CouplingFigures& x, const CouplingFigures& y) { return x.db > y.db; });

    std::array<std::vector<PlateLoad>, 2> loads;
    for (const FinishPart& x : finishesOf(c, f.assembly)) {
        f.mass += x.mass;
        f.massCentre += x.mass * Vector(c.width / 2, c.depth / 2, x.height);
    }
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        const double watts = heatOf(b, catalogue, figures, p);
        f.partWatts.push_back(watts);
        f.mass += p.mass;
        f.massCentre += p.mass * f.assembly.centres[k];
        if (isPlate(p.face)) loads[isLower(p.face) ? 1 : 0].push_back({footprint(p), p.mass * gravity});
    }
    f.massCentre /= std::max(1e-9, f.mass);
    if (!sheet || !sheet->fits(c)) sheet = std::make_shared<HeatSheet>(c);
    for (std::size_t k = 0; k < (isTower(c) ? plateFaces.size() : 1); ++k) {
        PlateFigures& plate = f.plates[k];
        const auto sources = heatSources(b, catalogue, figures, plateFaces[k]);
        const double inside = heatInside(b, catalogue, figures, plateFaces[k]);
        plate.kelvin = sheet->solve(sources, inside);
        plate.inside = c.ambient + sheet->insideRise(sources, inside);
        plate.columns = sheet->columns();
        plate.rows = sheet->rows();
        plate.hottest = *std::max_element(plate.kelvin.begin(), plate.kelvin.end());
        plate.rest = bend(c, loads[k]);
        plate.carried = bend(c, loads[k], carryingFactor);
    }
    for (const PlacedPart& p : c.parts)
        f.partKelvin.push_back(isPlate(p.face) ? sheet->at(f.plate(p.face).kelvin, p.x, p.y)
                                               : std::numeric_limits<double>::quiet_NaN());
    if (figures.nominal)
        for (std::size_t k = 0; k < c.parts.size(); ++k) {
            const PlacedPart& p = c.parts[k];
            if (p.of != b.transformer.id || !isPlate(p.face) || !(p.voltAmperes > 0)) continue;
            const double alone = sheet->at(sheet->solve(heatSources(b, catalogue, figures, p.face, p.of),
                                                        heatInside(b, catalogue, figures, p.face)),
                                           p.x, p.y);
            f.mainsIron = ironHeat(b, *figures.nominal, p, alone, f.partKelvin[k], f.partWatts[k] * shareToTop(c, p));
        }
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (p.kind != "socket" || !isPlate(p.face) ||
            std::find(hum.smallValves.begin(), hum.smallValves.end(), p.of) == hum.smallValves.end())
            continue;
        NearIron nearest{k, k, 1e9};
        for (const Dipole& d : f.dipoles) {
            if (std::find(hum.iron.begin(), hum.iron.end(), c.parts[d.part].of) == hum.iron.end()) continue;
            if (c.parts[d.part].face != p.face) continue; // bolted to another plate
            const double apart = (f.assembly.centres[d.part] - f.assembly.centres[k]).head<2>().norm();
            if (apart < nearest.apart) nearest = {k, d.part, apart};
        }
        if (nearest.iron != k) f.nearIron.push_back(nearest);
    }
    std::sort(f.nearIron.begin(), f.nearIron.end(),
              [](const NearIron& x, const NearIron& y) { return x.apart < y.apart; });
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        double length = 0;
        const auto path = signalPath(b, k);
        for (std::size_t n = 1; n < path.size(); ++n)
            length += (f.assembly.centres[path[n]] - f.assembly.centres[path[n - 1]]).norm();
        f.signalLength = std::max(f.signalLength, length);
    }
    return f;
}

} // namespace ember::chassis
