// No mend makes something else dangerous: every one that is offered, of every start and of builds changed at random, is
// applied, and the amplifier after it is looked at part by part, by its ratings and without the rules that offered it.
#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/discharge.h"
#include "core/plan/solve.h"
#include "core/plan/supply_circuit.h"
#include "core/rules/findings.h"

#include <QTest>

#include <fmt/format.h>

#include <cmath>
#include <map>
#include <random>

using namespace ember;
using namespace ember::rules;

namespace {

/// How far each part of the supply is into its rating, at the worst, 1: at it.
std::map<std::string, double> stress(const Build& b, const plan::Figures& f) {
    std::map<std::string, double> out;
    if (!f.cold || !f.high) return out;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        const auto node = static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1);
        if (s.kind == SectionKind::Capacitor) out[s.id + " volts"] = f.cold->nodes[node].most / plan::stringVolts(s);
        if (s.kind == SectionKind::Resistor) out[s.id + " watts"] = f.high->partWatts.at(s.id) / s.watts;
    }
    for (const Bleeder& x : b.supply.bleeders)
        out[x.resistor.id + " watts"] = f.cold->partWatts.at(x.resistor.id) / x.resistor.watts;
    out["winding"] = f.high->legRms / b.transformer.plateAmps;
    const RectifierType& r = *Catalogue::shipped().rectifier(b.supply.rectifier.type);
    out["rectifier peak"] = f.high->rectifierPeak / r.peakAmps;
    return out;
}

std::vector<Finding> offered(const Build& b, plan::Figures& f) {
    f = plan::solveFigures(b, catalogue);
    if (!f.failures.empty()) return {};
    if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high)) f.inrush = *rush;
    if (auto held = plan::dischargeOf(b, *f.cold)) f.discharge = std::move(*held);
    std::vector<Finding> all = inspect(b, catalogue, f);
    tryMends(b, catalogue, all);
    return all;
}

/// What a mend of `b` makes worse, as words; empty: nothing.
std::string harm(const Build& b, const std::string& name, int& mends) {
    plan::Figures before;
    for (const Finding& x : offered(b, before)) {
        if (!x.fix) continue;
        ++mends;
        const auto next = apply(b, *x.fix);
        if (!next) return fmt::format("{}: \"{}\" is refused", name, x.fix->name);
        const plan::Figures after = plan::solveFigures(*next, catalogue);
        if (!after.failures.empty()) return fmt::format("{}: \"{}\" leaves no solution", name, x.fix->name);
        const auto was = stress(b, before);
        for (const auto& [part, share] : stress(*next, after)) {
            const auto old = was.find(part);
            if (share > 1.001 && (old == was.end() || old->second <= 1))
                return fmt::format("{}: \"{}\" brings {} to {:.0f} % of its rating", name, x.fix->name, part,
                                   100 * share);
        }
        if (was.contains("winding") && was.at("winding") > 1 && next->fuse.amps > b.fuse.amps)
            return fmt::format("{}: \"{}\" while the winding is overloaded", name, x.fix->name);
    }
    return {};
}

} // namespace

class TestMends : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void noMendOfAnyStartMakesAnythingDangerous() {
        int mends = 0;
        for (const Start& s : starts()) {
            const std::string said = harm(s.build, s.id, mends);
            QVERIFY2(said.empty(), said.c_str());
        }
        const std::string said = harm(demoBuild(), "demo", mends);
        QVERIFY2(said.empty(), said.c_str());
    }

    void norOfAnyBuildChangedAtRandom() {
        // As many as are asked for, 500 before a release: each takes half a second without the sanitizer.
        const int asked = qEnvironmentVariableIntValue("EMBER_MUTATED");
#ifdef EMBER_SANITIZE
        const int builds = std::max(6, asked);
#else
        const int builds = std::max(60, asked);
#endif
        std::vector<const Build*> from;
        for (const Start& s : starts())
            if (!s.build.supply.sections.empty()) from.push_back(&s.build);
        int mends = 0, solved = 0;
        for (int k = 0; k < builds; ++k) {
            std::mt19937 chance(static_cast<unsigned>(k));
            Build b = *from[static_cast<std::size_t>(k) % from.size()];
            const auto some = [&](double& value, double least, double most) {
                if (chance() % 3 == 0)
                    value *= std::exp(std::uniform_real_distribution<double>(std::log(least), std::log(most))(chance));
            };
            for (Section& s : b.supply.sections) {
                if (s.kind == SectionKind::Capacitor) some(s.capacitance, 0.3, 4), some(s.volts, 0.5, 1.3);
                if (s.kind == SectionKind::Resistor) some(s.resistance, 0.3, 3), some(s.watts, 0.1, 1.5);
                if (s.kind == SectionKind::Choke) some(s.amps, 0.3, 1.5), some(s.inductance, 0.3, 2);
            }
            some(b.transformer.plateVolts, 0.8, 1.2);
            some(b.transformer.plateAmps, 0.3, 1.5);
            some(b.fuse.amps, 0.2, 4);
            if (chance() % 4 == 0) b.supply.bleeders.clear();
            const std::string said = harm(b, fmt::format("build {}", k), mends);
            QVERIFY2(said.empty(), said.c_str());
            ++solved;
        }
        QVERIFY2(mends > builds, qPrintable(QString("%1 mends of %2 builds").arg(mends).arg(solved)));
    }

    /// Each was offered once: a fuse of 4 A beside an overloaded winding, silicon that takes a capacitor past its
    /// rating.
    void aLargerFuseIsNotOfferedWhileAWindingIsOverloaded() {
        Build b = demoBuild();
        b.fuse.amps = 0.2;
        b.transformer.plateAmps = 0.05;
        plan::Figures f;
        for (const Finding& x : offered(b, f))
            if (x.fix) {
                const auto next = apply(b, *x.fix);
                QVERIFY2(!next || next->fuse.amps <= b.fuse.amps, x.fix->name.c_str());
            }
    }
};

EMBER_TESTS(TestMends)
#include "test_mends.moc"
