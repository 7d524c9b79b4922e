#include "../support/demo.h"
#include "../support/suite.h"
#include "../support/wait.h"

#include "app/document/document.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestDocument : public QObject {
    Q_OBJECT
    QTemporaryDir dir;
    /// Until the document computes nothing.
    static void rest(Document& d) {
        if (!ember::tests::comes([&] { return d.atRest(); })) qFatal("waited in vain for the document's rest");
    }

  private Q_SLOTS:
    void anEditGivesNewFiguresAndUndoTheOldOnes() {
        Document d(dir.filePath("a"));
        d.setBuild(demoBuild(), {});
        rest(d);
        const double before = d.figures().nominal->nodes[2].mean;
        QVERIFY(d.figures().complete);
        QVERIFY(d.edit(setValue("R1 to 10 kΩ", "/supply/sections/3/resistance", 10e3)).ok());
        QVERIFY(d.solving());
        rest(d);
        QVERIFY(d.figures().nominal->nodes[2].mean < before - 20);
        QCOMPARE(d.undoStack().undoText(), QString("R1 to 10 kΩ"));
        d.undoStack().undo();
        rest(d);
        QVERIFY(std::abs(d.figures().nominal->nodes[2].mean - before) < 0.05);
        QVERIFY(!d.modified());
    }

    void aNewerEditWinsOverAnOlderSolve() {
        Document d(dir.filePath("b"));
        d.setBuild(demoBuild(), {});
        for (int k = 1; k <= 12; ++k) QVERIFY(d.edit(setValue("r", "/supply/sections/3/resistance", 1000.0 * k)).ok());
        rest(d);
        const auto direct = plan::solveFigures(d.build(), Catalogue::shipped());
        QVERIFY(std::abs(d.figures().nominal->nodes[2].mean / direct.nominal->nodes[2].mean - 1) < 1e-3);
    }

    /// Moving a part asks the layout anew and leaves the electrical figures as they are.
    void aMovedPartKeepsTheCircuitsFigures() {
        Document d(dir.filePath("h"));
        d.setBuild(demoBuild(), {});
        rest(d);
        const auto power = d.figures().power[0].clipWatts;
        const auto layout = d.figures().layout;
        int changes = 0;
        connect(&d, &Document::figuresChanged, this, [&] { ++changes; });
        QVERIFY(d.edit(setValue("move", "/chassis/parts/11/x", 0.2)).ok());
        rest(d);
        QCOMPARE(changes, 2); // it began, and all was there: nothing came in two parts, as what is computed does
        QVERIFY(d.figures().layout != layout && d.figures().complete);
        QVERIFY(d.figures().power[0].clipWatts == power);
        for (const auto& f : d.findings()) QVERIFY(f.id != "too-near/p-v1/p-c1");
        QVERIFY(d.edit(setValue("mains", "/mains/volts", 240)).ok());
        rest(d);
        QVERIFY(d.figures().power[0].clipWatts > power);
    }

    /// A value tried and taken back: bands and figures are those from before, without being computed again.
    void undoShowsWhatWasKnown() {
        Document d(dir.filePath("known"));
        d.setBandSamples(procedure::roughSamples);
        d.setBuild(demoBuild(), {});
        (void)d.stage(3, 230);
        rest(d);
        WAIT_FOR(d.stage(3, 230) && !d.stage(3, 230)->rough);
        const double low = d.stage(3, 230)->expectations.front().band.low, watts = d.figures().power[0].clipWatts;
        QVERIFY(d.edit(setValue("r", "/supply/sections/3/resistance", 7300)).ok());
        QVERIFY2(!d.stage(3, 230), "of another circuit");
        d.undoStack().undo();
        const auto* stage = d.stage(3, 230);
        QVERIFY(stage && !stage->rough);
        QCOMPARE(stage->expectations.front().band.low, low);
        rest(d);
        QVERIFY(d.figures().complete);
        QCOMPARE(d.figures().power[0].clipWatts, watts);
    }

    void aRefusedEditLeavesTheBuild() {
        Document d(dir.filePath("c"));
        d.setBuild(demoBuild(), {});
        const auto done = d.edit(setValue("c1", "/supply/sections/0/capacitance", 0));
        QVERIFY(!done.ok());
        QCOMPARE(done.problem().where, std::string("/supply/sections/0/capacitance"));
        QCOMPARE(toText(d.build()), toText(demoBuild()));
        QVERIFY(!d.modified());
    }

    void historyIsNotUndone() {
        Document d(dir.filePath("d"));
        d.setBuild(demoBuild(), {});
        QVERIFY(d.edit(setValue("mains", "/mains/volts", 235)).ok());
        LogEntry e;
        e.kind = "note";
        e.text = "smelt nothing";
        d.log(e);
        d.undoStack().undo();
        QCOMPARE(d.build().mains.volts, 230.0);
        QCOMPARE(d.build().log.size(), std::size_t(1));
        d.strike(0, "wrong amplifier");
        QVERIFY(d.build().log[0].struck);
        QCOMPARE(d.build().log[0].text, std::string("smelt nothing"));
    }

    void aKilledProgramComesBackWhereItWas() {
        const QString state = dir.filePath("e");
        {
            Document d(state);
            d.setBuild(demoBuild(), "/somewhere/larkfield.ember.json");
            QVERIFY(d.edit(setValue("C1 to 30 µF", "/supply/sections/0/capacitance", 30e-6)).ok());
        } // gone without saving or discarding
        Document d(state);
        const auto left = d.leftBehind();
        QCOMPARE(left.size(), std::size_t(1));
        QCOMPARE(left[0].lastEdit, std::string("C1 to 30 µF"));
        d.restore(left[0]);
        QVERIFY2(!std::filesystem::exists(left[0].journal), "the new journal holds it");
        QCOMPARE(d.build().supply.sections[0].capacitance, 30e-6);
        QVERIFY(d.modified());
    }

    void savingAndOpening() {
        Document d(dir.filePath("f"));
        d.setBuild(demoBuild(), {});
        QVERIFY(d.edit(setValue("mains", "/mains/volts", 235)).ok());
        QVERIFY(d.modified());
        QVERIFY(!d.save("/nowhere/x.ember.json").ok());
        QVERIFY(d.modified());
        const QString file = dir.filePath("x.ember.json");
        QVERIFY(d.save(file).ok());
        QVERIFY(!d.modified());
        QVERIFY(!d.open(dir.filePath("none.ember.json")).ok());
        QCOMPARE(d.build().mains.volts, 235.0);
        QVERIFY(d.open(file).ok());
        QCOMPARE(d.build().mains.volts, 235.0);
    }

    void thePracticeBenchAnswers() {
        Document d(dir.filePath("g"));
        d.setBuild(demoBuild(), {});
        d.startPractice(2, "leaky/c1");
        double value = 0;
        d.readPractice(2, 230, "B+1", [&](Expected<double> v) { value = v ? *v : -1; });
        rest(d);
        d.stage(2, 230);
        rest(d);
        const auto* s = d.stage(2, 230);
        QVERIFY(s);
        for (const auto& e : s->expectations)
            if (e.point.id == "B+1") QCOMPARE(procedure::judge(e, value), procedure::Verdict::Low);
    }
};

EMBER_TESTS(TestDocument)
#include "test_document.moc"
