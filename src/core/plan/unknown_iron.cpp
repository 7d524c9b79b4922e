#include "unknown_iron.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <optional>
#include <set>

namespace ember::plan {

namespace {

constexpr std::size_t mostLeads = 12; // of one winding: their signs are tried through
constexpr double agree = 0.06;        // readings along a winding add up within this share
constexpr double nearMiddle = 0.04;   // of a centre tap, and between the two of a pair
constexpr double unloaded = 1.12;     // a heater winding's volts without its load, over its rated ones
constexpr double leastOpenOhms = 1e6;

using Along = std::map<std::string, double>; ///< a place for each lead

/// Distances between leads of one winding, of one quantity.
struct Distance {
    std::string from, to;
    double length;
};

/// Places along the winding at which all distances come out best.
struct Ordered {
    Along at;
    double off = 0; ///< worst relative disagreement
    /// Two leads whose distance would decide between this order and another that agrees as well; empty: none.
    std::string openFrom, openTo;
};

/// A tree of distances through all leads; nothing where they do not hang together.
std::vector<Distance> treeOf(const std::set<std::string>& leads, std::vector<Distance> all) {
    // The longest first: their errors matter least.
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.length > b.length; });
    std::set<std::string> reached{*leads.begin()};
    std::vector<Distance> tree;
    for (bool more = true; more;) {
        more = false;
        for (const Distance& d : all) {
            if (reached.contains(d.from) == reached.contains(d.to)) continue;
            tree.push_back(reached.contains(d.from) ? d : Distance{d.to, d.from, d.length});
            reached.insert(tree.back().to);
            more = true;
            break;
        }
    }
    if (reached.size() != leads.size()) tree.clear();
    return tree;
}

std::optional<Ordered> ordered(const std::set<std::string>& leads, const std::vector<Distance>& all) {
    const std::vector<Distance> tree = treeOf(leads, all);
    if (tree.empty()) return std::nullopt;
    std::optional<Ordered> best;
    std::vector<Along> asGood;
    const std::size_t choices = std::size_t{1} << (tree.size() - 1); // the first points forward
    for (std::size_t signs = 0; signs < choices; ++signs) {
        Along at{{*leads.begin(), 0}};
        for (std::size_t k = 0; k < tree.size(); ++k)
            at[tree[k].to] = at.at(tree[k].from) + (k > 0 && (signs >> (k - 1) & 1) ? -1 : 1) * tree[k].length;
        const auto [low, high] =
            std::minmax_element(at.begin(), at.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        const double whole = high->second - low->second;
        double off = 0;
        for (const Distance& d : all)
            off = std::max(off, std::abs(std::abs(at.at(d.from) - at.at(d.to)) - d.length) / std::max(whole, 1e-12));
        if (best && off > best->off + agree / 3) continue;
        if (!best || off < best->off - agree / 3) asGood.clear();
        asGood.push_back(at);
        if (!best || off < best->off) best = Ordered{at, off, {}, {}};
    }
    // The pair of leads in whose distance the equally good orders differ the most.
    double most = 0;
    for (const Along& other : asGood)
        for (const auto& [a, x] : best->at)
            for (const auto& [b, y] : best->at)
                if (const double differs = std::abs(std::abs(x - y) - std::abs(other.at(a) - other.at(b)));
                    a < b && differs > most * 1.001 + 1e-12)
                    most = differs, best->openFrom = a, best->openTo = b;
    return best;
}

double between(const Ordered& o, const std::string& a, const std::string& b) {
    return std::abs(o.at.at(a) - o.at.at(b));
}

class Identifying {
  public:
    Identifying(std::span<const LeadReading> r, double mains, double load, const Meter& m)
        : readings(r),
          mainsVolts(mains),
          loadOhms(load),
          meter(m) {}

    Expected<UnknownIron> run() {
        for (std::size_t k = 0; k < readings.size(); ++k) {
            const LeadReading& r = readings[k];
            if (r.from.empty() || r.to.empty() || r.from == r.to)
                return Problem{"", fmt::format("Row {}: two different leads are needed.", k + 1)};
            if (r.ohms < 0 || r.volts < 0 || r.volts > 1e4)
                return Problem{"", fmt::format("Row {}: ohms and volts are not below nothing.", k + 1)};
        }
        for (const auto& leads : groups()) {
            if (leads.size() < 2) continue;
            if (leads.size() > mostLeads)
                return Problem{"", fmt::format("{} leads conduct to each other; {} are the most that one winding may "
                                               "have here.",
                                               leads.size(), mostLeads)};
            if (auto problem = winding(leads)) return *problem;
        }
        if (out.windings.empty())
            return Problem{"", "Ohms between leads tell which are one winding: two leads in a row with what is read "
                               "between them."};
        std::stable_sort(out.windings.begin(), out.windings.end(), [](const FoundWinding& a, const FoundWinding& b) {
            return std::pair(a.volts, a.ohms) > std::pair(b.volts, b.ohms);
        });
        asOutput();
        asMains();
        return std::move(out);
    }

  private:
    /// Leads that conduct to each other; one that is named without ohms counts by its volts.
    [[nodiscard]] std::vector<std::set<std::string>> groups() const {
        std::map<std::string, std::string> root;
        const auto find = [&](std::string a) {
            while (root.at(a) != a) a = root.at(a);
            return a;
        };
        for (const LeadReading& r : readings)
            for (const std::string& lead : {r.from, r.to}) root.emplace(lead, lead);
        for (const LeadReading& r : readings)
            if (r.ohms < leastOpenOhms || (std::isnan(r.ohms) && r.volts > 0)) root[find(r.from)] = find(r.to);
        std::map<std::string, std::set<std::string>> sets;
        for (const auto& [lead, to] : root) sets[find(lead)].insert(lead);
        std::vector<std::set<std::string>> all;
        for (auto& [name, set] : sets) all.push_back(std::move(set));
        return all;
    }
    [[nodiscard]] std::vector<Distance> distances(const std::set<std::string>& leads,
                                                  double LeadReading::*quantity) const {
        std::vector<Distance> all;
        for (const LeadReading& r : readings)
            if (leads.contains(r.from) && leads.contains(r.to) && r.*quantity > 0 && r.*quantity < leastOpenOhms)
                all.push_back({r.from, r.to, r.*quantity});
        return all;
    }
    std::optional<Problem> winding(const std::set<std::string>& leads) {
        const auto byVolts = ordered(leads, distances(leads, &LeadReading::volts)),
                   byOhms = ordered(leads, distances(leads, &LeadReading::ohms));
        const auto& by = byVolts ? byVolts : byOhms;
        if (!by) {
            if (leads.size() > 1)
                out.says.push_back(fmt::format("{}: read ohms or volts between each of these leads and one of them.",
                                               fmt::join(leads, ", ")));
            return std::nullopt;
        }
        if (by->off > agree)
            return Problem{"", fmt::format("The {} between {} do not add up along one winding: {:.0f} % are left over. "
                                           "One of them is misread, or a lead is mistaken.",
                                           byVolts ? "volts" : "ohms", fmt::join(leads, ", "), 100 * by->off)};
        if (!by->openFrom.empty())
            out.says.push_back(fmt::format("The order of {} is open: read between {} and {} as well.",
                                           fmt::join(leads, ", "), by->openFrom, by->openTo));
        FoundWinding w;
        w.byCopper = !byVolts;
        std::vector<std::pair<double, std::string>> order;
        for (const auto& [lead, x] : by->at) order.emplace_back(x, lead);
        std::sort(order.begin(), order.end());
        // From the end that was written down first.
        for (const LeadReading& r : readings)
            if (leads.contains(r.from) && by->at.size() > 1) {
                const double x = by->at.at(r.from);
                if (x - order.front().first > order.back().first - x) {
                    for (auto& [place, lead] : order) place = -place;
                    std::reverse(order.begin(), order.end());
                }
                break;
            }
        const double first = order.front().first, whole = order.back().first - first;
        for (const auto& [x, lead] : order) w.leads.push_back({lead, (x - first) / whole, "tap"});
        w.leads.front().is = w.leads.back().is = "end";
        if (byVolts) w.volts = whole;
        if (byOhms) {
            w.ohms = between(*byOhms, w.leads.front().name, w.leads.back().name);
            if (byVolts) {
                std::vector<std::pair<double, std::string>> copper;
                for (const auto& [lead, x] : byOhms->at) copper.emplace_back(x, lead);
                std::sort(copper.begin(), copper.end());
                if (copper.front().second != order.front().second) std::reverse(copper.begin(), copper.end());
                const bool same = std::equal(copper.begin(), copper.end(), order.begin(),
                                             [](const auto& a, const auto& b) { return a.second == b.second; });
                if (!same && byOhms->openFrom.empty())
                    out.says.push_back(fmt::format(
                        "By copper {} stand in another order than by volts: read them again.", fmt::join(leads, ", ")));
            }
        }
        nameTaps(w, byOhms);
        out.windings.push_back(std::move(w));
        return std::nullopt;
    }
    static void nameTaps(FoundWinding& w, const std::optional<Ordered>& byOhms) {
        const std::size_t n = w.leads.size();
        std::optional<std::size_t> centre;
        for (std::size_t k = 1; k + 1 < n; ++k) {
            FoundLead& l = w.leads[k];
            l.is = fmt::format("tap, {:.0f} %", 100 * l.turns);
            const double off = std::abs(l.turns - 0.5);
            if (off < nearMiddle && (!centre || off < std::abs(w.leads[*centre].turns - 0.5))) centre = k;
        }
        if (!centre) return;
        w.leads[*centre].is = "centre tap";
        if (byOhms) {
            w.firstHalf = between(*byOhms, w.leads.front().name, w.leads[*centre].name);
            w.lastHalf = between(*byOhms, w.leads.back().name, w.leads[*centre].name);
        }
        for (std::size_t a = 1; a < *centre; ++a)
            for (std::size_t b = *centre + 1; b + 1 < n; ++b)
                if (std::abs(w.leads[a].turns + w.leads[b].turns - 1) < nearMiddle) {
                    const double share = w.leads[b].turns - w.leads[a].turns; // of a half, from the middle
                    w.leads[a].is = w.leads[b].is = fmt::format("screen tap, {:.0f} %", 100 * share);
                }
    }

    /// Volts from the winding's first lead to lead `k`, or from the last if `fromLast`.
    static double voltsTo(const FoundWinding& w, std::size_t k, bool fromLast) {
        return w.volts * (fromLast ? 1 - w.leads[k].turns : w.leads[k].turns);
    }

    /// Usual loads whose roots are as the turns to a secondary's taps, from the end that suits best.
    struct Loads {
        bool fromLast = false;
        std::vector<double> ohms; ///< of each lead but the common one, by rising turns
        std::vector<std::size_t> leads;
        double off = 1e9;
    };
    static Loads loadsOf(const FoundWinding& w) {
        static const std::vector<std::vector<double>> usual{{4, 8},     {4, 16},   {8, 16},      {2, 8},
                                                            {4, 8, 16}, {2, 4, 8}, {2, 4, 8, 16}};
        Loads best;
        for (const bool fromLast : {false, true}) {
            std::vector<std::size_t> order;
            for (std::size_t k = fromLast ? 0 : 1; k < w.leads.size() - (fromLast ? 1 : 0); ++k) order.push_back(k);
            if (fromLast) std::reverse(order.begin(), order.end());
            for (const auto& set : usual) {
                if (set.size() != order.size()) continue;
                double off = 0;
                for (std::size_t k = 0; k < set.size(); ++k)
                    off = std::max(off, std::abs(std::log(std::pow(voltsTo(w, order[k], fromLast) / w.volts, 2) *
                                                          set.back() / set[k])));
                if (off < best.off) best = {fromLast, set, order, off};
            }
        }
        return best;
    }

    void asOutput() {
        FoundWinding& p = out.windings.front();
        if (!(p.volts > 0)) {
            out.says.push_back("Volts on each winding, while one of them is fed from a low and isolated alternating "
                               "voltage, tell the ratios: feed the one with the most ohms.");
            return;
        }
        if (p.firstHalf > 0) put("primaryResistanceA", p.firstHalf, meter.ohms, "to the centre tap");
        if (p.lastHalf > 0) put("primaryResistanceB", p.lastHalf, meter.ohms, "to the centre tap");
        for (const FoundLead& l : p.leads)
            if (l.is.starts_with("screen tap")) {
                put("screenTap", std::abs(2 * l.turns - 1), std::numbers::sqrt2 * meter.ac, "of the half's turns");
                break;
            }
        const std::size_t n = out.windings.size();
        if (n < 2) return;
        FoundWinding& s = out.windings[1];
        if (!(s.volts > 0) || p.volts < 5 * s.volts) return;
        const Loads loads = s.leads.size() > 2 ? loadsOf(s) : Loads{};
        constexpr double sure = 0.12; // of the logarithm of impedance
        const double ratio = p.volts / s.volts;
        if (loads.off < sure) {
            std::vector<std::string> words;
            std::size_t chosen = loads.leads.size() - 1;
            for (std::size_t k = 0; k < loads.leads.size(); ++k) {
                s.leads[loads.leads[k]].is = fmt::format("{:g} \u03a9", loads.ohms[k]);
                words.push_back(fmt::format("{} for {:g} \u03a9", s.leads[loads.leads[k]].name, loads.ohms[k]));
                if (std::abs(std::log(loads.ohms[k] / loadOhms)) < std::abs(std::log(loads.ohms[chosen] / loadOhms)))
                    chosen = k;
            }
            s.leads[loads.fromLast ? s.leads.size() - 1 : 0].is = "common";
            const double z = loads.ohms.back() * ratio * ratio;
            out.says.push_back(fmt::format(
                "The taps of the secondary go as {}, from {}: the whole primary is then {}.", fmt::join(words, ", "),
                s.leads[loads.fromLast ? s.leads.size() - 1 : 0].name, format(z, Unit::Ohm)));
            std::vector<std::string> others;
            for (std::size_t k = 0; k < loads.leads.size(); ++k)
                if (std::abs(loads.ohms[k] / loadOhms - 1) > 0.01)
                    others.push_back(fmt::format("on {} as {}", s.leads[loads.leads[k]].name,
                                                 format(z * loadOhms / loads.ohms[k], Unit::Ohm)));
            if (!others.empty())
                out.says.push_back(fmt::format("{} shows there {}; any load in proportion.",
                                               formatExact(loadOhms, Unit::Ohm), fmt::join(others, ", ")));
            put("primaryImpedance", z, 2 * std::numbers::sqrt2 * meter.ac, "by the loads of its taps");
            secondaryCopper(s, loads.leads[chosen], loads.fromLast);
        } else {
            std::vector<std::string> pairs;
            for (const ReflectedLoad& l : reflectedLoads(p.volts, s.volts))
                if (l.usual > 0)
                    pairs.push_back(
                        fmt::format("{} on {}", formatExact(l.usual, Unit::Ohm), formatExact(l.load, Unit::Ohm)));
            if (!pairs.empty())
                out.says.push_back(fmt::format("As an output transformer, {:.3g} to 1, it may have been made for {}.",
                                               ratio, fmt::join(pairs, ", or ")));
            put("primaryImpedance", loadOhms * ratio * ratio, 2 * std::numbers::sqrt2 * meter.ac,
                fmt::format("{:.4g} to 1, with {} on it", ratio, formatExact(loadOhms, Unit::Ohm)));
            secondaryCopper(s, s.leads.size() - 1, false);
        }
    }
    void secondaryCopper(const FoundWinding& s, std::size_t lead, bool fromLast) {
        if (!(s.ohms > 0)) return;
        // Copper goes about as the turns within one winding.
        put("secondaryResistance", s.ohms * (fromLast ? 1 - s.leads[lead].turns : s.leads[lead].turns), meter.ohms,
            s.ohms < 1 ? "the meter's leads taken off, read shorted" : "as read");
    }
    void put(const char* key, double value, double error, std::string how) {
        out.iron.values.push_back({key, value, error, std::move(how)});
    }

    /// With which winding on the mains others come out at a heater's volts.
    void asMains() {
        constexpr std::array heaters{12.6, 6.3, 5.0};
        std::size_t bestHits = 0;
        std::string best;
        for (const FoundWinding& p : out.windings) {
            if (!(p.volts > 0)) continue;
            const double scale = mainsVolts / p.volts;
            std::vector<std::string> others;
            std::size_t hits = 0;
            for (const FoundWinding& w : out.windings) {
                if (&w == &p || !(w.volts > 0)) continue;
                const double volts = w.volts * scale;
                const auto name = fmt::format("{} to {}", w.leads.front().name, w.leads.back().name);
                const auto heater = std::find_if(heaters.begin(), heaters.end(),
                                                 [&](double h) { return volts > 0.98 * h && volts < unloaded * h; });
                if (heater != heaters.end() && (w.ohms == 0 || w.ohms < 2)) {
                    ++hits;
                    others.push_back(
                        fmt::format("{} {} for heaters of {:g} V", name, format(volts, Unit::Volt), *heater));
                } else {
                    const bool halves = std::any_of(w.leads.begin(), w.leads.end(),
                                                    [](const FoundLead& l) { return l.is == "centre tap"; });
                    others.push_back(halves ? fmt::format("{} twice {}", name, format(volts / 2, Unit::Volt))
                                            : fmt::format("{} {}", name, format(volts, Unit::Volt)));
                }
            }
            if (hits > bestHits) {
                bestHits = hits;
                best = fmt::format("As a mains transformer with {} to {} at {}: {}, all without load.",
                                   p.leads.front().name, p.leads.back().name, format(mainsVolts, Unit::Volt),
                                   fmt::join(others, "; "));
            }
        }
        if (bestHits > 0) out.says.push_back(best);
    }

    std::span<const LeadReading> readings;
    double mainsVolts, loadOhms;
    const Meter& meter;
    UnknownIron out;
};

} // namespace

Expected<UnknownIron> identify(std::span<const LeadReading> readings, double mainsVolts, double load,
                               const Meter& meter) {
    return Identifying(readings, mainsVolts, load, meter).run();
}

} // namespace ember::plan
