// The small valves against their limits, and the coupling capacitors before any valve draws current.
#include "findings.h"

#include "remedies.h"

#include "core/plan/bias_range.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

/// The grid of an oxide-cathode valve takes current from 0.4 to 1 V below its cathode on: contact potential and the
/// electrons' initial speed (RCA Receiving Tube Manual RC-30, "Grid current").
constexpr double contactVolts = 0.7;

std::string v(double volts) {
    return format(volts, Unit::Volt);
}

/// Before the valves draw, the plate side stands at its supply node, the grid side at the coldest bias.
void couplingVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.cold) return;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const double rail = f.cold->nodes[static_cast<std::size_t>(ch.smallNode - 1)].most;
        const double coldest = plan::biasRange(b.bias, *f.cold).coldest;
        const double most = rail + (std::isfinite(coldest) ? -coldest : 0);
        for (const auto& [part, name] : {std::pair{&ch.pair.couplingA, "couplingA"}, {&ch.pair.couplingB, "couplingB"}}) {
            if (!(most > 0.9 * part->volts)) continue;
            const bool past = most > part->volts;
            Finding x = finding("bias", "capacitor-volts/" + part->id, past ? Level::Stop : Level::Warn,
                                fmt::format("{} is {} its rating when cold", upper(part->id), past ? "over" : "near"),
                                fmt::format("{} across it at every switch-on, with mains at {} and no valve drawing yet; "
                                            "rated {} ({:.0f} %). If it fails, its output valve loses its bias.",
                                            v(most), v(b.mains.high), v(part->volts), 100 * most / part->volts));
            for (const double rating : {160.0, 250.0, 400.0, 630.0, 1000.0})
                if (!x.fix && rating >= most / 0.9)
                    x.fix = setValue(fmt::format("use {}", v(rating)), fmt::format("/channels/{}/pair/{}/volts", k, name),
                                     rating);
            out.push_back(std::move(x));
        }
    }
}

void limitsRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.channels.size() && k < f.high->channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const ValveType* type = catalogue.valve(ch.small.type);
        if (!type) continue;
        const plan::ChannelPoint& p = f.high->channels[k];
        const ValveLimits& l = type->limits;
        const std::string name = upper(ch.small.id), tail = fmt::format(" with mains at {}.", v(b.mains.high));
        struct Half {
            const char* word;
            double plate, cathode, amps;
        };
        for (const Half& h : {Half{"first", p.plate1, p.cathode1, p.smallAmps1},
                              Half{"second", p.plate2, p.cathode2, p.smallAmps2}}) {
            const auto about = [&](const char* what) { return fmt::format("{} {} {}", name, h.word, what); };
            const auto id = [&](const char* what) { return fmt::format("{}/{}/{}", what, ch.small.id, h.word); };
            const double volts = h.plate - h.cathode;
            againstValveLimit(out, id("plate-watts"), about("plate"), volts * h.amps, l.plateWatts, Unit::Watt, tail);
            againstValveLimit(out, id("plate-volts"), about("plate volts"), volts, l.mostPlateVolts(), Unit::Volt, tail);
            againstValveLimit(out, id("cathode-amps"), about("cathode current"), h.amps, l.cathodeAmps, Unit::Ampere, tail);
            againstValveLimit(out, id("heater-cathode"), about("cathode above its heater"), h.cathode, l.heaterCathodeVolts,
                  Unit::Volt, tail + " Lower the cathode, or raise the heaters' reference above ground.");
        }
    }
}

/// With the crest of the input for full power the grid comes this near its cathode.
void gridCurrentRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.channels.size() && k < f.nominal->channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const double input = k < f.power.size() ? f.power[k].clipInput : plan::unknown;
        const double crest = std::isfinite(input) ? std::numbers::sqrt2 * input : 0;
        const double bias = f.nominal->channels[k].cathode1;
        if (!(bias > 0.01) || bias - crest >= contactVolts) continue;
        Finding x = finding(
            "bias", "grid-current/" + ch.small.id, Level::Warn, fmt::format("{}'s first grid draws current", upper(ch.small.id)),
            fmt::format("It stands {} below its cathode{}; from about {} on a grid takes current, loads its source and "
                        "distorts. A larger {} gives more bias.",
                        v(bias), crest > 0 ? fmt::format(", {} at the crest of the input for full power", v(bias - crest)) : "",
                        v(contactVolts), upper(ch.voltageStage.cathode.id)));
        const double ohms = nextUp(ch.voltageStage.cathode.resistance * std::max(1.15, (contactVolts + crest) / bias),
                                   Series::E12);
        x.fix = setValue(fmt::format("use {}", formatExact(ohms, Unit::Ohm)),
                         fmt::format("/channels/{}/voltageStage/cathode/resistance", k), ohms);
        out.push_back(std::move(x));
    }
}

} // namespace

void smallValveRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    couplingVoltsRule(b, f, out);
    if (!f.high || !f.nominal) return;
    limitsRule(b, catalogue, f, out);
    gridCurrentRule(b, f, out);
}

} // namespace ember::rules
