// Laws that every supply obeys whatever its figures: it may be scaled in volts, in impedance and in time, and each
// change of a part moves the figures the way it must.

#include "../support/suite.h"

#include "core/catalogue/catalogue.h"
#include "core/plan/supply_case.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;
using namespace ember::plan;

namespace {

/// A vacuum supply of random connection and chain.
SupplyCase randomSupply(std::mt19937& chance) {
    const auto between = [&](double low, double high) {
        return low * std::pow(high / low, std::uniform_real_distribution<double>(0, 1)(chance));
    };
    SupplyCase c;
    constexpr std::array connections{Connection::CentreTapped, Connection::HalfWave, Connection::Bridge};
    c.supply.connection = connections[chance() % connections.size()];
    c.frequency = 50;
    c.emf = between(150, 450);
    c.sourceOhms = between(20, 200);
    c.rectifier.vacuum = true;
    c.rectifier.law.perveance = between(3e-4, 3e-3);
    const auto add = [&](SectionKind kind) {
        Section s;
        s.id = "s" + std::to_string(c.supply.sections.size());
        s.kind = kind;
        s.capacitance = between(10e-6, 100e-6);
        s.resistance = kind == SectionKind::Choke ? between(50, 300) : between(100, 3000);
        s.inductance = between(2, 15);
        s.leakageResistance = 0;
        c.supply.sections.push_back(s);
    };
    add(SectionKind::Capacitor);
    for (unsigned k = 0; k < chance() % 3; ++k) {
        add(chance() % 2 ? SectionKind::Choke : SectionKind::Resistor);
        add(SectionKind::Capacitor);
    }
    c.loads = {{1, between(5e3, 20e3), 0}, {static_cast<int>(c.supply.sections.size() / 2 + 1), between(5e3, 50e3), 0}};
    return c;
}

SupplyCaseFigures solved(const SupplyCase& c) {
    const auto f = solveCase(c);
    if (!f) qFatal("%s", f.problem().text().c_str());
    return *f;
}

/// Like the other, its volts times `volts` and its amps times `amps`.
QString unlike(const SupplyCaseFigures& a, const SupplyCaseFigures& z, double volts, double amps) {
    QString out;
    const auto compare = [&](const char* what, double x, double y, double share) {
        if (std::abs(x / y - 1) > share) out += QString("%1: %2 for %3; ").arg(what).arg(x).arg(y);
    };
    for (std::size_t k = 0; k < a.nodes.size(); ++k) {
        compare("mean", z.nodes[k].mean, volts * a.nodes[k].mean, 1e-4);
        compare("ripple", z.nodes[k].rippleRms, volts * a.nodes[k].rippleRms, 2e-3);
    }
    compare("peak", z.rectifierPeak, amps * a.rectifierPeak, 2e-3);
    compare("winding", z.windingRms, amps * a.windingRms, 1e-3);
    compare("power", z.sourceWatts, volts * amps * a.sourceWatts, 1e-3);
    return out;
}

} // namespace

class TestSupplySimilarity : public QObject {
    Q_OBJECT
    static constexpr int supplies = 24;

  private Q_SLOTS:
    void volts() {
        // i = K v^1.5: three times the volts with K / sqrt 3 are three times the amps.
        std::mt19937 chance(1);
        for (int k = 0; k < supplies; ++k) {
            const SupplyCase a = randomSupply(chance);
            SupplyCase z = a;
            z.emf *= 3;
            z.rectifier.law.perveance /= std::sqrt(3);
            const QString why = unlike(solved(a), solved(z), 3, 3);
            QVERIFY2(why.isEmpty(), qPrintable(why));
        }
    }

    void impedance() {
        std::mt19937 chance(2);
        for (int k = 0; k < supplies; ++k) {
            const SupplyCase a = randomSupply(chance);
            SupplyCase z = a;
            constexpr double by = 2.5;
            z.sourceOhms *= by;
            z.rectifier.law.perveance /= by;
            for (Section& s : z.supply.sections) s.resistance *= by, s.inductance *= by, s.capacitance /= by;
            for (SupplyCase::Load& l : z.loads) l.ohms *= by;
            const QString why = unlike(solved(a), solved(z), 1, 1 / by);
            QVERIFY2(why.isEmpty(), qPrintable(why));
        }
    }

    void time() {
        // 60 Hz with parts of five sixths is 50 Hz.
        std::mt19937 chance(3);
        for (int k = 0; k < supplies; ++k) {
            const SupplyCase a = randomSupply(chance);
            SupplyCase z = a;
            z.frequency = 60;
            for (Section& s : z.supply.sections) s.inductance *= 50.0 / 60, s.capacitance *= 50.0 / 60;
            const QString why = unlike(solved(a), solved(z), 1, 1);
            QVERIFY2(why.isEmpty(), qPrintable(why));
        }
    }

    void whatGoesInComesOut() {
        std::mt19937 chance(4);
        for (int k = 0; k < supplies; ++k) {
            const SupplyCaseFigures f = solved(randomSupply(chance));
            QVERIFY2(std::abs(f.lossWatts / f.sourceWatts - 1) < 1e-3,
                     qPrintable(QString::number(f.lossWatts / f.sourceWatts)));
            // No node below is above the one before it, and each ripple is less than the last.
            for (std::size_t n = 1; n < f.nodes.size(); ++n) {
                QVERIFY(f.nodes[n].mean <= f.nodes[n - 1].mean);
                QVERIFY(f.nodes[n].rippleRms < f.nodes[n - 1].rippleRms);
            }
        }
    }

    void partsPullWhereTheyMust() {
        std::mt19937 chance(5);
        for (int k = 0; k < supplies; ++k) {
            const SupplyCase a = randomSupply(chance);
            const SupplyCaseFigures plain = solved(a);
            const auto changed = [&](auto change) {
                SupplyCase z = a;
                change(z);
                return solved(z);
            };
            const auto larger = changed([](SupplyCase& z) { z.supply.sections[0].capacitance *= 2; });
            QVERIFY(larger.nodes[0].rippleRms < plain.nodes[0].rippleRms);
            QVERIFY(larger.rectifierPeak > plain.rectifierPeak);
            const auto stiffer = changed([](SupplyCase& z) { z.sourceOhms *= 0.5; });
            QVERIFY(stiffer.nodes[0].mean > plain.nodes[0].mean);
            QVERIFY(stiffer.rectifierPeak > plain.rectifierPeak);
            const auto tired = changed([](SupplyCase& z) { z.rectifier.law.perveance *= 0.6; });
            QVERIFY(tired.nodes[0].mean < plain.nodes[0].mean);
            const auto heavier = changed([](SupplyCase& z) { z.loads.back().ohms *= 0.5; });
            QVERIFY(heavier.nodes.back().mean < plain.nodes.back().mean);
            QVERIFY(heavier.rectifierMean > plain.rectifierMean);
            const auto leg = changed([](SupplyCase& z) { z.supply.rectifier.legResistance = 100; });
            QVERIFY(leg.rectifierPeak < plain.rectifierPeak && leg.nodes[0].mean < plain.nodes[0].mean);
        }
    }

    void aDroppedResistorDropsOhmsLaw() {
        // Between two capacitors only the load behind it flows, whatever the ripple.
        SupplyCase c;
        c.rectifier = *Catalogue::shipped().rectifier("5V4G");
        c.emf = 280;
        c.sourceOhms = 80;
        Section first, drop, last;
        first.id = "c1", last.id = "c2", drop.id = "r1";
        first.leakageResistance = last.leakageResistance = 0;
        drop.kind = SectionKind::Resistor;
        drop.resistance = 2200;
        c.supply.sections = {first, drop, last};
        c.loads = {{2, 0, 0.02}, {1, 0, 0.05}};
        const SupplyCaseFigures f = solved(c);
        QVERIFY(std::abs((f.nodes[0].mean - f.nodes[1].mean) / (2200 * 0.02) - 1) < 1e-4);
        QVERIFY2(std::abs(f.rectifierMean / 0.07 - 1) < 1e-3, qPrintable(QString::number(f.rectifierMean)));
    }
};

EMBER_TESTS(TestSupplySimilarity)
#include "test_supply_similarity.moc"
