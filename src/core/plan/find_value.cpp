#include "find_value.h"

#include "pin_figures.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/quantity/letters.h"
#include "core/schematic/stage_edits.h"

#include <fmt/format.h>

#include <array>
#include <cmath>

namespace ember::plan {

namespace {

/// One search: the numbers that are set together, and the figure that is read.
class Search {
  public:
    Search(const Build& b, const Catalogue& c, const ValueAsked& a, const Place& p, std::stop_token s)
        : build(b),
          catalogue(c),
          asked(a),
          place(p),
          stop(std::move(s)),
          edit(schematic::followed(b, setValue("", a.pointer, p.value))) {
        for (const Json& step : *edit.patch) pointers.push_back(step.at("path").get<std::string>());
    }

    [[nodiscard]] Build with(double value) const {
        Build b = build;
        for (const std::string& p : pointers) (void)setNumber(b, p, value);
        return b;
    }
    /// The figure minus the target; unknown where it cannot be solved.
    double off(double value) {
        const auto all = soughtFigures(with(value), catalogue, asked.group, asked.mainsVolts, stop, &warm);
        if (!all) {
            why = all.problem();
            return unknown;
        }
        for (const SoughtFigure& f : *all)
            if (f.figure.id == asked.figure) {
                unit = f.figure.unit;
                return f.figure.value - asked.wanted;
            }
        why = Problem{asked.figure, "there is no figure of this name"};
        return unknown;
    }
    Problem why;            ///< of the last that was not solved
    Unit unit = Unit::None; ///< of the figure
    std::vector<std::string> pointers;

    const Build& build;
    const Catalogue& catalogue;
    const ValueAsked& asked;
    const Place place;
    const std::stop_token stop;

  private:
    Edit edit;
    WarmStart warm;
};

/// A value as the search goes: resistances by their logarithm, shares of a travel as they are.
struct Scale {
    bool log;
    [[nodiscard]] double to(double value) const { return log ? std::log(value) : value; }
    [[nodiscard]] double from(double x) const { return log ? std::exp(x) : x; }
};

struct Bracket {
    double a, fa, z, fz;
};

/// Outwards from the present value, a step each way in turn.
Expected<Bracket> bracket(Search& s, const Scale& scale) {
    constexpr int most = 18;
    const Range& range = s.place.range;
    const double step = scale.log ? std::log(1.5) : (range.most - range.least) / most, x0 = scale.to(s.place.value);
    const double low = scale.log ? std::log(std::max(range.least, 1e-15)) : range.least, high = scale.to(range.most);
    const double f0 = s.off(s.place.value);
    struct Side {
        double x, f;
        bool open = true;
    };
    Side up{x0, f0}, down{x0, f0};
    double least = f0, greatest = f0;
    for (int k = 0; k < most && (up.open || down.open); ++k)
        for (Side* side : {&down, &up}) {
            if (!side->open || s.stop.stop_requested()) continue;
            const double x = std::clamp(side->x + (side == &up ? step : -step), low, high);
            side->open = x != side->x;
            if (!side->open) continue;
            const double f = s.off(scale.from(x));
            if (std::isfinite(f) && std::isfinite(side->f) && f * side->f <= 0)
                return x < side->x ? Bracket{x, f, side->x, side->f} : Bracket{side->x, side->f, x, f};
            if (!std::isfinite(f) && std::isfinite(side->f)) side->open = false; // it leaves what can be solved
            least = std::isfinite(least) ? std::fmin(least, f) : f;
            greatest = std::isfinite(greatest) ? std::fmax(greatest, f) : f;
            side->x = x, side->f = f;
        }
    if (s.stop.stop_requested()) return Problem{"", "cancelled"};
    if (!std::isfinite(least)) return s.why.sentence.empty() ? Problem{s.asked.figure, "it cannot be computed"} : s.why;
    return Problem{s.asked.pointer, fmt::format("no value gives {}: from {} to {} is what this part can do",
                                                format(s.asked.wanted, s.unit), format(least + s.asked.wanted, s.unit),
                                                format(greatest + s.asked.wanted, s.unit))};
}

Expected<double> narrowed(Search& s, const Scale& scale, Bracket b) {
    int side = 0;
    for (int k = 0; k < 60 && b.z - b.a > 1e-7; ++k) {
        const double x = (b.fa * b.z - b.fz * b.a) / (b.fa - b.fz), f = s.off(scale.from(x));
        if (!std::isfinite(f)) return s.why;
        if (std::abs(f) < 1e-5 * std::abs(s.asked.wanted)) return scale.from(x);
        if ((f > 0) == (b.fz > 0)) {
            b.z = x, b.fz = f;
            if (side == -1) b.fa /= 2;
            side = -1;
        } else {
            b.a = x, b.fa = f;
            if (side == 1) b.fz /= 2;
            side = 1;
        }
    }
    return scale.from((b.a + b.z) / 2);
}

/// The object that a number stands in, and its key.
std::pair<std::string, std::string> apart(const std::string& pointer) {
    const auto slash = pointer.rfind('/');
    return {pointer.substr(0, slash), pointer.substr(slash + 1)};
}

std::string idAt(const Build& b, const std::string& pointer) {
    for (const ValueChoice& c : valueChoices(b))
        if (c.pointer == pointer) return c.part;
    return apart(pointer).second;
}

double standard(double value, const Place& place, const ValueAsked& asked, bool up) {
    std::optional<Series> series = asked.series;
    if (!series && place.unit == Unit::Ohm) series = Series::E12;
    if (!series && place.unit == Unit::Farad) series = Series::E6;
    if (series) return up ? nextUp(value, *series) : nextDown(value, *series);
    const double unit = std::pow(10, std::floor(std::log10(std::abs(value))) - 1);
    return std::clamp((up ? std::ceil(value / unit) : std::floor(value / unit)) * unit, place.range.least,
                      place.range.most);
}

ValueStep stepOf(Search& s, const std::string& part, double value) {
    ValueStep step;
    step.value = value;
    step.figure = s.off(value) + s.asked.wanted;
    std::string name = fmt::format("{} to {}", upper(part), formatExact(value, s.place.unit));
    std::vector<Edit> edits{setValue("", s.asked.pointer, value)};
    const auto rated = placeAt(s.build, apart(s.asked.pointer).first + "/watts");
    if (s.place.unit == Unit::Ohm && rated) {
        const Build b = s.with(value);
        Conditions c;
        c.mainsVolts = s.asked.mainsVolts;
        if (s.asked.group == SoughtGroup::Discharge) c.mainsVolts = b.mains.high, c.smallIn = c.outputsIn = false;
        if (const auto steady = solveSteady(b, s.catalogue, c, {.tolerance = 1e-5, .stop = s.stop})) {
            if (const auto found = steady->partWatts.find(part); found != steady->partWatts.end())
                step.watts = found->second;
            else if (const auto all = schematicFigures(b, s.catalogue, *steady))
                for (const PartFigure& f : all->parts)
                    if (f.part == part) step.watts = std::abs(f.watts);
        }
        if (step.watts > 0.5 * rated->value) {
            step.rating = nextWatts(step.watts);
            edits.push_back(setValue("", apart(s.asked.pointer).first + "/watts", step.rating));
            name += fmt::format(", {}", formatExact(step.rating, Unit::Watt));
        }
    }
    step.edit = together(name, edits);
    return step;
}

} // namespace

Expected<ValueFound> findValue(const Build& b, const Catalogue& catalogue, const ValueAsked& asked,
                               std::stop_token stop) {
    const auto place = placeAt(b, asked.pointer);
    if (!place) return Problem{asked.pointer, "a number of the build is expected, and there is none"};
    Search search(b, catalogue, asked, *place, std::move(stop));
    const Scale scale{place->value > 0 && place->unit != Unit::None};
    const auto between = bracket(search, scale);
    if (!between) return between.problem();
    const auto exact = narrowed(search, scale, *between);
    if (!exact) return exact.problem();
    ValueFound found;
    found.part = idAt(b, asked.pointer);
    found.unit = place->unit;
    found.exact = *exact;
    found.below = stepOf(search, found.part, standard(*exact, *place, asked, false));
    found.above = stepOf(search, found.part, standard(*exact, *place, asked, true));
    return found;
}

std::vector<ValueChoice> valueChoices(const Build& b) {
    std::vector<ValueChoice> out;
    const auto add = [&](const std::string& object, const std::string& id, const std::string& what) {
        const std::string pointer = object + "/" + mainKeyAt(b, object);
        if (const auto place = placeAt(b, pointer))
            out.push_back({pointer, id,
                           fmt::format("{}{}{}: {}", upper(id), what.empty() ? "" : ", ", what,
                                       format(place->value, place->unit)),
                           place->unit});
    };
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        add(fmt::format("/supply/sections/{}", k), b.supply.sections[k].id, "supply");
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k)
        add(fmt::format("/supply/bleeders/{}/resistor", k), b.supply.bleeders[k].resistor.id, "bleeder");
    add("/bias/series", b.bias.series.id, "bias supply");
    for (std::size_t c = 0; c < b.channels.size(); ++c)
        for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s) {
            const Stage& stage = b.channels[c].stages[s];
            for (std::size_t p = 0; p < stage.parts.size(); ++p)
                add(fmt::format("/channels/{}/stages/{}/parts/{}", c, s, p), idOf(stage.parts[p].part),
                    fmt::format("{} of {} {}", stage.parts[p].slot, b.channels[c].name, stage.id));
        }
    for (std::size_t k = 0; k < b.loose.size(); ++k)
        add(fmt::format("/loose/{}", k), idOf(b.loose[k].part), "loose part");
    return out;
}

std::string usualFigure(const Build& b, const std::string& pointer) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        if (pointer.rfind(fmt::format("/supply/sections/{}/", k), 0) != 0) continue;
        const int node = nodeOfSection(b.supply, k);
        return b.supply.sections[k].kind == SectionKind::Capacitor ? fmt::format("b{}.ripple", node)
                                                                   : fmt::format("b{}.mean", node + 1);
    }
    if (pointer.rfind("/supply/bleeders/", 0) == 0) return "discharge.seconds";
    if (pointer.rfind("/bias/", 0) == 0) return "bias.rail";
    for (std::size_t c = 0; c < b.channels.size(); ++c)
        for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s) {
            const Stage& stage = b.channels[c].stages[s];
            for (std::size_t p = 0; p < stage.parts.size(); ++p) {
                if (pointer.rfind(fmt::format("/channels/{}/stages/{}/parts/{}/", c, s, p), 0) != 0) continue;
                const StagePart& part = stage.parts[p];
                if (std::holds_alternative<CapacitorPart>(part.part)) return b.channels[c].id + ".low";
                if (stage.valves.empty()) return fmt::format("{}.{}.gain", b.channels[c].id, stage.id);
                const StageValve* own = stage.valve(part.at);
                const StageValve& valve = own ? *own : stage.valves.front();
                const bool current =
                    part.slot.find("cathode") != std::string::npos || std::holds_alternative<AdjusterPart>(part.part);
                return fmt::format("{}.{}.{}", valve.bottle, valve.section, current ? "amps" : "plate");
            }
        }
    return {};
}

Edit firstBleeder() {
    return insertAt("add a bleeder", "/supply/bleeders/-", Bleeder{{}, 1, {{}, "rb1", 1e5, 5, 0.05}});
}

} // namespace ember::plan
