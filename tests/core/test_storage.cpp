#include "../support/demo.h"

#include "core/build/storage.h"

#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <random>

using namespace ember;

class TestStorage : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void savesAndOpens() {
        QTemporaryDir dir;
        const auto file = dir.filePath("a.ember.json").toStdString();
        QVERIFY(saveBuild(demoBuild(), file).ok());
        const auto b = loadBuild(file);
        QVERIFY(b.ok());
        QCOMPARE(toText(*b), toText(demoBuild()));
        QCOMPARE(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).size(), 1); // nothing temporary is left
    }

    void aPlaceThatCannotBeWrittenLeavesTheOldFile() {
        const auto none = saveBuild(demoBuild(), "/nowhere/at/all.ember.json");
        QVERIFY(!none.ok());
        QVERIFY2(QString::fromStdString(none.problem().sentence).contains("folder does not exist"),
                 none.problem().sentence.c_str());
        if (QFile::exists("/dev/full")) {
            const auto full = saveBuild(demoBuild(), "/proc/x.ember.json");
            QVERIFY(!full.ok());
        }
    }

    void aMissingOrHugeFileIsASentence() {
        QTemporaryDir dir;
        QVERIFY(!loadBuild(dir.filePath("none").toStdString()).ok());
        QVERIFY(!loadBuild(dir.path().toStdString()).ok());
        QFile huge(dir.filePath("huge"));
        QVERIFY(huge.open(QIODevice::WriteOnly));
        QVERIFY(huge.resize(qint64(largestFile) + 100));
        const auto b = loadBuild(dir.filePath("huge").toStdString());
        QVERIFY(!b.ok() && QString::fromStdString(b.problem().sentence).contains("MB"));
    }

    void theJournalBringsBackTheLastEdit() {
        QTemporaryDir dir;
        const auto at = dir.filePath("state/journal.jsonl").toStdString();
        Build b = demoBuild();
        {
            auto j = Journal::start(at, b, "x.ember.json");
            QVERIFY(j.ok());
            b.mains.volts = 236;
            QVERIFY(j->append("mains to 236 V", b).ok());
            b.notes = "ü \"quoted\"\n";
            QVERIFY(j->append("notes", b).ok());
        }
        QFile f(QString::fromStdString(at));
        QVERIFY(f.open(QIODevice::Append));
        f.write("{\"edit\":\"half a li"); // the machine stopped here
        f.close();
        const auto r = recover(at);
        QVERIFY(r.has_value());
        QCOMPARE(r->edits, 2);
        QCOMPARE(r->lastEdit, std::string("notes"));
        QCOMPARE(toText(r->build), toText(b));
    }

    void nothingIsRecoveredWhereNothingChanged() {
        QTemporaryDir dir;
        const auto at = dir.filePath("journal.jsonl").toStdString();
        QVERIFY(!recover(at).has_value());
        auto j = Journal::start(at, demoBuild(), "");
        QVERIFY(j.ok() && !recover(at).has_value());
        j->discard();
        QVERIFY(!QFile::exists(QString::fromStdString(at)));
    }

    /// Killed at random moments, of a start or of the work: there is always one whole file, and the journal knows the
    /// last edit it promised.
    void killedTwoHundredTimes() {
        QTemporaryDir dir;
        const QString file = dir.filePath("a.ember.json"), journal = dir.filePath("journal.jsonl");
        QVERIFY(saveBuild(demoBuild(), file.toStdString()).ok());
        std::mt19937 chance(5);
        int recovered = 0;
        for (int k = 0; k < 200; ++k) {
            QProcess p;
            p.start(BIN_DIR "/save-loop", {file, journal});
            QVERIFY(p.waitForStarted());
            // How long a start takes is the machine's affair: every other kill waits for the first promise.
            if (k % 2 == 1) {
                QVERIFY(p.waitForReadyRead(30000));
            }
            QTest::qSleep(static_cast<int>(chance() % 60));
            p.kill();
            QVERIFY(p.waitForFinished());
            const auto said = p.readAllStandardOutput();
            const auto whole = loadBuild(file.toStdString());
            QVERIFY2(whole.ok(), whole.ok() ? "" : whole.problem().text().c_str());
            const int newline = static_cast<int>(said.lastIndexOf('\n'));
            if (newline <= 0) continue;
            const int promised = said.left(newline).split('\n').constLast().toInt();
            const auto r = recover(journal.toStdString());
            QVERIFY(r.has_value());
            QVERIFY(r->edits >= promised);
            QVERIFY(r->build.notes.rfind("edit " + std::to_string(r->edits), 0) == 0);
            ++recovered;
        }
        QVERIFY2(recovered >= 100, qPrintable(QString::number(recovered)));
    }
};

QTEST_GUILESS_MAIN(TestStorage)
#include "test_storage.moc"
