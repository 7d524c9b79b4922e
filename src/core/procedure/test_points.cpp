#include "test_points.h"

#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/catalogue/catalogue.h"
#include "core/quantity/letters.h"
#include "core/schematic/stages/stage_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <initializer_list>
#include <optional>

namespace ember::procedure {

namespace {

/// What ties a heater winding to ground, as words.
std::string tieOf(const HeaterWinding& h) {
    const std::string by = h.referenceNode > 0 ? " and the divider's lower resistor" : "";
    switch (h.reference) {
    case HeaterReference::CentreTap: return "through its centre tap" + by;
    case HeaterReference::Resistors: return "through its two resistors" + by;
    case HeaterReference::Potentiometer: return "through its potentiometer" + by;
    case HeaterReference::OneSide: return h.referenceNode > 0 ? "through the divider's lower resistor" : "tied there";
    case HeaterReference::Floating: break;
    }
    return "nothing ties it to ground";
}

/// The first capacitor at a node, as printed on the drawing.
std::string capacitorAt(const Build& b, int node) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (b.supply.sections[k].kind == SectionKind::Capacitor && nodeOfSection(b.supply, k) == node)
            return upper(b.supply.sections[k].id) + " plus";
    return fmt::format("node B+{}", node);
}

unsigned at(std::initializer_list<int> stages) {
    unsigned bits = 0;
    for (const int k : stages) bits |= 1u << k;
    return bits;
}

/// The HV winding's words, by what it is connected as.
struct WindingWords {
    const char *ohmsLabel, *ohms, *label, *volts, *end;
};
WindingWords wordsOf(Connection c) {
    switch (c) {
    case Connection::CentreTapped:
        return {"HV winding, first leg", "centre tap, one rectifier plate pin", "HV winding, first leg, AC",
                "plug out, clip black on the centre tap, red on one rectifier plate pin", "one end of the HV winding"};
    case Connection::Bridge:
    case Connection::HybridBridge:
        return {"HV winding, end to end", "the winding's two ends, at the bridge's AC corners",
                "HV winding, end to end, AC",
                "plug out, clip on the bridge's two AC corners; neither is ground, both are live",
                "one AC corner of the bridge"};
    case Connection::HalfWave:
        return {"HV winding, end to end", "the grounded end, the diode's end", "HV winding, AC",
                "plug out, clip black on the winding's grounded end, red on the diode's end",
                "the winding's end at the diode"};
    case Connection::Doubler: break;
    }
    return {"HV winding, end to end", "the winding's end at the diodes, its end at the two capacitors' middle",
            "HV winding, end to end, AC",
            "plug out, clip on the diodes' end and the capacitors' middle; neither is ground, both are live",
            "the winding's end at the diodes"};
}

/// Copper of the output transformer's secondary and the load across it [ohm]; nothing: no such output.
std::optional<std::pair<double, double>> loadOf(const Channel& ch) {
    for (const Stage& s : ch.stages) {
        const StagePart *iron = s.part("transformer"), *load = s.part("load");
        if (!schematic::isOutput(s) || !iron || !load) continue;
        const auto* t = std::get_if<OutputTransformer>(&iron->part);
        const auto* r = std::get_if<ResistorPart>(&load->part);
        if (t && r) return std::pair{t->secondaryResistance, r->resistance};
    }
    return std::nullopt;
}

class Points {
  public:
    explicit Points(const Build& build) : b(build) {}

    void add(std::string id, std::string label, std::string probe, MeterMode mode, PointKind kind, unsigned stages,
             std::size_t index = 0, int section = 1) {
        all.push_back({std::move(id), std::move(label), std::move(probe), mode, kind, index, section, stages});
    }

    /// Stage 0: what a plugged-out amplifier has to show before the mains comes near.
    void cold() {
        const auto ohms = [&](const char* id, const char* label, std::string probe, PointKind kind) {
            add(id, label, std::move(probe), MeterMode::Ohms, kind, at({0}));
        };
        const WindingWords w = wordsOf(b.supply.connection);
        ohms("earth", "Safety earth to chassis",
             "the plug's earth pin, bare metal of the chassis; take off what the leads read touched together",
             PointKind::Earth);
        ohms("line-chassis", "Mains line to chassis", "the plug's line pin, bare metal; switch on, plug out",
             PointKind::LineChassis);
        ohms("neutral-chassis", "Mains neutral to chassis", "the plug's neutral pin, bare metal; switch on, plug out",
             PointKind::NeutralChassis);
        ohms("primary-ohms", "Mains winding", "the plug's line and neutral pins; switch on, plug out",
             PointKind::PrimaryOhms);
        ohms("primary-secondary", "Mains winding to HV winding",
             fmt::format("the plug's line pin, {}; switch on, plug out", w.end), PointKind::PrimarySecondary);
        ohms("leg-ohms", w.ohmsLabel, w.ohms, PointKind::LegOhms);
        if (b.supply.connection == Connection::CentreTapped) {
            const auto leg = [&](const char* id, const char* label, const char* probe, WindingPart part) {
                add(id, label, probe, MeterMode::Ohms, PointKind::LegOhms, at({0}), static_cast<std::size_t>(part));
            };
            leg("leg-b-ohms", "HV winding, second leg", "centre tap, the other rectifier plate pin", WindingPart::LegB);
            leg("leg-ends-ohms", "HV winding, end to end", "one rectifier plate pin, the other", WindingPart::Ends);
        }
        ohms("winding-chassis", "HV winding to chassis", fmt::format("black on bare metal, red on {}", w.end),
             PointKind::WindingChassis);
        ohms("b+-ohms", "B+1 to chassis",
             fmt::format("black on bare metal, red on {}; let it charge and settle", capacitorAt(b, 1)),
             PointKind::RailOhms);
        for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
            const HeaterWinding& h = b.transformer.heaters[k];
            const std::string tied = h.feeds != "signal" ? "it is joined to B+ by the rectifier's cathode" : tieOf(h);
            add("chassis-" + h.id,
                fmt::format("Heater{} {} to chassis", h.rectified() ? "s of" : " winding", upper(h.id)),
                fmt::format("bare metal, {}: {}", h.rectified() ? "their minus side" : "either end", tied),
                MeterMode::Ohms, PointKind::HeaterChassis, at({0}), k);
        }
        for (std::size_t k = 0; k < b.channels.size(); ++k) {
            const Channel& ch = b.channels[k];
            const auto output = loadOf(ch);
            if (!output) continue;
            const auto& [copper, load] = *output;
            add("load-" + ch.id, fmt::format("Load of the {} output", lower(ch.name)),
                fmt::format("lift one secondary lead, then across the load: with it on the meter reads {:.2f} Ω, and "
                            "{:.2f} Ω with no load at all. Join it again",
                            copper * load / (copper + load), copper),
                MeterMode::Ohms, PointKind::LoadOhms, at({0}), k);
        }
    }

    /// The sockets of the output valves, empty: what biases them is proved before a valve depends on it. Other valves'
    /// grids and cathodes are read where something is wrong.
    void sockets() {
        forValves([&](const Stage& stage, const StageValve& v, std::size_t bottle, const ValveType& type) {
            const bool output = schematic::isOutput(stage), several = type.sections() > 1;
            const ElectrodePins& pins = type.section(v.section).pins;
            const std::string tag = upper(v.bottle), which = several ? std::to_string(v.section) + "-" : "";
            const auto ohms = [&](const char* id, const char* what, const std::vector<int>& pin, PointKind kind) {
                add(output ? id + v.bottle : id + which + v.bottle,
                    fmt::format("{} {}{} to chassis", tag, several && !output ? ordinal(v.section) + " " : "", what),
                    output ? fmt::format("{}'s socket empty: bare metal, red on its {} pin{}", tag, what, pinOf(pin))
                           : fmt::format("plug out, every capacitor read: black on bare metal, red on {}'s {} pin{}",
                                         tag, what, pinOf(pin)),
                    MeterMode::Ohms, kind, output ? at({0}) : 0, bottle, v.section);
            };
            ohms("grid-ohms-", "grid", pins.grid, PointKind::GridOhms);
            ohms("cathode-ohms-", "cathode", pins.cathode, PointKind::CathodeOhms);
        });
    }

    /// Every capacitor with the plug out, before a hand goes in and before power comes again.
    void held() {
        const unsigned always = at({0, 1, 2, 3, 4, 5, 6});
        const auto capacitor = [&](const std::string& id, const std::string& ends, int node) {
            add("held-" + id, fmt::format("{} with the plug out, DC", upper(id)), "plug out and in sight: " + ends,
                MeterMode::DcVolts, PointKind::Held, always, 0, node);
            all.back().part = id;
        };
        for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
            const Section& s = b.supply.sections[k];
            if (s.kind != SectionKind::Capacitor) continue;
            capacitor(s.id,
                      s.inSeries > 1
                          ? fmt::format("black on ground, red on the plus end of all {} in series", s.inSeries)
                          : fmt::format("black on its minus, red on {} plus", upper(s.id)),
                      nodeOfSection(b.supply, k));
        }
        if (!biasIsFed(b.bias, b.transformer)) return;
        for (const CapacitorPart* c : {&b.bias.reservoir, &b.bias.second})
            capacitor(c->id, fmt::format("black on its plus (ground), red on {} minus", upper(c->id)), 0);
    }

    void windings() {
        for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
            const HeaterWinding& h = b.transformer.heaters[k];
            if (h.rectified()) {
                add("heater-" + h.id, fmt::format("Heaters of {}, DC", upper(h.id)),
                    "black on their minus, red on their plus side", MeterMode::DcVolts, PointKind::HeaterVolts,
                    at({1, 2, 4, 5, 6}), k);
                continue;
            }
            std::string across = h.feeds == "rectifier"
                                     ? "clip on across the winding with the plug out: it stands at B+"
                                     : "across the winding's two pins";
            if (const HeaterWinding* other = inSeriesWith(b.transformer, h)) {
                const double wrong = h.volts + (other->opposed ? other->volts : -other->volts);
                across =
                    fmt::format("across the two ends that the heaters hang on; about {} there: {} is the wrong way "
                                "round, exchange its ends",
                                format(wrong, Unit::Volt), upper(other->id));
            }
            add("heater-" + h.id, fmt::format("Heater winding {}, AC", upper(h.id)), across, MeterMode::AcVolts,
                PointKind::HeaterVolts, at({1, 2, 4, 5, 6}), k);
        }
        const WindingWords w = wordsOf(b.supply.connection);
        add("leg", w.label, w.volts, MeterMode::AcVolts, PointKind::LegVolts, at({1, 2}));
        if (b.supply.connection != Connection::CentreTapped) return;
        const auto leg = [&](const char* id, const char* label, const char* probe, WindingPart part) {
            add(id, label, probe, MeterMode::AcVolts, PointKind::LegVolts, at({1}), static_cast<std::size_t>(part));
        };
        leg("leg-b", "HV winding, second leg, AC",
            "plug out, clip black on the centre tap, red on the other rectifier plate pin", WindingPart::LegB);
        leg("leg-ends", "HV winding, end to end, AC",
            "plug out, clip on the two rectifier plate pins: both are live, neither is ground", WindingPart::Ends);
    }

    /// The grid pins of the output sockets: before the valves go in too, so that a leaky coupling is seen in time.
    void grids() {
        forValves([&](const Stage& stage, const StageValve& v, std::size_t bottle, const ValveType& type) {
            if (!schematic::isOutput(stage)) return;
            const std::string tag = upper(v.bottle);
            const bool adjusted = std::any_of(stage.parts.begin(), stage.parts.end(),
                                              [](const StagePart& p) { return p.slot == "adjuster"; });
            add("bias-" + v.bottle,
                fmt::format("{} {}, DC", adjusted ? "Bias at" : "Grid of", adjusted ? tag + " grid" : tag),
                fmt::format("black on ground, red on {}'s grid pin{}", tag, pinOf(type.section(v.section).pins.grid)),
                MeterMode::DcVolts, PointKind::Grid, at({1, 3, 4, 5}), bottle, v.section);
        });
    }

    void nodes() {
        // From the stage at which B+ can first be there.
        const bool silicon = siliconFeedsRail(b);
        const unsigned alive = at({2, 3, 4, 5, 6}) | (silicon ? at({1}) : 0);
        for (int n = 1; n <= supplyNodes(b.supply); ++n)
            add(fmt::format("B+{}", n), fmt::format("B+{}, DC", n),
                fmt::format("plug out, clip black on ground and red on {}; then switch on", capacitorAt(b, n)),
                MeterMode::DcVolts, PointKind::Node, alive, static_cast<std::size_t>(n));
        for (std::size_t k = 0; k < b.supply.sections.size(); ++k) { // how a string shares its first volts
            const Section& s = b.supply.sections[k];
            if (s.kind != SectionKind::Capacitor) continue;
            for (int one = 1; s.inSeries > 1 && one <= s.inSeries; ++one) {
                add(fmt::format("{}.{}", s.id, one),
                    fmt::format("{}, number {} of {}, DC", upper(s.id), one, s.inSeries),
                    fmt::format("plug out, clip black on the minus and red on the plus of number {}, counted from "
                                "B+{}; neither may be ground",
                                one, nodeOfSection(b.supply, k)),
                    MeterMode::DcVolts, PointKind::StringVolts, at({silicon ? 1 : 2}), k, one);
                all.back().part = s.id;
            }
        }
        add("ripple", "Ripple at B+1, AC",
            fmt::format("plug out, clip black on ground and red on {}, meter on AC", capacitorAt(b, 1)),
            MeterMode::AcVolts, PointKind::Ripple, at({2, 5, 6}));
    }

    void valves() {
        // What is not an output valve: each plate, and each cathode that stands above ground.
        forValves([&](const Stage& stage, const StageValve& v, std::size_t bottle, const ValveType& type) {
            if (schematic::isOutput(stage)) return;
            const auto dc = [&](const char* what, PointKind kind, const std::vector<int>& pins) {
                const std::string number = type.sections() > 1 ? std::to_string(v.section) : "", tag = upper(v.bottle);
                const std::string word = type.sections() > 1 ? ordinal(v.section) + " " + what : what;
                add(fmt::format("{}{}-{}", what, number, v.bottle), fmt::format("{} {}, DC", tag, word),
                    fmt::format("black on ground, red on {}'s {} pin{}", tag, word, pinOf(pins)), MeterMode::DcVolts,
                    kind, at({3, 5}), bottle, v.section);
            };
            dc("plate", PointKind::Plate, type.section(v.section).pins.plate);
            const bool lifted = std::any_of(stage.parts.begin(), stage.parts.end(), [](const StagePart& p) {
                return p.slot == "cathode" || p.slot == "foot" || p.slot == "tail" || p.slot == "upper cathode" ||
                       p.slot == "bias";
            });
            if (lifted) dc("cathode", PointKind::Cathode, type.section(v.section).pins.cathode);
        });
        const auto output = [&](const char* what, const char* label, const char* pin, PointKind kind, unsigned stages,
                                auto wanted) {
            forValves([&](const Stage& stage, const StageValve& v, std::size_t bottle, const ValveType& type) {
                if (!schematic::isOutput(stage) || !wanted(stage, v)) return;
                const ElectrodePins& own = type.section(v.section).pins;
                const auto& pins = kind == PointKind::Plate ? own.plate : own.cathode;
                add(what + v.bottle, fmt::format("{} {}, DC", upper(v.bottle), label),
                    fmt::format("black on ground, red on {}'s {} pin{}{}", upper(v.bottle), pin, pinOf(pins),
                                kind == PointKind::Plate ? "" : "; a second meter on B+1"),
                    MeterMode::DcVolts, kind, stages, bottle, v.section);
                all.back().runsAway = kind != PointKind::Plate;
            });
        };
        const auto sensed = [](const Stage& stage, const StageValve& v) {
            return stage.part("sense", v.at) != nullptr;
        };
        output("output-plate-", "plate", "plate", PointKind::Plate, at({4, 5}),
               [](const Stage&, const StageValve&) { return true; });
        output("sense-", "across its sense resistor", "cathode", PointKind::Sense, at({4, 5, 6}), sensed);
        output("cathode-", "cathode", "cathode", PointKind::Cathode, at({4, 5, 6}),
               [&](const Stage& stage, const StageValve& v) {
                   return !sensed(stage, v) && (stage.part("cathode", v.at) ||
                                                stage.part("cathode", v.at.substr(0, 1)) || stage.part("cathode"));
               });
    }

    /// With the input shorted, once the amplifier runs at full mains.
    void hum() {
        for (std::size_t k = 0; k < b.channels.size(); ++k)
            if (loadOf(b.channels[k]))
                add("hum-" + b.channels[k].id, fmt::format("Hum of the {} output, AC", lower(b.channels[k].name)),
                    "a shorting plug in the input, red and black across the load", MeterMode::AcVolts, PointKind::Hum,
                    at({6}), k);
    }

    /// Every valve system at work, channel by channel in the path's order.
    template <typename F>
    void forValves(F each) {
        for (const Channel& ch : b.channels)
            for (const Stage& stage : ch.stages)
                for (const StageValve& v : stage.valves)
                    if (const auto bottle = bottleIndex(b, v.bottle))
                        if (const ValveType* type = catalogueOf(b).valve(b.bottles[*bottle].type))
                            each(stage, v, *bottle, *type);
    }
    static std::string ordinal(int section) { return section == 1 ? "first" : section == 2 ? "second" : "third"; }
    static std::string pinOf(const std::vector<int>& pins) {
        return pins.empty() ? "" : pins[0] == topCap ? ", the cap on the glass" : fmt::format(", {}", pins[0]);
    }

    const Build& b;
    std::vector<TestPoint> all;
};

} // namespace

bool isValvePoint(PointKind kind) {
    return kind >= PointKind::Grid;
}

bool siliconFeedsRail(const Build& b) {
    const auto silicon = [](const std::string& type) {
        const RectifierType* r = Catalogue::shipped().rectifier(type);
        return r && !r->vacuum;
    };
    if (silicon(b.supply.rectifier.type) || b.supply.connection == Connection::HybridBridge) return true;
    return std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                       [&](const Section& s) { return s.kind == SectionKind::Tap && silicon(s.type); });
}

std::vector<TestPoint> testPoints(const Build& b) {
    Points points(b);
    points.cold();
    points.sockets();
    points.held();
    points.windings();
    points.grids();
    points.nodes();
    points.valves();
    points.hum();
    return std::move(points.all);
}

std::vector<TestPoint> heldPoints(const Build& b) {
    Points points(b);
    points.held();
    return std::move(points.all);
}

const TestPoint* findPoint(const std::vector<TestPoint>& points, std::string_view id) {
    const std::string wanted = lower(id);
    for (const TestPoint& p : points)
        if (lower(p.id) == wanted) return &p;
    return nullptr;
}

std::vector<TestPoint> pointsOfStage(const Build& b, int stage) {
    std::vector<TestPoint> out = testPoints(b);
    std::erase_if(out, [&](const TestPoint& p) { return !p.readAt(stage); });
    const auto turn = [&](const TestPoint& p) {
        if (p.kind == PointKind::Held) return 0;
        if (stage < 4) return 3;
        return p.runsAway ? 1 : p.kind == PointKind::Grid ? 2 : 3;
    };
    std::stable_sort(out.begin(), out.end(), [&](const TestPoint& x, const TestPoint& y) { return turn(x) < turn(y); });
    return out;
}

double meterShare(const Build& b, MeterMode mode) {
    return mode == MeterMode::Ohms ? b.meter.ohms : mode == MeterMode::AcVolts ? b.meter.ac : b.meter.dc;
}

double asShown(const Build& b, MeterMode mode, double value, std::mt19937_64& chance) {
    const double share = meterShare(b, mode);
    if (share <= 0) return value;
    return value * (1 + std::clamp(std::normal_distribution<double>(0, share / 2)(chance), -share, share));
}

} // namespace ember::procedure
