// Wires: what is proposed joins every net; mistakes are found and cured; heaters against answers found in other ways.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/build/starts.h"
#include "core/plan/heater.h"
#include "core/plan/solve.h"
#include "core/quantity/weighting.h"
#include "core/wires/helps.h"
#include "core/wires/schools.h"

#include <QTest>

#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

using namespace ember;
using namespace ember::wires;
using Complex = std::complex<double>;

namespace {

using std::numbers::pi;

double hum(const Build& b, std::size_t channel) {
    return wired(b).hum.channels[channel].rms;
}

PlacedPart& placed(Build& b, const std::string& id) {
    for (PlacedPart& p : b.chassis.parts)
        if (p.id == id) return p;
    throw std::logic_error(id);
}

} // namespace

class TestWires : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Each row of the comparison is what the build would have if it were joined so; the chassis is not judged.
    void schoolsOfGroundingAreComparedAsTheyWouldBe() {
        const Build b = unwired();
        const auto schools = compareSchools(b, catalogue, unwiredFigures());
        QCOMPARE(schools.size(), groundSchemeNames.size());
        for (const wires::School& s : schools) {
            Build one = b;
            one.wiring.grounds = s.scheme;
            const WireFigures f = wired(one);
            double worst = 0;
            for (const ChannelHum& c : f.hum.channels) worst = std::max(worst, c.rms);
            if (s.scheme == GroundScheme::ChassisReturn)
                QVERIFY(std::isnan(s.rms) && std::isnan(s.returns) && std::isnan(s.belowRatedDb));
            else
                QVERIFY2(std::abs(s.rms / worst - 1) < 1e-9, nameIn(groundSchemeNames, s.scheme).c_str());
            QCOMPARE(s.loops, f.hum.loops.size());
            QVERIFY(s.wire > 0.5 && s.wire < 10);
        }
    }
    void everyNetIsJoinedAndNothingElse() {
        const Harness h = harnessOf(unwired(), catalogue);
        QVERIFY(h.problems.empty());
        QVERIFY2(h.runs.size() > 50, qPrintable(QString::number(h.runs.size())));
        // Places that wires join, and those that a net has, must be the same.
        std::map<std::string, std::set<std::size_t>> places;
        std::map<std::string, std::vector<const Run*>> runs;
        for (const Terminal& t : h.terminals.list)
            if (t.net.index > 0) places[h.terminals.whole.schematic[t.net].name].insert(t.spot);
        for (const Run& r : h.runs) {
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (from && to) QVERIFY2(from->net == to->net, r.wire.id.c_str());
            runs[r.net].push_back(&r);
        }
        for (const auto& [net, spots] : places) {
            std::set<std::size_t> reached{*spots.begin()};
            for (std::size_t pass = 0; pass < spots.size(); ++pass)
                for (const Run* r : runs[net])
                    if (reached.contains(r->fromSpot) || reached.contains(r->toSpot))
                        reached.insert({r->fromSpot, r->toSpot});
            QVERIFY2(reached == spots, net.c_str());
            if (net.find("heater") == std::string::npos)
                QCOMPARE(runs[net].size(), spots.size() - 1); // a tree: no loop
        }
        for (const Run& r : h.runs) {
            const double straight = (r.path.front() - r.path.back()).norm();
            QVERIFY2(r.length >= straight + 2 * (dress + strip) - 1e-9, r.wire.id.c_str());
            QCOMPARE(r.ohms, 0.01724e-6 * r.length / r.wire.area);
        }
    }
    /// First on, last off.
    void theSafetyEarthIsTheFirstWire() {
        const Harness h = harnessOf(unwired(), catalogue);
        QVERIFY(h.runs.front().kind == RunKind::Earth);
        QCOMPARE(h.runs.front().wire.id, std::string("inlet.E_earth.bolt"));
    }
    void heatersGoInPairsOutputValvesFirst() {
        const Harness h = harnessOf(unwired(), catalogue);
        std::vector<std::string> order;
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Heater) continue;
            const Run* other = h.find(r.twistedWith);
            QVERIFY(other && other->twistedWith == r.wire.id && other->wire.pitch == r.wire.pitch &&
                    other->net != r.net);
            if (r.net == "heater h1 a") order.push_back(r.wire.to.substr(0, 2));
        }
        QCOMPARE(order.size(), 6U);
        for (std::size_t k = 0; k < order.size(); ++k) QCOMPARE(order[k] == "v2" || order[k] == "v5", k >= 4);
    }
    void wiresGoRoundWhatStandsInTheWay() {
        const Build b = unwired();
        const Obstacles obstacles(b.chassis);
        for (const Run& r : harnessOf(b, catalogue).runs)
            QVERIFY2(obstacles.hit(r.path, r.fromSpot, r.toSpot).empty(), r.wire.id.c_str());
    }
    void aBuildersWireReplacesTheProposal() {
        Build b = unwired();
        Wire thick;
        thick.id = "c2.-_c1.-", thick.area = 2.5e-6, thick.colour = "green";
        Wire gone;
        gone.id = "c3.-_c2.-", gone.removed = true;
        Wire own;
        own.id = "mine", own.from = "c3.-", own.to = "c1.-";
        Wire wrong;
        wrong.id = "nowhere", wrong.from = "c9.-", wrong.to = "c1.-";
        Wire crossed;
        crossed.id = "crossed", crossed.from = "c3.+", crossed.to = "c1.-";
        b.wiring.wires = {thick, gone, own, wrong, crossed};
        const Harness h = harnessOf(b, catalogue);
        QVERIFY(h.find("c2.-_c1.-") && h.find("c2.-_c1.-")->wire.area == 2.5e-6 &&
                h.find("c2.-_c1.-")->wire.colour == "green");
        QVERIFY(!h.find("c3.-_c2.-"));
        QVERIFY(h.find("mine") && h.find("mine")->kind == RunKind::Ground && h.find("mine")->own);
        QCOMPARE(h.problems.size(), 2U);
        QVERIFY(h.problems[0].sentence.find("c9.-") != std::string::npos);
        QVERIFY(h.problems[1].sentence.find("keeps apart") != std::string::npos);
    }

    void chargingPulsesInTheInputsReturnAreFoundAndCured() {
        Build b = unwired();
        Wire gone, wrong;
        gone.id = "pt1.centre_c1.-", gone.removed = true;
        wrong.id = "centre-tap", wrong.from = "pt1.centre", wrong.to = "r12.2"; // the lug of the first stage
        b.wiring.wires = {gone, wrong};
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "charging-return");
        QVERIFY(f && f->fix && f->level == rules::Level::Warn);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(wireFindings(*mended), "charging-return"));
        QVERIFY2(hum(*mended, 0) < 0.1 * hum(b, 0), qPrintable(QString::number(hum(b, 0))));
    }
    void theDemoIsShippedWithThisMistake() {
        const Build b = demoBuild();
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "charging-return");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && hum(*mended, 0) < 0.2 * hum(b, 0));
    }
    void aStraightHeaterPairBesideAGridIsFoundAndCured() {
        // In an amplifier that is quiet otherwise.
        Build b = unwired();
        b.bias.reservoir.capacitance = b.bias.second.capacitance = 470e-6;
        b.supply.sections[4].capacitance = 100e-6;
        placed(b, "p-pt1").angle = 90;
        const plan::Figures quiet = plan::solveFigures(b, catalogue);
        const Harness h = harnessOf(b, catalogue);
        // The pair of all six valves is laid along the right channel's grid lead, 3 mm from it.
        const auto loops = gridLoops(b, catalogue, h, 1);
        QVERIFY(loops[0].valve == "V5/1" && loops[0].path.size() == 3);
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Heater || !r.wire.id.starts_with("pt1.h1")) continue;
            Wire w;
            w.id = r.wire.id, w.straight = true;
            for (std::size_t k = 0; k < 2; ++k) {
                Corner c;
                c.x = loops[0].path[k].x() + 0.003, c.y = loops[0].path[k].y(), c.z = loops[0].path[k].z();
                w.by.push_back(c);
            }
            b.wiring.wires.push_back(w);
        }
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "heater-straight");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended);
        const auto before = wireFigures(b, catalogue, quiet).hum.channels[1],
                   after = wireFigures(*mended, catalogue, quiet).hum.channels[1];
        QVERIFY2(after.rms < 0.5 * before.rms, qPrintable(QString("%1 %2").arg(before.rms).arg(after.rms)));
    }
    void twoBondsInAStrayFieldAreFoundAndCured() {
        // Jacks beside the power transformer that touch the panel: a loop round its field.
        Build b = unwired();
        b.wiring.insulatedJacks = false;
        for (const char* id : {"p-in1", "p-in2"})
            placed(b, id).face = Face::Right, placed(b, id).x = id[4] == '1' ? 0.14 : 0.2;
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "bond/several");
        QVERIFY(f && f->fix);
        const auto w = wired(b);
        QVERIFY(w.hum.bonds.size() == 3 && w.hum.loops.size() == 2 && w.hum.loops[0].area > 0);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(wireFindings(*mended), "bond/several"));
        QVERIFY(wired(*mended).hum.loops.empty());
        double worst = 0;
        for (const GroundLoop& l : w.hum.loops) worst = std::max(worst, l.induced);
        QVERIFY2(worst > 1e-6, qPrintable(QString::number(worst)));
    }
    void withoutABondOrAReturnThereIsAStop() {
        Build b = unwired();
        b.wiring.bond = Bond::None;
        QVERIFY(findingOf(wireFindings(b), "bond/none")->level == rules::Level::Stop);
        b = unwired();
        Wire gone;
        gone.id = "c3.-_c2.-", gone.removed = true;
        b.wiring.wires = {gone};
        QVERIFY(findingOf(wireFindings(b), "unconnected/"));
        gone.id = "inlet.E_earth.bolt";
        b.wiring.wires = {gone};
        QVERIFY(findingOf(wireFindings(b), "earth/none")->level == rules::Level::Stop);
    }

    void aHeaterBehindItsWireHasTheVoltsOfADivider() {
        // The rectifier alone on its winding: E through copper and two wires into a filament, by bisection.
        const Build b = unwired();
        const WireFigures w = wired(b);
        const HeatedWinding* h2 = nullptr;
        for (const HeatedWinding& x : w.heaters.windings)
            if (x.id == "h2") h2 = &x;
        QVERIFY(h2 && h2->sockets.size() == 1);
        double wires = 0;
        for (const Run& r : w.harness.runs)
            if (r.heater == "h2") wires += r.ohms + 2 * jointOhms;
        const RectifierType& type = *catalogue.rectifier("5V4G");
        const double copper2 = b.transformer.heaters[1].resistance,
                     emf = h2->nominal.volts + h2->nominal.amps * copper2;
        double low = 1, high = 6;
        for (int k = 0; k < 80; ++k) {
            const double v = 0.5 * (low + high);
            // Rated ohms as the power 0.46 of the volts.
            const double ohms = type.heater.volts / type.heater.amps * std::pow(v / type.heater.volts, 1.2 / 2.6);
            (v + v / ohms * (wires + copper2) > emf ? high : low) = v;
        }
        QVERIFY2(std::abs(h2->sockets[0].nominal - low) < 1e-4,
                 qPrintable(QString("%1 %2").arg(h2->sockets[0].nominal).arg(low)));
        QVERIFY(h2->sockets[0].low < h2->sockets[0].nominal && h2->sockets[0].nominal < h2->sockets[0].high);
        QVERIFY(h2->coldAmps > 4 * h2->nominal.amps && h2->coldAmps < 8 * h2->nominal.amps);
    }
    void theFurtherAlongTheHeatersTheLess() {
        const WireFigures w = wired(unwired());
        const auto& sockets = w.heaters.windings[0].sockets;
        QCOMPARE(sockets.size(), 6U);
        for (std::size_t k = 1; k < sockets.size(); ++k) QVERIFY(sockets[k].nominal < sockets[k - 1].nominal);
        // Watts: what the winding gives is what the heaters take and the wires lose.
        double taken = 0;
        for (const SocketVolts& s : sockets) {
            const ValveType* type = catalogue.valve(s.valve == "v2" || s.valve == "v5" ? "ECC85" : "EL84");
            taken += s.nominal * type->heater.amps * std::pow(s.nominal / 6.3, 1 - 1.2 / 2.6);
        }
        for (const Run& r : w.harness.runs)
            if (r.heater == "h1") taken += r.amps * r.amps * (r.ohms + 2 * jointOhms);
        QVERIFY(std::abs(taken / (w.heaters.windings[0].nominal.volts * w.heaters.windings[0].nominal.amps) - 1) <
                1e-4);
    }
    void thinHeaterWireIsAFindingThatThickerWireMends() {
        Build b = unwired();
        for (const Run& r : harnessOf(b, catalogue).runs)
            if (r.kind == RunKind::Heater) {
                Wire w;
                w.id = r.wire.id, w.area = 0.22e-6;
                b.wiring.wires.push_back(w);
            }
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "heater-drop/h1");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(wireFindings(*mended), "heater-drop/h1"));
    }
    void aFloatingHeaterWindingIsAStop() {
        Build b = unwired();
        b.transformer.heaters[0].reference = HeaterReference::Floating;
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, "heater-floating/h1");
        QVERIFY(f && f->level == rules::Level::Stop && f->fix);
        QVERIFY(std::isnan(wired(b).heaters.windings[0].sockets[0].heaterCathode));
    }

    void everySourceIsInTheSumAndHelpsHelp() {
        const Build b = demoBuild();
        plan::Figures f = unwiredFigures();
        const auto helps = whatHelps(b, catalogue, f);
        QVERIFY(!helps.empty() && helps.size() <= 3);
        for (const Help& h : helps) {
            const auto changed = apply(b, h.edit);
            QVERIFY(changed);
            const auto worst = [&](const Build& x) { return std::max(hum(x, 0), hum(x, 1)); };
            if (h.edit.name.find("F") == std::string::npos) // one that leaves the supply as it is
                QVERIFY(std::abs(20 * std::log10(worst(b) / worst(*changed)) - h.decibels) < 0.01);
        }
        for (const ChannelHum& c : wired(b).hum.channels)
            for (const HumLine& l : c.lines) QVERIFY(l.least <= l.rms * (1 + 1e-9) && l.rms <= l.most * (1 + 1e-9));
    }
    void helpsThatAddAReturnAreTriedOnTheirOwnPoints() {
        // A centre tap is a point of the return network that a floating winding has not.
        Build b = unwired();
        b.transformer.heaters[0].reference = HeaterReference::Floating;
        const auto helps = whatHelps(b, catalogue, unwiredFigures());
        QVERIFY(std::any_of(helps.begin(), helps.end(), [](const Help& h) {
            return h.edit.name == "H1 referenced by its centre tap" && h.decibels > 1;
        }));
        HumSolver kept;
        const auto solve = [&](const Build& of) {
            const Harness h = harnessOf(of, catalogue);
            return kept.solve(of, catalogue, h, heaterFigures(of, catalogue, h, unwiredFigures()), unwiredFigures());
        };
        const double floating = solve(b).channels[0].rms, tied = solve(unwired()).channels[0].rms;
        QCOMPARE(tied, hum(unwired(), 0));
        QVERIFY(floating > tied);
    }
    void startsWithoutALayoutHaveHeatersAndHumButNoWires() {
        for (const Start& s : starts()) {
            const plan::Figures f = plan::solveFigures(s.build, catalogue);
            const WireFigures w = wireFigures(s.build, catalogue, f);
            QVERIFY2(w.harness.runs.empty() && w.harness.problems.empty(), s.id.c_str());
            if (!f.nominal) continue;
            for (const HeatedWinding& x : w.heaters.windings)
                for (const SocketVolts& v : x.sockets) QVERIFY2(std::abs(v.nominal / v.rated - 1) < 0.12, s.id.c_str());
            if (s.build.bottles.empty()) continue;
            for (const ChannelHum& c : w.hum.channels)
                QVERIFY2(std::isfinite(c.rms) && c.rms > 0, (s.id + " " + std::to_string(c.rms)).c_str());
        }
    }
};

EMBER_TESTS(TestWires)
#include "test_wires.moc"
