// The parts list: everything that is built in, once, with its weight and what the builder paid for it.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/build_json.h"
#include "core/build/starts.h"
#include "core/chassis/finishes.h"
#include "core/chassis/hole_list.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/solve.h"
#include "core/report/parts_list.h"
#include "core/report/price_table.h"
#include "core/report/report.h"
#include "core/wires/clips.h"
#include "core/wires/hum.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numeric>

using namespace ember;
using namespace ember::report;

class TestPartsList : public QObject {
    Q_OBJECT
    plan::Figures figures; ///< of the demo

    static const ListedPart* find(const PartsList& list, const std::string& words) {
        const auto at = std::find_if(list.lines.begin(), list.lines.end(),
                                     [&](const ListedPart& l) { return l.words.find(words) != std::string::npos; });
        return at == list.lines.end() ? nullptr : &*at;
    }

  private Q_SLOTS:
    void initTestCase() {
        figures = plan::solveFigures(demoBuild(), catalogue);
        QVERIFY(figures.layout);
        if (!figures.wires)
            figures.wires =
                std::make_shared<const wires::WireFigures>(wires::wireFigures(demoBuild(), catalogue, figures));
    }

    void valvesAndIronAreCounted() {
        const PartsList list = partsList(demoBuild(), catalogue, figures);
        QCOMPARE(find(list, "EL84")->count, 4.0);
        QCOMPARE(find(list, "ECC85")->count, 2.0);
        QCOMPARE(find(list, "5V4G")->count, 1.0);
        const ListedPart* outputs = find(list, "transformer 6.6 k");
        QVERIFY(outputs && outputs->count == 2);
        QVERIFY(outputs->mass > 0.5); // both, from the layout
    }

    void noPartIsMissingAndNoneIsThereTwice() {
        for (const Start& start : starts()) {
            const PartsList list = partsList(start.build, catalogue, plan::Figures{});
            double resistors = 0, wanted = 0;
            for (const ListedPart& l : list.lines)
                for (const std::string& id : l.ids)
                    if (l.words.starts_with("resistor"))
                        for (const Channel& ch : start.build.channels)
                            for (const Stage& s : ch.stages)
                                for (const StagePart& p : s.parts)
                                    resistors += std::holds_alternative<ResistorPart>(p.part) && idOf(p.part) == id;
            for (const Channel& ch : start.build.channels)
                for (const Stage& s : ch.stages)
                    for (const StagePart& p : s.parts)
                        wanted += std::holds_alternative<ResistorPart>(p.part) && !idOf(p.part).starts_with("load");
            // The loads are outside of the amplifier.
            QVERIFY2(resistors == wanted,
                     qPrintable(QString("%1: %2 of %3").arg(start.id.c_str()).arg(resistors).arg(wanted)));
            for (std::size_t k = 1; k < list.lines.size(); ++k)
                for (std::size_t m = 0; m < k; ++m) QVERIFY(list.lines[k].words != list.lines[m].words);
        }
    }

    void itsWeightIsTheLayoutsAndTheWires() {
        const PartsList list = partsList(demoBuild(), catalogue, figures);
        double copper = 0;
        for (const ListedPart& l : list.lines)
            if (l.metres) copper += l.mass;
        QVERIFY(copper > 0.01 && copper < 1);
        QVERIFY2(std::abs(list.mass - copper - figures.layout->mass) < 1e-9,
                 qPrintable(QString("%1 and %2").arg(list.mass - copper).arg(figures.layout->mass)));
    }

    void finishesAddTheirLinesAndTheirWeight() {
        Build plain = demoBuild();
        plain.chassis.plateFinish = PlateFinish::Bare, plain.chassis.socketTrim = SocketTrim::Plain;
        plain.chassis.cover = Cover::None, plain.chassis.ironFinish = IronFinish::Black;
        Build dressed = plain;
        dressed.chassis.plateFinish = PlateFinish::Cream, dressed.chassis.socketTrim = SocketTrim::Rings;
        dressed.chassis.cover = Cover::Cage, dressed.chassis.ironFinish = IronFinish::AsPlate;
        const PartsList before = partsList(plain, catalogue, figures), after = partsList(dressed, catalogue, figures);
        for (const char* line : {"paint, cream, for", "of iron", "bright ring", "cage of"}) {
            QVERIFY2(!find(before, line) && find(after, line), line);
            QVERIFY(find(after, line)->mass > 0);
        }
        QCOMPARE(find(after, "bright ring")->count, 7.0); // one for each socket
        // Of a folded box top and walls are painted: 0.12 kg/m2.
        const Chassis& c = plain.chassis;
        const double area = c.width * c.depth + 2 * (c.width + c.depth) * c.height;
        QVERIFY(std::abs(find(after, "paint, cream, for")->mass - 0.12 * area) < 1e-9);
        double more = 0;
        for (const char* line : {"paint, cream, for", "of iron", "bright ring", "cage of"})
            more += find(after, line)->mass;
        QVERIFY(std::abs(after.mass - before.mass - more) < 1e-9);
        // The frame of a plate on wood weighs what its wood does.
        plain.chassis.form = ChassisForm::Frame, plain.chassis.wallFinish = WallFinish::Oak;
        const PartsList framed = partsList(plain, catalogue, figures);
        QVERIFY(find(framed, "frame of oak"));
        QVERIFY(std::abs(find(framed, "frame of oak")->mass - 700 * 0.012 * 2 * (c.width + c.depth) * c.height) < 1e-9);
    }

    /// As many screws as there are holes for them; on a bench board wood screws, and spacers under what is raised.
    void screwsSpacersAndClipsAreCounted() {
        const auto total = [](const PartsList& list, const char* words) {
            double sum = 0;
            for (const ListedPart& l : list.lines)
                if (l.words.starts_with(words)) sum += l.count;
            return sum;
        };
        double bolts = 0, onTop = 0, raised = 0, highest = 0;
        const Build metal = demoBuild();
        Build board = *apply(metal, chassis::inForm(metal.chassis, ChassisForm::Board));
        board.chassis.width = 0.6, board.chassis.depth = 0.4;
        for (const PlacedPart& p : board.chassis.parts)
            for (const Hole& h : p.holes) {
                if (!chassis::isBolt(h)) continue;
                const bool top = p.face == Face::Top, up = top && chassis::sunkBy(board.chassis, p) < 0;
                ++bolts;
                onTop += top, raised += up;
                if (up) highest = std::max(highest, -chassis::sunkBy(board.chassis, p));
            }
        QVERIFY(onTop > raised && raised > 8);
        const PartsList inMetal = partsList(metal, catalogue, figures);
        QCOMPARE(total(inMetal, "screw M"), bolts);
        QCOMPARE(total(inMetal, "spacer") + total(inMetal, "clip") + total(inMetal, "wood"), 0.0);
        QVERIFY(find(inMetal, "screw M3")->ids.size() > 3);
        const PartsList onWood = partsList(board, catalogue, figures);
        QCOMPARE(total(onWood, "wood screw"), onTop);
        QCOMPARE(total(onWood, "screw M"), bolts - onTop);
        QCOMPARE(total(onWood, "spacer"), raised);
        QVERIFY(find(onWood, qPrintable(QString("spacer %1 mm").arg(highest * 1e3))));
        // The screws are those that the list of holes has pilots for.
        for (const auto& h : chassis::holesOf(board.chassis, Face::Top)) {
            const auto at = h.tool.find("wood screw of ");
            QVERIFY2(at != std::string::npos, h.tool.c_str());
            const std::string mm = h.tool.substr(at + 14, h.tool.find(" mm", at + 14) - at - 14);
            QVERIFY2(find(onWood, ("wood screw " + mm + " x").c_str()), mm.c_str());
        }
        // Two clips to a lead; the mains' and the earth's wires have none, nor has the ground's to the chassis.
        double ends = 0;
        for (const wires::Run& r : figures.wires->harness.runs)
            if (r.kind != wires::RunKind::Mains && r.kind != wires::RunKind::Earth && r.wire.to != "chassis") ends += 2;
        QCOMPARE(total(onWood, "clip"), ends);
        const wires::Clips clips = wires::clipsOf(board.chassis, figures.wires->harness);
        QVERIFY(clips.volts > 250 && clips.rated >= 1.2 * clips.volts);
    }

    /// A list that was written for one build prices another; what a spreadsheet of another country makes of it too.
    void pricesComeFromATable() {
        Build priced = demoBuild();
        const double euros[] = {12.5, 0.35, 48};
        const char* words[] = {"EL84", "ECC85", "5V4G"};
        for (std::size_t k = 0; k < 3; ++k) priced = *apply(priced, setPrice(priced, words[k], euros[k]));
        const std::string table = csv(partsList(priced, catalogue, figures));
        const Build plain = demoBuild();
        const PartsList list = partsList(plain, catalogue, figures);
        const auto read = pricesFromTable(plain, list, table);
        QVERIFY2(read, read ? "" : read.problem().sentence.c_str());
        QVERIFY(read->taken == 3 && read->missing == 0);
        const auto done = apply(plain, read->edit);
        QVERIFY(done);
        const PartsList so = partsList(*done, catalogue, figures);
        for (std::size_t k = 0; k < 3; ++k) QCOMPARE(find(so, words[k])->each, euros[k]);
        QVERIFY(!pricesFromTable(*done, so, table)); // nothing would change
        // Commas and semicolons, quotes, a mark of the encoding, a part of another amplifier, one price changed.
        const auto other = pricesFromTable(
            *done, so, "\xEF\xBB\xBFpart;price each\r\n\"EL84\";13,25\r\n\r\n\"a 3\"\" clip; bright\";2\r\n");
        QVERIFY(other && other->taken == 1 && other->missing == 1);
        QCOMPARE(find(partsList(*apply(*done, other->edit), catalogue, figures), "EL84")->each, 13.25);
        for (const auto& [text, says] : {std::pair{"", "empty"},
                                         {"part,price\nEL84,3\n", "\"price each\" is missing"},
                                         {"part,price each\nEL84,cheap\n", "\"cheap\" is not a price"},
                                         {"part,price each\nEL84,-1\n", "is not a price"},
                                         {"part,price each\nsomething,1\n", "told apart by their words"}}) {
            const auto refused = pricesFromTable(plain, list, text);
            QVERIFY2(!refused && refused.problem().text().find(says) != std::string::npos, says);
        }
    }

    void pricesAreKeptChangedAndTakenAway() {
        const auto one = apply(demoBuild(), setPrice(demoBuild(), "EL84", 12.5));
        QVERIFY(one);
        const auto two = apply(*one, setPrice(*one, "EL84", 14));
        QVERIFY(two && two->prices.size() == 1);
        const auto again = fromText(toText(*two));
        QVERIFY(again);
        const PartsList list = partsList(*again, catalogue, figures);
        QCOMPARE(find(list, "EL84")->price(), 56.0);
        QCOMPARE(list.price, 56.0);
        QCOMPARE(list.unpriced, static_cast<int>(list.lines.size()) - 1);
        const auto none = apply(*again, setPrice(*again, "EL84", plan::unknown));
        QVERIFY(none && none->prices.empty());
    }

    void theTableIsOneThatSpreadsheetsRead() {
        const std::string table = csv(partsList(demoBuild(), catalogue, figures));
        const auto lines = std::count(table.begin(), table.end(), '\n');
        QVERIFY(lines > 40);
        // Every line has eight cells: commas outside of quotation marks.
        std::size_t from = 0;
        while (from < table.size()) {
            const std::size_t to = table.find('\n', from);
            int cells = 1;
            bool quoted = false;
            for (std::size_t k = from; k < to; ++k) {
                if (table[k] == '"') quoted = !quoted;
                cells += table[k] == ',' && !quoted;
            }
            QCOMPARE(cells, 8);
            from = to + 1;
        }
    }

    void itStandsInTheReport() {
        const auto priced = apply(demoBuild(), setPrice(demoBuild(), "EL84", 12.5));
        const std::string page = html(*priced, catalogue, figures, {}, "today");
        QVERIFY(page.find("<h2>Parts</h2>") != std::string::npos);
        QVERIFY(page.find("<td>50.00</td>") != std::string::npos);
    }
};

EMBER_TESTS(TestPartsList)
#include "test_parts_list.moc"
