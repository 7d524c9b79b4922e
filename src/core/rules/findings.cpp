#include "findings.h"

#include "remedies.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::rules {

std::vector<Rule> allRules() {
    return {benchBoardRules, chassisRules,      supplyRules,     ironRules,      rectifierRules, supplyPartRules,
            mainsRules,      fuseRules,         oddPartRules,    dischargeRules, outputRules,    biasRules,
            heaterRules,     heaterSupplyRules, smallValveRules, stabilityRules, pathRules,      wireRules,
            earthRules,      boardRules,        wirePathRules,   towerRules,     exchangeRules,  pathPartRules,
            biasPartRules,   coldMomentRules,   capacitorRules};
}

Finding finding(const char* station, std::string id, Level level, std::string title, std::string text) {
    Finding f;
    f.id = std::move(id);
    f.station = station;
    f.level = level;
    f.title = std::move(title);
    f.text = std::move(text);
    return f;
}

void againstLimit(std::vector<Finding>& out, std::string id, const std::string& what, double value, double most,
                  Unit unit, const std::string& why, std::optional<Edit> fix) {
    if (!(most > 0) || !(value > 0.9 * most)) return;
    const bool past = value > most;
    Finding x = finding(
        "supply", std::move(id), past ? Level::Stop : Level::Warn,
        fmt::format("{} {}", what, past ? "is past its limit" : "is close to its limit"),
        fmt::format("{} of {} ({:.0f} %). {}", format(value, unit), format(most, unit), 100 * value / most, why));
    x.fix = std::move(fix);
    out.push_back(std::move(x));
}

void againstValveLimit(std::vector<Finding>& out, std::string id, const std::string& what, double value, double most,
                       Unit unit, const std::string& tail) {
    if (!(most > 0) || !(value > 0.95 * most)) return;
    const bool past = value > most;
    out.push_back(finding(
        "bias", std::move(id), past ? Level::Stop : Level::Warn,
        fmt::format("{} {}", what, past ? "over the limit" : "at the limit"),
        fmt::format("{} of {} ({:.0f} %){}", format(value, unit), format(most, unit), 100 * value / most, tail)));
}

void againstWatts(std::vector<Finding>& out, std::string id, const std::string& what, double used, double rated,
                  const std::string& pointer) {
    if (!(used > 0.5 * rated)) return;
    const bool past = used > rated;
    Finding x = finding("supply", std::move(id), past ? Level::Stop : Level::Warn,
                        fmt::format("{} {}", what, past ? "beyond the rated watts" : "hot"),
                        fmt::format("{} in a {} part ({:.0f} %) with mains at its high end; half its rating is the "
                                    "usual ceiling inside a chassis.",
                                    format(used, Unit::Watt), format(rated, Unit::Watt), 100 * used / rated));
    x.fix = setValue(fmt::format("use {}", format(nextWatts(used), Unit::Watt)), pointer, nextWatts(used));
    out.push_back(std::move(x));
}

std::vector<Finding> inspect(const Build& b, const Catalogue& catalogue, const plan::Figures& figures) {
    std::vector<Finding> out;
    for (const Rule rule : allRules()) rule(b, catalogue, figures, out);
    for (Finding& f : out) {
        if (f.fix) f.fix = guarded(b, *f.fix);
        for (const Waiver& w : b.waivers)
            if (w.finding == f.id) {
                f.waived = true;
                f.waiverReason = w.reason;
            }
    }
    std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& c) {
        if (a.waived != c.waived) return c.waived;
        return a.level > c.level;
    });
    return out;
}

} // namespace ember::rules
