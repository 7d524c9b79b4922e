#include "leads.h"

#include "core/build/own_types.h"
#include "core/schematic/path_schematic.h"
#include "core/wires/terminals.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::procedure {

using namespace schematic;

namespace {

class Ends {
  public:
    Ends(const Build& build, const WholeAmplifier& amplifier) : b(build), whole(amplifier), s(amplifier.schematic) {}

    [[nodiscard]] LeadEnd pin(std::string_view part, std::string_view name) const {
        const auto id = s.find(part);
        return id ? pin(*id, [&](const Pin& p) { return p.name == name; }) : LeadEnd{};
    }
    /// A valve's pin by its number on the base.
    [[nodiscard]] LeadEnd numbered(std::string_view valve, const std::vector<int>& numbers) const {
        const auto id = s.find(valve);
        if (!id || numbers.empty()) return {};
        return pin(*id, [&](const Pin& p) { return p.number == numbers.front(); });
    }
    /// The first pin on a net, of parts that serve the first of `wanted` that is there.
    [[nodiscard]] LeadEnd on(const std::string& net, std::initializer_list<Serves> wanted) const {
        for (const Serves serves : wanted)
            for (std::size_t k = 0; k < s.parts().size(); ++k) {
                const PartId id{static_cast<int>(k)};
                if (whole.of(id) != serves) continue;
                const LeadEnd end = pin(id, [&](const Pin& p) { return p.net.index >= 0 && s[p.net].name == net; });
                if (end.known()) return end;
            }
        return {};
    }
    [[nodiscard]] LeadEnd rectifier(std::string_view name) const {
        for (std::size_t k = 0; k < s.parts().size(); ++k) {
            const PartId id{static_cast<int>(k)};
            if (whole.of(id) != Serves::Rectifier) continue;
            const LeadEnd end = pin(id, [&](const Pin& p) { return p.name == name; });
            if (end.known()) return end;
        }
        return {};
    }
    [[nodiscard]] LeadEnd iron(std::string_view name) const {
        for (std::size_t k = 0; k < s.parts().size(); ++k)
            if (const PartId id{static_cast<int>(k)}; whole.of(id) == Serves::PowerTransformer)
                return pin(id, [&](const Pin& p) { return p.name == name; });
        return {};
    }
    /// The plus end of the capacitor at a supply node; without one what else meets there.
    [[nodiscard]] LeadEnd node(std::size_t n) const {
        return on(nodeNet(static_cast<int>(n)), {Serves::SupplyCapacitor, Serves::Chain, Serves::Rectifier});
    }
    [[nodiscard]] LeadEnd ground() const {
        for (const PartId reservoir : whole.reservoirs)
            if (reservoir.index >= 0) return pin(reservoir, [](const Pin& p) { return p.name == "-"; });
        return {.pin = {}, .metal = true};
    }
    /// A capacitor, or a string of them from its first plus to its last minus.
    [[nodiscard]] Leads across(const std::string& capacitor, bool plusIsGround) const {
        std::string first = capacitor, last = capacitor;
        if (!s.find(capacitor)) {
            first = capacitor + ".1";
            for (int k = 1; s.find(fmt::format("{}.{}", capacitor, k)); ++k) last = fmt::format("{}.{}", capacitor, k);
        }
        const LeadEnd plus = pin(first, "+"), minus = pin(last, "-");
        return plusIsGround ? Leads{plus, minus} : Leads{minus, plus};
    }
    /// The HV winding at the rectifier, by what is read of it.
    [[nodiscard]] Leads winding(WindingPart part) const {
        const LeadEnd one = rectifier("plate 1"), other = rectifier("plate 2");
        switch (b.supply.connection) {
        case Connection::CentreTapped:
            if (part == WindingPart::Ends) return {one, other};
            return {iron("centre"), part == WindingPart::LegA ? one : other};
        case Connection::Bridge:
        case Connection::HybridBridge: return {one, other};
        case Connection::HalfWave:
        case Connection::Doubler: break;
        }
        return {iron("plate b"), rectifier("plate")};
    }
    [[nodiscard]] Leads valve(const TestPoint& point, LeadEnd common) const {
        const auto& bottle = b.bottles[point.index];
        const ValveType* type = catalogueOf(b).valve(bottle.type);
        if (!type) return {common, {}};
        const ElectrodePins& pins = type->section(point.section).pins;
        const bool grid = point.kind == PointKind::Grid || point.kind == PointKind::GridOhms,
                   plate = point.kind == PointKind::Plate;
        return {common, numbered(bottle.id, grid ? pins.grid : plate ? pins.plate : pins.cathode)};
    }

  private:
    template <typename Wanted>
    [[nodiscard]] LeadEnd pin(PartId id, Wanted wanted) const {
        const auto& pins = s[id].pins;
        const auto at = std::find_if(pins.begin(), pins.end(), wanted);
        return at == pins.end() ? LeadEnd{} : LeadEnd{{id, static_cast<int>(at - pins.begin())}, false};
    }
    const Build& b;
    const WholeAmplifier& whole;
    const Schematic& s;
};

} // namespace

Leads leadsOf(const Build& b, const WholeAmplifier& whole, const TestPoint& point) {
    const Ends ends(b, whole);
    const auto part = static_cast<WindingPart>(point.index);
    constexpr LeadEnd metal{.pin = {}, .metal = true};
    switch (point.kind) {
    case PointKind::Earth: return {ends.pin(inletPart, "E"), metal};
    case PointKind::LineChassis: return {metal, ends.pin(inletPart, "L")};
    case PointKind::NeutralChassis: return {metal, ends.pin(inletPart, "N")};
    case PointKind::PrimaryOhms: return {ends.pin(inletPart, "N"), ends.pin(inletPart, "L")};
    case PointKind::PrimarySecondary: return {ends.pin(inletPart, "L"), ends.winding(WindingPart::LegA).red};
    case PointKind::LegOhms:
    case PointKind::LegVolts: return ends.winding(part);
    case PointKind::WindingChassis: return {metal, ends.winding(WindingPart::LegA).red};
    case PointKind::RailOhms: return {metal, ends.node(1)};
    case PointKind::HeaterChassis:
    case PointKind::HeaterVolts: {
        const HeaterWinding& h = b.transformer.heaters[point.index];
        const auto end = [&](char side) {
            return ends.on(heaterNet(h.id, side), {Serves::PowerTransformer, Serves::HeaterSupply, Serves::Rectifier});
        };
        const LeadEnd minus = end('b');
        return point.kind == PointKind::HeaterChassis ? Leads{metal, minus} : Leads{minus, end('a')};
    }
    case PointKind::LoadOhms:
    case PointKind::Hum: {
        const std::string terminals = outputPart(b.channels[point.index]);
        return {ends.pin(terminals, "-"), ends.pin(terminals, "+")};
    }
    case PointKind::Held: return ends.across(point.part, point.section == 0);
    case PointKind::StringVolts: return ends.across(fmt::format("{}.{}", point.part, point.section), false);
    case PointKind::Node: return {ends.ground(), ends.node(point.index)};
    case PointKind::Ripple: return {ends.ground(), ends.node(1)};
    case PointKind::GridOhms:
    case PointKind::CathodeOhms: return ends.valve(point, metal);
    case PointKind::Grid:
    case PointKind::Plate:
    case PointKind::Cathode:
    case PointKind::Sense: return ends.valve(point, ends.ground());
    }
    return {};
}

std::string spokenEnd(const WholeAmplifier& whole, const LeadEnd& end) {
    if (end.metal) return "bare metal";
    if (!end.known()) return "pin not known";
    const Part& part = whole.schematic[end.pin.part];
    const Pin& pin = part.pins[static_cast<std::size_t>(end.pin.pin)];
    const std::string said = wires::spoken(wires::terminalName(part, pin));
    if (pin.number > 0) return said + ", " + pin.name;
    return pin.stands > 0 ? fmt::format("{}, pin {}", said, pin.stands) : said;
}

} // namespace ember::procedure
