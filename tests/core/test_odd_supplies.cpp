// Supplies that nobody should build: each is named at its part, the other figures stay, nothing hangs or turns NaN.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"
#include "core/build/fields.h"
#include "core/plan/named_figures.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"
#include "core/wires/ground_network.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::plan;

using Change = std::function<void(Build&)>;

namespace {

QString notFinite(const Build& b, const Steady& s) {
    for (const NamedFigure& f : namedFigures(b, s))
        if (!std::isfinite(f.value)) return QString::fromStdString(f.id);
    return {};
}

double demoFirstNode() {
    static const double volts = solveFigures(demoBuild(), catalogue).nominal->nodes[0].mean;
    return volts;
}

Section section(const Build& b, const char* id) {
    return *std::find_if(b.supply.sections.begin(), b.supply.sections.end(),
                         [&](const Section& s) { return s.id == id; });
}

/// Puts one number at an end of its range, or at nothing where that is allowed.
class Extreme : public fields::Visitor {
  public:
    Extreme(std::mt19937& chance, double share) : random(chance), often(share) {}
    void text(const char*, std::string&) override {}
    void flag(const char*, bool&) override {}
    void integer(const char*, int&, int, int) override {}
    void choiceOf(const char*, int&, std::span<const std::string_view>) override {}
    void objectOf(const char*, const fields::Object&) override {}
    void listOf(const char*, const fields::List&, std::size_t) override {}
    void number(const char*, double& value, Unit, Range range) override {
        if (std::uniform_real_distribution<double>(0, 1)(random) < often)
            value = random() % 2 ? range.least : range.most;
    }

  private:
    std::mt19937& random;
    double often;
};

} // namespace

class TestOddSupplies : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void isNamedAtItsPartAndTheRestStays_data() {
        QTest::addColumn<QString>("id");
        QTest::addColumn<Change>("odd");
        QTest::addColumn<double>("least"); ///< the first node's volts, as shares of the demo's
        QTest::addColumn<double>("most");
        // The crest without load bounds them all; a short of 1 ohm gets what the winding's copper lets through, one
        // behind the choke leaves that copper's share against the winding's; what stands behind the choke hardly moves
        // it.
        const double crest = demoBuild().mains.crest * demoBuild().transformer.plateVolts / demoFirstNode();
        const auto row = [](const char* id, double least, double most, Change odd) {
            QTest::newRow(id) << QString(id) << odd << least << most;
        };
        row("no-inductance/l1", 0.95, 1.05, [](Build& b) { b.supply.sections[1].inductance = 0; });
        row("no-copper/l1", 0.95, 1.05, [](Build& b) { b.supply.sections[1].resistance = 0; });
        row("shorted-section/r1", 0.95, 1.05, [](Build& b) { b.supply.sections[3].resistance = 0; });
        row("no-source-resistance", 1.02, crest, [](Build& b) { // the first capacitor across the bare winding
            b.transformer.plateResistance = b.transformer.primaryResistance = 0;
        });
        row("no-capacitor/r1", 0.95, 1.05, [](Build& b) { b.supply.sections.pop_back(); });
        row("leads-nowhere/r9", 0.95, 1.05, [](Build& b) {
            Section s = section(b, "r1");
            s.id = "r9";
            b.supply.sections.push_back(s);
        });
        row("no-path", 0.98 * crest, crest, [](Build& b) { b.channels.clear(), b.supply.bleeders.clear(); });
        row("shorted-node/rb", 0.0, 0.02, [](Build& b) {
            b.supply.bleeders.push_back({{}, 1, {{}, "rb", 1, 5, 0.05}});
        });
        row("shorted-node/load", 0.1, 0.5, [](Build& b) { // behind the choke
            b.supply.loads.push_back({{}, "load", 2, 0, 0.5});
        });
    }
    void isNamedAtItsPartAndTheRestStays() {
        QFETCH(QString, id);
        QFETCH(Change, odd);
        QFETCH(double, least);
        QFETCH(double, most);
        Build b = demoBuild();
        odd(b);
        const auto wrong = checkReferences(b);
        QVERIFY2(!wrong, wrong ? wrong->text().c_str() : "");
        const Figures f = solveFigures(b, catalogue);
        QVERIFY2(f.failures.empty(), f.failures.empty() ? "" : f.failures[0].c_str());
        for (const auto* s : {&f.low, &f.nominal, &f.high}) {
            QVERIFY(*s);
            QVERIFY2(notFinite(b, **s).isEmpty(), qPrintable(notFinite(b, **s)));
        }
        QVERIFY(f.cold);
        for (const NodeFigures& n : f.cold->nodes) QVERIFY(std::isfinite(n.mean) && std::isfinite(n.most));
        const double share = f.nominal->nodes[0].mean / demoFirstNode();
        QVERIFY2(share > least && share < most, qPrintable(QString::number(share)));
        const auto all = rules::inspect(b, catalogue, f);
        const auto at = std::find_if(all.begin(), all.end(), [&](const auto& x) { return x.id == id.toStdString(); });
        QVERIFY(at != all.end());
        QVERIFY(at->text.size() > 40);
        QVERIFY(at->fix);
        const auto mended = apply(b, *at->fix);
        QVERIFY2(mended.ok(), mended.ok() ? "" : mended.problem().text().c_str());
        const auto after = rules::inspect(*mended, catalogue, solveFigures(*mended, catalogue));
        QVERIFY(std::none_of(after.begin(), after.end(), [&](const auto& x) { return x.id == id.toStdString(); }));
        static const auto plainDemo = rules::inspect(demoBuild(), catalogue, solveFigures(demoBuild(), catalogue));
        QVERIFY(
            std::none_of(plainDemo.begin(), plainDemo.end(), [&](const auto& x) { return x.id == id.toStdString(); }));
    }

    void curvesOfOddSuppliesEnd() {
        // A piece of wire between two capacitors, a choke of nothing, and no winding resistance, through time.
        Build b = demoBuild();
        b.supply.sections[1].inductance = 0;
        b.supply.sections[3].resistance = 0;
        b.transformer.plateResistance = b.transformer.primaryResistance = 0;
        Figures f = solveFigures(b, catalogue);
        QVERIFY(f.nominal);
        const auto on = switchOn(b, catalogue, *f.nominal, 2);
        QVERIFY2(on.ok(), on.ok() ? "" : on.problem().text().c_str());
        for (const auto& node : on->nodes)
            QVERIFY(std::all_of(node.begin(), node.end(), [](double v) { return std::isfinite(v); }));
        const auto off = switchOff(b, catalogue, *f.nominal, true, 60);
        QVERIFY2(off.ok(), off.ok() ? "" : off.problem().text().c_str());
    }

    void absurdValuesAreRefusedWithTheRange_data() {
        QTest::addColumn<QString>("pointer");
        QTest::addColumn<double>("value");
        QTest::newRow("a farad of film") << "/supply/sections/0/capacitance" << 1e3;
        QTest::newRow("negative") << "/supply/sections/3/resistance" << -5.0;
        QTest::newRow("a million henries") << "/supply/sections/1/inductance" << 1e6;
        QTest::newRow("lightning") << "/transformer/plateVolts" << 1e6;
        QTest::newRow("not a number") << "/transformer/plateVolts" << std::nan("");
        QTest::newRow("no frequency") << "/mains/frequency" << 0.0;
        QTest::newRow("no capacitance") << "/supply/sections/0/capacitance" << 0.0;
    }
    void absurdValuesAreRefusedWithTheRange() {
        QFETCH(QString, pointer);
        QFETCH(double, value);
        const auto done = apply(demoBuild(), setValue("", pointer.toStdString(), value));
        QVERIFY(!done.ok());
        QCOMPARE(QString::fromStdString(done.problem().where), pointer);
        QVERIFY(done.problem().sentence.size() > 15);
    }

    void theLastPartOfTheChainStays() {
        Build b = demoBuild();
        b.channels.clear();
        while (b.supply.sections.size() > 1) b = *apply(b, removeSection(b, b.supply.sections.size() - 1));
        const auto none = apply(b, removeSection(b, 0));
        QVERIFY(!none.ok());
        QVERIFY(none.problem().sentence.find("one part") != std::string::npos);
    }

    void theEndsOfEveryRangeGiveFiguresOrASentence() {
        std::mt19937 chance(11);
#if defined(__SANITIZE_ADDRESS__)
        constexpr int builds = 12; // each takes seconds there
#else
        constexpr int builds = 40;
#endif
        int solved = 0;
        for (int k = 0; k < builds; ++k) {
            Build b = demoBuild();
            Extreme change(chance, 0.08);
            fields::visit(change, b.transformer);
            for (Section& s : b.supply.sections) fields::visit(change, s);
            Conditions c;
            c.mainsVolts = b.mains.volts;
            const auto s = solveSteady(b, catalogue, c);
            if (!s) {
                QVERIFY(s.problem().text().size() > 20);
                continue;
            }
            ++solved;
            QVERIFY2(notFinite(b, *s).isEmpty(), qPrintable(notFinite(b, *s)));
            const auto all = rules::inspect(b, catalogue, solveFigures(b, catalogue));
            for (const auto& f : all) QVERIFY2(f.text.find("nan") == std::string::npos, f.text.c_str());
        }
        QVERIFY2(solved >= 8 * builds / 10,
                 qPrintable(QString::number(solved))); // most of what is odd can still be computed
    }

    /// What returns from a doubler to the ground: its lower capacitor and its lower diode, once a period. Pulses that
    /// are narrow have every harmonic as the root of 2 times their mean, wide ones less; there is as much of the mains'
    /// own frequency as of twice that.
    void aDoublersReturnsPulseAtTheMainsFrequency() {
        Build b = demoBuild();
        b.supply.rectifier.type = "silicon", b.supply.rectifier.inSeries = 3;
        b.supply.connection = Connection::Doubler;
        b.supply.sections[0].inSeries = 2;
        b.transformer.plateVolts /= 2;
        b.bias.from = BiasSource::Winding;
        const Figures f = solveFigures(b, catalogue);
        QVERIFY(f.nominal && !f.nominal->middleRipple.empty());
        const wires::Harness h = wires::harnessOf(b, catalogue);
        const auto amps = wires::returnCurrents(b, h, *f.nominal);
        double mains = 0, twice = 0;
        for (std::size_t p = 0; p < h.points.size(); ++p)
            if (h.points[p].what == wires::Returns::Winding) {
                mains += std::abs(amps[0][static_cast<Eigen::Index>(p)]);
                twice += std::abs(amps[1][static_cast<Eigen::Index>(p)]);
            }
        const double mean = f.nominal->rectifierMean;
        const QString seen = QString("%1 A, %2 A of %3 A").arg(mains).arg(twice).arg(mean);
        QVERIFY2(mains > 1.1 * mean && mains < 1.42 * mean, qPrintable(seen));
        QVERIFY2(twice > 0.8 * mean && twice < 1.42 * mean && twice < mains, qPrintable(seen));
    }
};

EMBER_TESTS(TestOddSupplies)
#include "test_odd_supplies.moc"
