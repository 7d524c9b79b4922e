// Iron into iron: what a mains transformer's and a choke's stray field make in the output transformers.

#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/build/starts.h"
#include "core/chassis/layout_figures.h"
#include "core/chassis/place_all.h"
#include "core/plan/choke_flux.h"
#include "core/wires/iron_pickup.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

namespace {

using std::numbers::pi;

double heard(const wires::WireFigures& f, const std::string& from, const std::string& into) {
    for (const wires::IronPickup& p : f.hum.pickups)
        if (p.from == from && p.into == into) return p.output;
    return -1;
}

PlacedPart& placedOf(Build& b, const std::string& of) {
    for (PlacedPart& p : b.chassis.parts)
        if (p.of == of) return p;
    qFatal("nothing stands for %s", of.c_str());
}

} // namespace

class TestIronPickup : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// 7.2 V RMS at 100 Hz across 10 H are 11.5 mVs RMS; 10 H at 0.1 A hold 1 Vs at the crest.
    void aChokesFluxIsItsVoltsOverFrequency() {
        Build b = demoBuild();
        b.supply.sections[1].inductance = 10, b.supply.sections[1].amps = 0.1;
        plan::Steady s;
        s.nodes.resize(3);
        s.nodes[0].ripple.assign(12, 0);
        s.nodes[1].ripple.assign(12, 0);
        s.nodes[0].ripple[1] = 7.2;
        QVERIFY(std::abs(plan::alternatingShare(b, s, 1) - std::sqrt(2.0) * 7.2 / (2 * pi * 100)) < 1e-6);
        s.nodes[0].ripple[1] = 1.5;
        const double quieter = plan::alternatingShare(b, s, 1);
        QVERIFY2(std::abs(quieter - std::sqrt(2.0) * 1.5 / (2 * pi * 100)) < 1e-6, "less ripple, less field");
        QVERIFY(plan::alternatingShare(b, s, 0) == 0); // a capacitor
    }
    /// A single-ended stage without feedback is a source of the valve's resistance: the EMF w N A B, in series with the
    /// primary's inductance, divides between that and load and valve in parallel.
    void anOpenLoopStageHearsWhatItsImpedancesLeave() {
        Build b = startOf("single-ended-triode")->build;
        for (Channel& ch : b.channels) std::erase_if(ch.stages, [](const Stage& s) { return s.kind == "feedback"; });
        auto f = plan::solveFigures(b, catalogue);
        QVERIFY(f.nominal);
        b = *apply(b, *chassis::placeAll(b, catalogue, f));
        f = plan::solveFigures(b, catalogue);
        plan::completeFigures(b, catalogue, f);
        const auto w = wires::wireFigures(b, catalogue, f);
        const OutputTransformer* t = nullptr;
        for (const Stage& s : b.channels[0].stages)
            for (const StagePart& p : s.parts)
                if (const auto* iron = std::get_if<OutputTransformer>(&p.part)) t = iron;
        QVERIFY(t);
        const auto dipoles = chassis::dipolesOf(b.chassis, chassis::assemble(b.chassis));
        const chassis::Dipole *mains = nullptr, *out = nullptr;
        for (const auto& d : dipoles) {
            if (b.chassis.parts[d.part].of == b.transformer.id) mains = &d;
            if (b.chassis.parts[d.part].of == t->id) out = &d;
        }
        QVERIFY(mains && out);
        const double along = std::abs(chassis::fieldAt(*mains, out->centre).dot(out->axis));
        const double ratio = std::sqrt(t->loadImpedance / t->primaryImpedance),
                     copper = t->secondaryResistance / (ratio * ratio), load = t->primaryImpedance + copper,
                     valve = f.power[0].outputOhms / (ratio * ratio) - copper, parallel = load * valve / (load + valve);
        double squares = 0;
        for (const auto& [harmonic, share] : {std::pair{1, 1.0}, {3, 0.25}, {5, 0.12}, {7, 0.05}}) {
            const double omega = 2 * pi * 50 * harmonic, reactance = omega * t->primaryInductance;
            // w times the linkage: at the lowest frequency 1.2 T stand for the rated watts; a core gathers three times.
            const double emf = omega * std::sqrt(2 * t->watts * t->primaryImpedance) / (2 * pi * t->lowestHertz) / 1.2 *
                               3 * b.chassis.parts[out->part].stray * along * share;
            squares +=
                std::pow(ratio * t->primaryImpedance / load * emf * parallel / std::hypot(reactance, parallel), 2);
        }
        const double expected = std::sqrt(squares), got = heard(w, b.transformer.id, t->id);
        QVERIFY2(std::abs(got / expected - 1) < 0.1, qPrintable(QString("%1 V, by hand %2 V").arg(got).arg(expected)));
    }
    /// It is in the budget: taken away by turning the transformer into the null, the field's share falls with it.
    void theBudgetKnowsIt() {
        Build b = unwired();
        const auto before = wired(b);
        const std::string mains = b.transformer.id;
        QVERIFY(heard(before, mains, "ot1") > 0 && heard(before, "l1", "ot1") > 0);
        const auto field = [](const wires::WireFigures& f) {
            return f.hum.channels[0].by[static_cast<std::size_t>(wires::HumSource::Field)];
        };
        QVERIFY(field(before) > 0.5 * heard(before, mains, "ot1"));
        placedOf(b, mains).voltAmperes = 0; // no stray field at all
        QVERIFY(field(wired(b)) < field(before));
        QVERIFY(heard(wired(b), mains, "ot1") < 0);
    }
};

EMBER_TESTS(TestIronPickup)
#include "test_iron_pickup.moc"
