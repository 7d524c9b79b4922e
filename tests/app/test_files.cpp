// New, open, save, recent files, unsaved changes, recovery: nothing is lost.

#include "../support/demo.h"
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/window/start_dialog.h"

#include "app/window/log_line.h"
#include "core/build/build_json.h"
#include "core/build/storage.h"

#include <QAction>
#include <QCloseEvent>
#include <QFileDialog>
#include <QMenu>
#include <QMenuBar>

using namespace ember;
using namespace ember::app;

class TestFiles : public WindowTest {
    Q_OBJECT
    QAction* action(const QString& words) {
        for (QAction* a : w->findChildren<QAction*>())
            if (a->text().remove('&') == words) return a;
        return nullptr;
    }
    void change(double volts) { QVERIFY(doc().edit(setValue("mains", "/mains/volts", volts)).ok()); }
    QString saved(const QString& name) {
        const QString file = dir.filePath(name);
        if (!doc().save(file)) qFatal("not saved");
        return file;
    }

    /// The next choice of starting points takes this one.
    void begin(const std::string& id) {
        QTimer::singleShot(50, qApp, [this, id] {
            auto* dialog = qobject_cast<StartDialog*>(QApplication::activeModalWidget());
            if (!dialog) return begin(id);
            for (std::size_t k = 0; k < starts().size(); ++k)
                if (starts()[k].id == id) dialog->choose(static_cast<int>(k));
            dialog->accept();
        });
    }

  private Q_SLOTS:
    void savedFilesAreListedAsRecent() {
        const QString a = saved("a.ember.json"), b = saved("b.ember.json");
        QVERIFY(w->openFile(a));
        QVERIFY(w->openFile(b));
        QVERIFY(w->openFile(a));
        const auto entries = action("Open recent")->menu()->actions();
        QCOMPARE(entries[0]->text(), a);
        QCOMPARE(entries[1]->text(), b);
        change(236);
        answer(QMessageBox::Discard);
        entries[1]->trigger();
        QCOMPARE(doc().file(), b);
        QCOMPARE(doc().build().mains.volts, 230.0);
    }

    void ctrlSWritesTheOpenFile() {
        const QString file = saved("c.ember.json");
        change(237);
        QVERIFY(w->windowTitle().contains('*'));
        QTest::keyClick(w.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!w->windowTitle().contains('*'));
        QCOMPARE(loadBuild(file.toStdString())->mains.volts, 237.0);
    }

    void quittingWithUnsavedChangesAsks() {
        saved("d.ember.json");
        change(238);
        QString asked;
        answer(QMessageBox::Cancel, &asked);
        QVERIFY(!w->close());
        QVERIFY(asked.contains("Larkfield"));
        QVERIFY(w->isVisible());
        answer(QMessageBox::Save);
        QVERIFY(w->close());
        QCOMPARE(loadBuild(dir.filePath("d.ember.json").toStdString())->mains.volts, 238.0);
        QVERIFY2(doc().leftBehind().empty(), "closed on purpose: nothing to recover");
    }

    void discardingLeavesTheFile() {
        const QString file = saved("e.ember.json");
        change(239);
        answer(QMessageBox::Discard);
        QVERIFY(w->close());
        QCOMPARE(loadBuild(file.toStdString())->mains.volts, 230.0);
    }

    void aReadingAloneCountsAsUnsaved() {
        saved("f.ember.json");
        LogEntry note;
        note.kind = "note";
        note.text = "hum is gone";
        doc().log(note);
        QVERIFY(doc().modified());
        QString asked;
        answer(QMessageBox::Cancel, &asked);
        QVERIFY(!w->close());
        QVERIFY(!asked.isEmpty());
    }

    void aFailedSaveKeepsTheChange() {
        QDir(dir.path()).mkdir("gone");
        saved("gone/g.ember.json");
        change(240);
        QDir(dir.filePath("gone")).removeRecursively();
        QVERIFY(!w->save());
        QVERIFY(doc().modified());
        QVERIFY2(w->logLine()->verdict().contains("folder does not exist"), qPrintable(w->logLine()->verdict()));
        answer(QMessageBox::Cancel);
        QVERIFY(!w->close());
    }

    void aNewBuildIsWholeAndCanBeChangedEverywhere() {
        LogEntry old;
        old.kind = "note";
        old.text = "of the old one";
        doc().log(old);
        answer(QMessageBox::Discard);
        begin("instrument-push-pull");
        w->newBuild();
        QCOMPARE(doc().build().name, std::string("Untitled"));
        QCOMPARE(doc().build().channels.at(0).stages.size(), std::size_t(9));
        QVERIFY(doc().build().log.empty());
        QVERIFY(doc().file().isEmpty());
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
    }

    void whatAKilledProgramLeftIsOffered() {
        change(241);
        // The window goes without closing, as when the power fails.
        w.reset();
        w = freshWindow();
        w->show();
        QString asked;
        answer(QMessageBox::Yes, &asked);
        w->offerRecovery();
        QVERIFY2(asked.contains("Larkfield") && asked.contains("mains"), qPrintable(asked));
        QCOMPARE(doc().build().mains.volts, 241.0);
        QVERIFY(doc().modified());
    }

    void recoveryCanBeDeclined() {
        change(242);
        w.reset();
        w = freshWindow();
        answer(QMessageBox::No);
        w->offerRecovery();
        QVERIFY(!doc().holdsBuild());
        w->offerRecovery(); // would block if it asked again
        QCOMPARE(QDir(dir.filePath("state")).entryList({"*.kept-*"}).size(), 1);
    }

    /// A supply alone is a build: it is shown as what it is, and the demo does not take its place.
    void aBuildWithoutChannelsStaysWhatItIs() {
        Build b = demoBuild();
        b.name = "supply alone";
        b.channels.clear();
        const QString file = dir.filePath("alone.ember.json");
        QVERIFY(saveBuild(b, file.toStdString()).ok());
        QVERIFY(w->openFile(file));
        settleSteady();
        QCOMPARE(doc().build().name, std::string("supply alone"));
        QVERIFY(doc().holdsBuild() && doc().figures().nominal);
        for (int k = 0; k < w->stationCount(); ++k) w->go(k); // every station takes it
        QVERIFY(doc().edit(setValue("mains", "/mains/volts", 232)).ok());
        settleSteady();
        w.reset();
        w = freshWindow();
        answer(QMessageBox::Yes);
        w->offerRecovery();
        QCOMPARE(doc().build().name, std::string("supply alone"));
        QVERIFY(doc().holdsBuild());
    }

    void theSafetyWordsAreShownOnce() {
        QString said;
        answer(QMessageBox::Ok, &said);
        w->showSafetyWordsOnce();
        QVERIFY(said.contains("kill") && said.contains("licensed"));
        QVERIFY2(!said.contains("safe to touch"), "nobody is ever told that");
        w->showSafetyWordsOnce(); // would block if it asked again
    }

    void theWindowComesBackWhereItWas() {
        w->resize(1344, 848);
        saved("h.ember.json");
        QVERIFY(w->close());
        QVERIFY(QSettings().contains("window/geometry"));
        w = freshWindow();
        QVERIFY(QSettings().value("window/geometry").toByteArray().size() > 20);
    }

    void brokenFilesGetASentenceThatNamesThePlace_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("said");
        const QByteArray good = QByteArray::fromStdString(toText(demoBuild()));
        QTest::newRow("cut off") << good.left(good.size() / 2) << "cut off";
        QTest::newRow("another format") << QByteArray("{\"format\": \"other\"}") << "Dim Ember build";
        QTest::newRow("not JSON") << QByteArray("\x00\xff\x10 hello") << "line 1";
        QTest::newRow("empty") << QByteArray() << "too early";
        QTest::newRow("too deep") << QByteArray(100, '[') << "deeper";
        QTest::newRow("newer") << QByteArray(good).replace("\"version\": 2", "\"version\": 99") << "newer";
        QTest::newRow("zero farads") << QByteArray(good).replace("\"capacitance\": 2.2e-05", "\"capacitance\": 0")
                                     << "/supply/sections/0/capacitance";
        QTest::newRow("unknown valve") << QByteArray(good).replace("\"ECC85\"", "\"XYZ99\"") << "XYZ99";
    }
    void brokenFilesGetASentenceThatNamesThePlace() {
        QFETCH(QByteArray, content);
        QFETCH(QString, said);
        QFile f(dir.filePath("broken.ember.json"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(content);
        f.close();
        const std::string before = toText(doc().build());
        QVERIFY(!w->openFile(f.fileName()));
        QVERIFY2(w->logLine()->verdict().contains(said), qPrintable(w->logLine()->verdict()));
        QCOMPARE(toText(doc().build()), before);
    }
};

EMBER_TESTS(TestFiles)
#include "test_files.moc"
