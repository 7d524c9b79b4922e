#include "own_types.h"

#include "flat.h"

#include "core/catalogue/fit.h"
#include "core/catalogue/grid_current.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <memory>
#include <mutex>

namespace ember {

namespace {

constexpr double cutoffShare = 0.02;                       // of the most current: below it a point is one of cut-off
constexpr double usualGm = 2.5e-3;                         // [A/V] where no point has one
constexpr std::size_t fewestLeftOut = 3, mostLeftOut = 12; // points of which each is left out in turn

/// Warm-up and pins of a type of the same make, or what is usual.
ValveType likeness(const OwnType& own) {
    ValveType out;
    if (const ValveType* as = Catalogue::shipped().valve(own.pinsAs)) {
        out.base = as->base;
        out.heaterPins = as->heaterPins;
        for (int k = 1; k <= own.sections; ++k) {
            TypeSection s;
            if (k <= as->sections()) s.pins = as->section(k).pins;
            out.halves.push_back(std::move(s));
        }
    }
    out.halves.resize(static_cast<std::size_t>(own.sections));
    out.heater = {own.heaterVolts, own.heaterAmps, own.directlyHeated, own.directlyHeated ? 1.5 : 11.0};
    return out;
}

} // namespace

std::optional<Problem> problemOf(const OwnType& own) {
    if (own.id.empty()) return Problem{"", "the type has no name yet"};
    if (Catalogue::shipped().valve(own.id))
        return Problem{"", fmt::format("the catalogue has {} already; a type of your own needs another name", own.id)};
    if (!own.pinsAs.empty() && !Catalogue::shipped().valve(own.pinsAs))
        return Problem{"", fmt::format("pins as of {}: the catalogue has no such valve", own.pinsAs)};
    bool any = false;
    for (std::size_t k = 0; k < own.points.size(); ++k) {
        const SheetPoint& p = own.points[k];
        if (!(p.plate > 0)) return Problem{"", fmt::format("point {}: its plate volts are missing", k + 1)};
        if (own.kind == ValveKind::Pentode && !(p.screen > 0))
            return Problem{"", fmt::format("point {}: a pentode's point needs its screen volts", k + 1)};
        any = any || p.plateAmps > 0;
    }
    if (!any) return Problem{"", "one point with its plate current is the least that a law can be fitted to"};
    return std::nullopt;
}

PublishedData sheetOf(const OwnType& own) {
    double most = 0;
    for (const SheetPoint& p : own.points) most = std::max(most, p.plateAmps);
    PublishedData out;
    for (const SheetPoint& p : own.points) {
        PublishedPoint x;
        x.plate = p.plate, x.screen = p.screen, x.grid = p.grid;
        x.plateAmps = p.plateAmps, x.screenAmps = p.screenAmps, x.gm = p.gm, x.mu = p.mu, x.rp = p.rp;
        x.cutoff = p.plateAmps > 0 && p.plateAmps < cutoffShare * most && p.grid < 0;
        x.source = own.source;
        out.points.push_back(std::move(x));
    }
    return out;
}

std::vector<SheetPoint> sheetPoints(const PublishedData& data) {
    std::vector<SheetPoint> out;
    const std::size_t each = (data.points.size() + mostSheetPoints - 1) / mostSheetPoints;
    for (std::size_t k = 0; k < data.points.size(); k += std::max<std::size_t>(1, each)) {
        const PublishedPoint& p = data.points[k];
        SheetPoint s;
        s.plate = p.plate, s.screen = p.strapped ? p.plate : p.screen, s.grid = p.grid;
        s.plateAmps = p.plateAmps, s.screenAmps = p.screenAmps, s.gm = p.gm, s.mu = p.mu, s.rp = p.rp;
        out.push_back(std::move(s));
    }
    return out;
}

Expected<ValveType> valveTypeOf(const OwnType& own) {
    if (auto problem = problemOf(own)) return *problem;
    ValveType out = likeness(own);
    out.type = own.id;
    out.names = {own.id};
    out.note = own.source;
    const bool pentode = own.kind == ValveKind::Pentode;
    const PublishedData data = sheetOf(own);
    circuit::PortLaw start = pentode ? circuit::PortLaw(circuit::PentodeLaw{}) : circuit::TriodeLaw{};
    double gm = 0;
    for (const SheetPoint& p : own.points) gm = std::max(gm, p.gm);
    for (TypeSection& s : out.halves) s.limits.plateWatts = own.plateWatts;
    circuit::GridLaw grid = typicalGrid(out, 1, typicalGridPerveance(gm > 0 ? gm : usualGm));
    if (own.gridOnset < 0) grid.onset = own.gridOnset;
    std::visit(
        [&](auto& law) {
            if constexpr (requires { law.grid; }) law.grid = grid;
        },
        start);
    const circuit::PortLaw law = fitLaw(start, data);
    const std::size_t full = data.points.size();
    const FitError error = errorOf(law, data, full >= fewestLeftOut && full <= mostLeftOut);
    for (TypeSection& s : out.halves) {
        s.pentode = pentode;
        s.law = law;
        s.published = data;
        s.fit = error;
        s.limits.plateWatts = own.plateWatts, s.limits.screenWatts = own.screenWatts;
        s.limits.plateVolts = own.plateVolts, s.limits.screenVolts = own.screenVolts;
        s.limits.cathodeAmps = own.cathodeAmps, s.limits.heaterCathodeVolts = own.heaterCathodeVolts;
        s.limits.system = own.system;
        s.limits.gridLeakOhms = s.limits.gridLeakOhmsSelfBias = own.gridLeakOhms;
        s.gridPlate = own.gridPlate, s.gridCathode = own.gridCathode, s.plateCathode = own.plateCathode;
    }
    return out;
}

const Catalogue& catalogueOf(const Build& b) {
    if (b.types.empty()) return Catalogue::shipped();
    static std::mutex guard;
    static std::map<std::string, std::unique_ptr<const Catalogue>> kept;
    const std::lock_guard lock(guard);
    auto& one = kept[flat(b.types)];
    if (!one) {
        Catalogue all = Catalogue::shipped();
        for (std::size_t k = b.types.size(); k-- > 0;)
            if (auto type = valveTypeOf(b.types[k])) all.valves.insert(all.valves.begin(), std::move(*type));
        one = std::make_unique<const Catalogue>(std::move(all));
    }
    return *one;
}

const OwnType* ownTypeOf(const Build& b, std::string_view name) {
    const auto at = std::find_if(b.types.begin(), b.types.end(), [&](const OwnType& t) { return t.id == name; });
    return at == b.types.end() ? nullptr : &*at;
}

Edit keepOwnType(const Build& b, const OwnType& type, const std::string& before) {
    const OwnType* old = before.empty() ? nullptr : ownTypeOf(b, before);
    std::vector<Edit> edits;
    if (!old) {
        edits.push_back(insertAt("", "/types/-", type));
    } else {
        const auto at = fmt::format("/types/{}", old - b.types.data());
        edits.push_back(removeAt("", at));
        edits.push_back(insertAt("", at, type));
        for (const auto& [list, all] : {std::pair("bottles", &b.bottles), {"spares", &b.spares}})
            for (std::size_t k = 0; k < all->size(); ++k)
                if ((*all)[k].type == before)
                    edits.push_back(setText("", fmt::format("/{}/{}/type", list, k), type.id));
    }
    return together(fmt::format("{}, a type of your own", type.id), edits);
}

Edit removeOwnType(const Build& b, const std::string& id) {
    const OwnType* own = ownTypeOf(b, id);
    const auto at =
        own ? own - b.types.data() : static_cast<std::ptrdiff_t>(b.types.size()); // no such entry: the edit is refused
    return removeAt(fmt::format("{} away", id), fmt::format("/types/{}", at));
}

} // namespace ember
