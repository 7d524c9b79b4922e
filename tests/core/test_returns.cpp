// Ways of joining the returns, layouts by chance, and heaters in another simulator.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/chassis/layout_edits.h"
#include "core/plan/solve.h"
#include "core/wires/hum.h"
#include "core/wires/run_figures.h"
#include "core/wires/wire_edits.h"
#include "core/wires/wire_path.h"

#include <QTest>

#include <cmath>
#include <numeric>
#include <random>
#include <set>

using namespace ember;
using namespace ember::wires;

namespace {

/// Whether every ground point is joined to every other.
bool joined(const Harness& h) {
    std::vector<std::size_t> group(h.points.size() + 1);
    std::iota(group.begin(), group.end(), 0);
    const auto root = [&](std::size_t k) {
        while (group[k] != k) k = group[k];
        return k;
    };
    for (const Run& r : h.runs) {
        if (r.kind != RunKind::Ground) continue;
        const auto at = [&](int point) { return point < 0 ? h.points.size() : static_cast<std::size_t>(point); };
        group[root(at(r.fromPoint))] = root(at(r.toPoint));
    }
    for (std::size_t k = 1; k < h.points.size(); ++k)
        if (root(k) != root(0)) return false;
    return true;
}

std::size_t grounds(const Harness& h) {
    return static_cast<std::size_t>(
        std::count_if(h.runs.begin(), h.runs.end(), [](const Run& r) { return r.kind == RunKind::Ground; }));
}

} // namespace

class TestReturns : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everySchemeJoinsEverythingOnce_data() {
        QTest::addColumn<int>("scheme");
        QTest::addColumn<int>("bond");
        for (int scheme = 0; scheme < 5; ++scheme)
            for (int bond = 0; bond < 3; ++bond)
                QTest::newRow(qPrintable(QString("%1/%2").arg(scheme).arg(bond))) << scheme << bond;
    }
    void everySchemeJoinsEverythingOnce() {
        QFETCH(int, scheme);
        QFETCH(int, bond);
        Build b = unwired();
        b.wiring.grounds = static_cast<GroundScheme>(scheme);
        b.wiring.bond = static_cast<Bond>(bond);
        const WireFigures w = wired(b);
        QVERIFY(joined(w.harness));
        QVERIFY(w.hum.loops.empty() && w.hum.loose.empty());
        const bool chassis = b.wiring.grounds == GroundScheme::ChassisReturn;
        const std::size_t points = w.harness.points.size();
        QCOMPARE(grounds(w.harness), chassis ? points : points - 1 + (b.wiring.bond == Bond::None ? 0 : 1)); // a tree
        QCOMPARE(w.hum.bonds.size(), chassis || b.wiring.bond == Bond::None ? 0U : 1U);
        for (const ChannelHum& c : w.hum.channels) QVERIFY(std::isfinite(c.rms) && c.by[2] < 1e-4);
    }
    void theFirstCapacitorTakesTheChargeInEveryScheme() {
        for (int scheme = 0; scheme < 4; ++scheme) {
            Build b = unwired();
            b.wiring.grounds = static_cast<GroundScheme>(scheme);
            const WireFigures w = wired(b);
            const Run* centre = w.harness.find("pt1.centre_c1.-");
            QVERIFY(centre);
            double others = 0;
            for (const Run& r : w.harness.runs)
                if (r.kind == RunKind::Ground && &r != centre && std::isfinite(r.amps))
                    others = std::max(others, r.amps);
            QVERIFY2(centre->amps > 0.1 && others < 0.15 * centre->amps,
                     qPrintable(QString("%1 %2").arg(centre->amps).arg(others)));
        }
    }
    void theChassisAsReturnCostsWhatItsContactsDrop() {
        Build b = unwired();
        const double wire = wired(b).hum.channels[0].by[2];
        b.wiring.grounds = GroundScheme::ChassisReturn;
        const double metal = wired(b).hum.channels[0].by[2];
        QVERIFY2(metal > 2 * wire, qPrintable(QString("%1 %2").arg(metal).arg(wire)));
    }
    void aLiftedBondHoldsTheCurrentsOfALoopBack() {
        // With the jacks on the panel a second way runs through the metal; ten ohms in the bond break most of it.
        Build b = unwired();
        b.wiring.insulatedJacks = false;
        const auto through = [&](const WireFigures& w) {
            for (const std::string& id : w.hum.bonds)
                if (id.starts_with("c3")) return w.hum.groundAmps.at(id);
            return 0.0;
        };
        const double direct = through(wired(b));
        b.wiring.bond = Bond::Lifted;
        QVERIFY(through(wired(b)) < 0.1 * direct);
    }
    void moreRippleMoreHumInProportion() {
        plan::Figures twice = unwiredFigures();
        for (plan::NodeFigures& n : twice.nominal->nodes)
            for (auto& p : n.ripple) p *= 2.0;
        for (auto* ripple : {&twice.nominal->biasRailRipple, &twice.nominal->biasReservoirRipple})
            for (auto& p : *ripple) p *= 2.0;
        const auto one = wired(unwired()).hum.channels[0],
                   two = wireFigures(unwired(), catalogue, twice).hum.channels[0];
        for (const std::size_t s : {0U, 2U}) QVERIFY(std::abs(two.by[s] / one.by[s] - 2) < 1e-9);
        QVERIFY(std::abs(two.by[1] / one.by[1] - 1) < 1e-9 && two.by[4] == one.by[4]);
    }
    void turningTheTransformerChangesItsFieldAndNothingElse() {
        Build b = unwired();
        const auto before = wired(b).hum.channels[1];
        const auto turned = apply(b, chassis::turnParts(b.chassis, {0}, 90));
        QVERIFY(turned && turned->chassis.parts[0].of == "pt1");
        const auto after = wired(*turned).hum.channels[1];
        QVERIFY2(after.by[3] < 0.7 * before.by[3], qPrintable(QString("%1 %2").arg(before.by[3]).arg(after.by[3])));
        QVERIFY(std::abs(after.by[0] / before.by[0] - 1) < 1e-9 && after.by[4] == before.by[4]);
    }
    void feedbackTakesHumDownAsItDoesGain() {
        Build open = demoOpenLoop();
        open.wiring.wires.clear();
        const plan::Figures f = plan::solveFigures(open, catalogue);
        const Harness h = harnessOf(open, catalogue), closed = harnessOf(unwired(), catalogue);
        const auto without = reachesOf(open, catalogue, h, *f.nominal),
                   with = reachesOf(unwired(), catalogue, closed, *unwiredFigures().nominal);
        QVERIFY(!without.empty() && !with.empty());
        // What enters at the output stage's grids is taken down by the loop's gain, what enters at the input as the
        // gain is.
        const auto at = [](const ChannelReach& r, std::size_t v) { return std::abs(r.harmonics[5].grids[v]); };
        const double input = std::abs(without[0].harmonics[5].input) / std::abs(with[0].harmonics[5].input);
        QVERIFY(input > 1.5);
        QVERIFY(std::abs(at(without[0], 2) / at(with[0], 2) / input - 1) < 0.1);
    }

    void layoutsByChanceAreWiredWithoutANonsense() {
        std::mt19937 dice(11);
        for (int k = 0; k < 30; ++k) {
            Build b = unwired();
            std::uniform_real_distribution<double> x(0.03, b.chassis.width - 0.03), y(0.03, b.chassis.depth - 0.03),
                turn(0, 360);
            for (PlacedPart& p : b.chassis.parts) {
                if (p.face == Face::Top)
                    p.x = x(dice), p.y = y(dice), p.angle = turn(dice);
                else
                    p.x = x(dice);
            }
            if (k % 5 == 4) b.chassis.parts.erase(b.chassis.parts.begin() + k % 20); // and one that is not there
            const WireFigures w = wired(b);
            QVERIFY(w.harness.problems.empty());
            std::set<std::string> ids;
            for (const Run& r : w.harness.runs) {
                QVERIFY2(ids.insert(r.wire.id).second, r.wire.id.c_str());
                QVERIFY2(std::isfinite(r.length) && r.length > 2 * (dress + strip) - 1e-9 && r.length < 3 && r.ohms > 0,
                         r.wire.id.c_str());
                for (const Vector& v : r.path) QVERIFY(v.allFinite() && v.z() < 0.02);
            }
            QVERIFY(joined(w.harness));
            for (const ChannelHum& c : w.hum.channels) QVERIFY(std::isfinite(c.rms) && c.rms > 0 && c.rms < 1);
            for (const HeatedWinding& h : w.heaters.windings)
                for (const SocketVolts& s : h.sockets) QVERIFY(s.nominal > 0.7 * s.rated && s.low < s.high);
        }
    }
    void cornersOfTheBuildersOwnAreTheWay() {
        Build b = unwired();
        Wire w;
        w.id = "c2.-_c1.-";
        Corner corner;
        corner.x = 0.27, corner.y = 0.2, corner.z = -0.02;
        w.by = {corner};
        b.wiring.wires = {w};
        const Harness h = harnessOf(b, catalogue);
        const Run* r = h.find("c2.-_c1.-");
        QVERIFY(r && r->path.size() == 3 && (r->path[1] - Vector(0.27, 0.2, -0.02)).norm() < 1e-12);
        QVERIFY(std::abs(r->length - ((r->path[1] - r->path[0]).norm() + (r->path[2] - r->path[1]).norm() +
                                      2 * (dress + strip))) < 1e-12);
    }
    /// A piece moves across its direction, its neighbours follow, the ends stay at their pins.
    void aPieceOfAWiresWayIsMoved() {
        using wires::Vector;
        const std::vector<Vector> way{{0, 0, -0.01}, {0.1, 0, -0.01}, {0.1, 0.05, -0.01}, {0.2, 0.05, -0.01}};
        const auto middle = movePiece(way, 1, 0.5, 0.02, 0.03);
        QCOMPARE(middle.size(), way.size());
        QVERIFY((middle[1] - Vector(0.12, 0, -0.01)).norm() < 1e-12 &&
                (middle[2] - Vector(0.12, 0.05, -0.01)).norm() < 1e-12);
        // The first piece leaves its pin by a corner of its own.
        const auto first = movePiece(way, 0, 0.5, 0.02, 0.03);
        QCOMPARE(first.size(), way.size() + 1);
        QVERIFY(first.front() == way.front() && (first[1] - Vector(0, 0.03, -0.01)).norm() < 1e-12);
        // A slanting one takes a corner; moved onto its neighbour's line two corners become one.
        const auto slanting = movePiece({{0, 0, 0}, {0.1, 0.1, 0}}, 0, 0.5, 0, 0.02);
        QVERIFY(slanting.size() == 3 && (slanting[1] - Vector(0.05, 0.07, 0)).norm() < 1e-12);
        QCOMPARE(movePiece(way, 1, 0.5, 0.1, 0).size(), std::size_t(3));
        // The pair goes together, and comes back to what is proposed.
        const Build b = unwired();
        const Harness h = harnessOf(b, catalogue);
        const auto pair =
            std::find_if(h.runs.begin(), h.runs.end(), [](const Run& r) { return r.pair() && r.path.size() > 2; });
        QVERIFY(pair != h.runs.end() && !proposedPath(b, *pair));
        const auto moved = apply(b, movePath(b, *pair, movePiece(pair->path, 1, 0.5, 0.01, 0.01)));
        QVERIFY(moved);
        const Harness now = harnessOf(*moved, catalogue);
        const Run *one = now.find(pair->wire.id), *other = now.find(pair->twistedWith);
        QCOMPARE(one->wire.by.size(), other->wire.by.size());
        QVERIFY(std::abs(one->length - pair->length) > 1e-3 || one->path != pair->path);
        const auto back = apply(*moved, *proposedPath(*moved, *one));
        QVERIFY(back && harnessOf(*back, catalogue).find(pair->wire.id)->path == pair->path);
    }
    /// A wire by way of another pin of its net is two that join the same; as proposed it is one again.
    void aWireGoesByWayOfAnotherPin() {
        const Build b = unwired();
        const Harness h = harnessOf(b, catalogue);
        int tried = 0;
        for (const Run& r : h.runs) {
            const auto ways = waypointsOf(h, r);
            if (ways.empty() || r.pair() || r.kind == RunKind::Ground) continue;
            const auto changed = apply(b, byWayOf(b, r, ways.front()));
            QVERIFY(changed);
            const Harness now = harnessOf(*changed, catalogue);
            QVERIFY2(now.problems.empty() && !now.find(r.wire.id), r.wire.id.c_str());
            const Run *one = now.find("own-" + r.wire.from + "_" + ways.front()),
                      *two = now.find("own-" + ways.front() + "_" + r.wire.to);
            QVERIFY(one && two && one->net == r.net && two->net == r.net && one->wire.area == r.wire.area);
            // Its own wires can be split again or be taken away like any other; nothing is left behind.
            const auto again = apply(*changed, byWayOf(*changed, *one, r.wire.to));
            QVERIFY(again && !harnessOf(*again, catalogue).find(one->wire.id));
            if (++tried == 6) break;
        }
        QVERIFY(tried > 2);
        Build thick = *apply(b, changeWires(b, "", {h.runs.front().wire.id}, [](Wire& w) { w.area = 4e-6; }));
        const Harness changed = harnessOf(thick, catalogue);
        const auto back = asProposed(thick, changed.runs.front());
        QVERIFY(back && harnessOf(*apply(thick, *back), catalogue).runs.front().wire.area == h.runs.front().wire.area);
        QVERIFY(!asProposed(b, h.runs.front()));
    }
    void wiresAreChangedWhereTheyStandInTheList() {
        Build b = unwired();
        const auto thick = [](Wire& w) { w.area = 2.5e-6; };
        auto one = apply(b, changeWires(b, "thick", {"v7.4_v6.4", "v7.5_v6.5"}, thick));
        QVERIFY(one && one->wiring.wires.size() == 2);
        auto two =
            apply(*one, changeWires(*one, "soldered", {"v7.5_v6.5"}, [](Wire& w) { w.toJoint = Joint::Soldered; }));
        QVERIFY(two && two->wiring.wires.size() == 2);
        for (const Wire& w : two->wiring.wires) {
            QCOMPARE(w.area, 2.5e-6);
            QVERIFY((w.toJoint == Joint::Soldered) == (w.id == "v7.5_v6.5"));
        }
        QVERIFY(next(Joint::Checked) == Joint::Checked && previous(Joint::Open) == Joint::Open &&
                next(Joint::Hooked) == Joint::Soldered);
    }
    void wiringIsKeptInTheFile() {
        Build b = unwired();
        b.wiring.grounds = GroundScheme::TwoStars, b.wiring.bond = Bond::Lifted, b.wiring.insulatedJacks = false,
        b.wiring.colours = MainsColours::Nfpa70;
        Wire w;
        w.id = "mine", w.from = "c3.-", w.to = "chassis", w.area = 1e-6, w.colour = "green", w.straight = true,
        w.note = "a second bond";
        w.fromJoint = Joint::Hooked, w.toJoint = Joint::Checked;
        w.by.resize(2);
        w.by[1].x = 0.1;
        b.wiring.wires = {w};
        const auto back = fromText(toText(b));
        QVERIFY(back && toText(*back) == toText(b));
        QVERIFY(back->wiring.bond == Bond::Lifted && back->wiring.wires[0].toJoint == Joint::Checked &&
                back->wiring.wires[0].by[1].x == 0.1);
        QVERIFY(harnessOf(b, catalogue).find("mine")->toPoint == -1);
        const auto wrong =
            fromText(QString::fromStdString(toText(b)).replace("\"two-stars\"", "\"three-stars\"").toStdString());
        QVERIFY(!wrong && wrong.problem().where == "/wiring/grounds");
    }
    void currentAgainstGaugeFollowsTheStandard() {
        // IEC 60204-1:2016, table 6, method B1.
        for (const auto& [mm2, amps] : {std::pair{0.75, 8.6}, {1.0, 10.3}, {1.5, 13.5}, {2.5, 18.3}})
            QVERIFY2(std::abs(mostAmps(mm2 * 1e-6) / amps - 1) < 0.02, qPrintable(QString::number(mm2)));
    }
    void theHeaterNetworkAgreesWithAnotherSimulator() {
        const Build b = unwired();
        const WireFigures w = wired(b);
        const HeatedWinding& h = w.heaters.windings[0];
        // The hot heaters as resistors, the wires as they are.
        QString net = "* heaters\n";
        const double emf = h.nominal.volts + h.nominal.amps * b.transformer.heaters[0].resistance;
        net += QString("Vemf emf 0 %1\nRcopper emf pt1_h1_1 %2\nRtag pt1_h1_2 0 1e-9\n")
                   .arg(emf, 0, 'g', 12)
                   .arg(b.transformer.heaters[0].resistance, 0, 'g', 12);
        int count = 0;
        const auto node = [](const std::string& end) {
            return QString::fromStdString(end).replace('.', '_').replace('-', '_');
        };
        for (const Run& r : w.harness.runs)
            if (r.heater == "h1")
                net += QString("Rw%1 %2 %3 %4\n")
                           .arg(++count)
                           .arg(node(r.wire.from), node(r.wire.to))
                           .arg(r.ohms + 2 * jointOhms, 0, 'g', 12);
        for (const SocketVolts& s : h.sockets) {
            const ValveType* type = catalogue.valve(s.valve == "v2" || s.valve == "v5" ? "ECC85" : "EL84");
            const double ohms =
                type->heater.volts / type->heater.amps * std::pow(s.nominal / type->heater.volts, 1.2 / 2.6);
            net += QString("Rh%1 %1_4 %1_5 %2\n").arg(QString::fromStdString(s.valve)).arg(ohms, 0, 'g', 12);
        }
        const auto printed = spicePrint((net + ".op\n.options reltol=1e-9\n.end\n").toStdString());
        if (!printed) QSKIP("ngspice is not installed");
        for (const SocketVolts& s : h.sockets) {
            const auto at = [&](const char* pin) {
                return spiceVolts(*printed, QString::fromStdString(s.valve) + pin).value_or(0);
            };
            const double volts = at("_4") - at("_5");
            QVERIFY2(std::abs(volts / s.nominal - 1) < 1e-4, qPrintable(QString("%1 %2").arg(volts).arg(s.nominal)));
        }
    }
};

EMBER_TESTS(TestReturns)
#include "test_returns.moc"
