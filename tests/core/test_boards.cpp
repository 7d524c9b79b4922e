// Boards and strips: parts between lugs, checked against the schematic.

#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/chassis/bodies.h"
#include "core/wires/boards.h"
#include "core/wires/continuity.h"

#include <QTest>

#include <set>

using namespace ember;
using namespace ember::wires;

namespace {

/// The demo with a turret board in the middle, on which its small parts stand.
Build withTurrets() {
    Build b = unwired();
    PlacedPart board = *chassis::makePart("board-turret");
    board.id = "p-turrets";
    for (PlacedPart& p : b.chassis.parts)
        if (p.kind == "board") board.x = p.x, board.y = p.y;
    std::erase_if(b.chassis.parts, [](const PlacedPart& p) { return p.kind == "board"; });
    b.chassis.parts.push_back(board);
    return b;
}
std::size_t spotOf(const Build& b, const std::string& id) {
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k)
        if (b.chassis.parts[k].id == id) return k;
    throw std::logic_error(id);
}
/// Every board of the build laid out as proposed.
Build laidOut(Build b) {
    const Harness h = harnessOf(b, catalogue);
    for (const BoardFigures& f : boardsOf(b, h)) b = *apply(b, setBoard(b, "lay out", proposedBoard(b, h, f.spot)));
    return b;
}
std::vector<std::string> saying(const Build& b, const char* what) {
    std::vector<std::string> out;
    for (const BoardFigures& f : boardsOf(b, harnessOf(b, catalogue)))
        for (const BoardProblem& p : f.problems)
            if (p.sentence.find(what) != std::string::npos) out.push_back(p.sentence);
    return out;
}

} // namespace

class TestBoards : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aProposedBoardAgreesWithTheSchematic_data() {
        QTest::addColumn<bool>("turrets");
        QTest::newRow("tag strips") << false;
        QTest::newRow("turret board") << true;
    }
    void aProposedBoardAgreesWithTheSchematic() {
        QFETCH(bool, turrets);
        const Build b = laidOut(turrets ? withTurrets() : unwired());
        const Harness h = harnessOf(b, catalogue);
        std::size_t parts = 0;
        for (const BoardFigures& f : boardsOf(b, h)) {
            QVERIFY(f.laidOut);
            for (const BoardProblem& p : f.problems) QFAIL(p.sentence.c_str());
            for (const LugFigures& l : f.lugs) QVERIFY(l.nets.size() <= 1);
            for (const BoardPart& p : f.board.parts) parts += !p.part.empty();
            if (turrets) // side by side, none over another
                for (const BoardPart& p : f.board.parts)
                    if (!p.part.empty() && p.from > 0 && p.to > 0)
                        QCOMPARE((p.from - 1) % f.board.columns, (p.to - 1) % f.board.columns);
        }
        QVERIFY2(parts >= 6, qPrintable(QString::number(parts)));
        // Lugs are places: an ohmmeter at any of them finds what the finished wiring has.
        std::set<std::pair<std::size_t, int>> lugs;
        for (const Terminal& t : h.terminals.list)
            if (t.lug > 0) lugs.insert({t.spot, t.lug});
        QVERIFY(lugs.size() >= 8);
        for (const Run& r : h.runs) {
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (from && to && from->net.index > 0) QVERIFY2(!from->together(*to), r.wire.id.c_str());
        }
    }
    /// A jumper between two nets is an extra joint; a jumper taken away leaves a wire to be soldered in its place, and
    /// that taken away too a missing joint. Each is named.
    void extraAndMissingJointsAreNamed() {
        Build b = laidOut(withTurrets());
        QVERIFY(saying(b, "keeps apart").empty());
        const BoardFigures f = boardsOf(b, harnessOf(b, catalogue)).front();
        int one = 0, other = 0;
        for (const LugFigures& l : f.lugs)
            if (l.nets.size() == 1) {
                if (one == 0)
                    one = l.lug;
                else if (l.nets != f.lugs[static_cast<std::size_t>(one) - 1].nets && other == 0)
                    other = l.lug;
            }
        Build bridged = b;
        BoardPart bridge;
        bridge.from = one, bridge.to = other;
        bridged.wiring.boards[0].parts.push_back(bridge);
        const auto extra = saying(bridged, "keeps apart");
        QCOMPARE(extra.size(), std::size_t(1));
        for (const int lug : {one, other})
            QVERIFY2(extra[0].find(f.lugs[static_cast<std::size_t>(lug) - 1].nets[0]) != std::string::npos,
                     extra[0].c_str());

        const auto jumper = std::find_if(b.wiring.boards[0].parts.begin(), b.wiring.boards[0].parts.end(),
                                         [](const BoardPart& p) { return p.part.empty(); });
        QVERIFY(jumper != b.wiring.boards[0].parts.end());
        const Harness before = harnessOf(b, catalogue);
        b.wiring.boards[0].parts.erase(jumper);
        const Harness h = harnessOf(b, catalogue);
        for (const std::string& x : saying(b, "is missing")) QFAIL(x.c_str());
        QCOMPARE(h.runs.size(), before.runs.size() + 1);
        for (const wires::Run& r : h.runs)
            if (!before.find(r.wire.id)) { // the wire that stands for the jumper
                Wire gone;
                gone.id = r.wire.id, gone.removed = true;
                b.wiring.wires.push_back(gone);
            }
        QVERIFY(!b.wiring.wires.empty());
        QVERIFY(!saying(b, "is missing").empty());
    }
    void whatIsNotThereIsSaid() {
        Build b = laidOut(withTurrets());
        BoardPart stray;
        stray.part = "r999", stray.from = 1, stray.to = 2;
        b.wiring.boards[0].parts.push_back(stray);
        QCOMPARE(saying(b, "the circuit has no R999").size(), std::size_t(1));
        b.wiring.boards[0].parts.back() = b.wiring.boards[0].parts.front();
        QCOMPARE(saying(b, "stands there twice").size(), std::size_t(1));
        b.wiring.boards[0].parts.back() = {};
        b.wiring.boards[0].parts.back().from = 900;
        QVERIFY(!saying(b, "there is no lug 900").empty());
        // Taken off the board it waits; the plan taken away, everything is as before.
        b = laidOut(withTurrets());
        const std::string part = b.wiring.boards[0].parts.front().part;
        b.wiring.boards[0].parts.erase(b.wiring.boards[0].parts.begin());
        const auto waiting = boardsOf(b, harnessOf(b, catalogue)).front().waiting;
        QVERIFY(std::find(waiting.begin(), waiting.end(), part) != waiting.end());
        const auto cleared = apply(b, *clearBoard(b, "p-turrets"));
        QVERIFY(cleared && cleared->wiring.boards.empty());
    }
    /// Lugs stand on the board, in two rows, as far apart as their pitch; a lead beneath leaves on the plate's side.
    void lugsStandWhereTheBoardHasThem() {
        Build b = withTurrets();
        const std::size_t spot = spotOf(b, "p-turrets");
        Board board = proposedBoard(b, harnessOf(b, catalogue), spot);
        const PlacedPart& on = b.chassis.parts[spot];
        const auto at = [&](int lug) { return lugAt(b.chassis, on, board, lug); };
        QVERIFY(std::abs((at(1) - at(2)).norm() - board.pitch) < 1e-12);
        QVERIFY(std::abs((at(1) - at(board.columns + 1)).norm() - 0.044) < 1e-12);
        const double above = at(3).z();
        board.beneath = {{{}, 3}};
        QVERIFY(at(3).z() > above && at(4).z() == above);
    }
    /// A wire spliced at an empty lug is two that meet there, and everything is still joined.
    void aWireMeetsAnotherAtAFreeLug() {
        Build b = withTurrets();
        for (PlacedPart& p : b.chassis.parts)
            if (p.id == "p-turrets")
                for (Body& body : p.bodies) body.width = 0.3; // room for more than its parts
        b = laidOut(b);
        b.wiring.boards[0].parts.resize(4); // the rest waits: lugs are free
        const Harness h = harnessOf(b, catalogue);
        const auto rail = std::find_if(h.runs.begin(), h.runs.end(),
                                       [](const wires::Run& r) { return r.kind == RunKind::HighVoltage; });
        QVERIFY(rail != h.runs.end());
        const auto lugs = freeLugs(b, h, *rail);
        QVERIFY(!lugs.empty());
        const auto spliced = apply(b, byWayOf(b, *rail, lugs.front()));
        QVERIFY(spliced);
        const Harness now = harnessOf(*spliced, catalogue);
        QVERIFY(now.problems.empty());
        int meeting = 0;
        for (const wires::Run& r : now.runs)
            meeting += r.wire.from.find("-lug") != std::string::npos || r.wire.to.find("-lug") != std::string::npos;
        QVERIFY2(meeting >= 2, qPrintable(QString::number(meeting)));
        for (const BoardFigures& f : boardsOf(*spliced, now)) {
            QVERIFY(f.problems.empty());
            QCOMPARE(f.lugs[static_cast<std::size_t>(lugs.front().lug) - 1].nets, std::vector<std::string>{rail->net});
        }
    }
    void aBoardIsKeptInTheFile() {
        const Build b = laidOut(withTurrets());
        const auto back = fromText(toText(b));
        QVERIFY(back);
        QCOMPARE(back->wiring.boards.size(), b.wiring.boards.size());
        QCOMPARE(back->wiring.boards[0].parts.size(), b.wiring.boards[0].parts.size());
        QCOMPARE(toText(*back), toText(b));
    }
};

EMBER_TESTS(TestBoards)
#include "test_boards.moc"
