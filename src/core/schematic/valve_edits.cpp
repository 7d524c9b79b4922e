#include "stage_edits.h"

#include "stages/stage_builder.h"

#include "core/build/path.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <set>

namespace ember::schematic {

namespace {

struct Place {
    int section, sections;
};

/// Loose parts at the electrodes of a section follow it to its net's new name.
void joinAgain(const Build& b, const std::string& name, const std::string& bottle, Place before, Place after,
               std::vector<Edit>& all) {
    for (const char* electrode : {"grid", "screen", "plate", "cathode"}) {
        const std::string old = electrodeNet(bottle, electrode, before.section, before.sections),
                          now = electrodeNet(bottle, electrode, after.section, after.sections);
        for (std::size_t k = 0; k < b.loose.size() && old != now; ++k) {
            if (b.loose[k].from == old) all.push_back(setText(name, fmt::format("/loose/{}/from", k), now));
            if (b.loose[k].to == old) all.push_back(setText(name, fmt::format("/loose/{}/to", k), now));
        }
    }
}

} // namespace

Edit changeType(const Build& b, const Catalogue& catalogue, const std::string& bottle, const std::string& type) {
    const auto k = bottleIndex(b, bottle);
    const std::string name = fmt::format("{} to {}", upper(bottle), type);
    const Edit exchanged = setText(name, fmt::format("/bottles/{}/type", k ? *k : b.bottles.size()), type);
    const ValveType *from = k ? catalogue.valve(b.bottles[*k].type) : nullptr, *to = catalogue.valve(type);
    if (!from || !to) return exchanged;
    std::vector<Edit> all{exchanged};
    std::set<int> taken;
    for (std::size_t c = 0; c < b.channels.size(); ++c)
        for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s)
            for (std::size_t v = 0; v < b.channels[c].stages[s].valves.size(); ++v) {
                const StageValve& use = b.channels[c].stages[s].valves[v];
                if (use.bottle != bottle) continue;
                const bool pentode = from->section(use.section).pentode;
                const auto fits = [&](int n) {
                    return n <= to->sections() && to->section(n).pentode == pentode && !taken.count(n);
                };
                int section = use.section;
                for (int n = 1; n <= to->sections() && !fits(section); ++n)
                    if (fits(n)) section = n;
                taken.insert(section);
                joinAgain(b, name, bottle, {use.section, from->sections()}, {section, to->sections()}, all);
                if (section != use.section)
                    all.push_back(
                        setWhole(name, fmt::format("/channels/{}/stages/{}/valves/{}/section", c, s, v), section));
            }
    return all.size() == 1 ? exchanged : together(name, all);
}

} // namespace ember::schematic
