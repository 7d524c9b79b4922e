#include "../support/demo.h"
#include "../support/suite.h"
#include "../support/wait.h"

#include "core/build/journal.h"
#include "core/build/storage.h"

#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <fcntl.h>
#include <fstream>
#include <random>
#include <sys/file.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

using namespace ember;

namespace {

std::optional<Recovered> recovered(const std::string& journal) {
    auto r = recover(journal);
    return r ? *r : std::nullopt;
}

} // namespace

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
        const auto r = recovered(at);
        QVERIFY(r.has_value());
        QCOMPARE(r->edits, 2);
        QCOMPARE(r->unread, 1);
        QCOMPARE(r->lastEdit, std::string("notes"));
        QCOMPARE(toText(r->build), toText(b));
    }

    /// What follows a line that was cut is read: each line builds on the last whole one.
    void aTornLineDoesNotHideLaterOnes() {
        QTemporaryDir dir;
        const auto at = dir.filePath("journal.jsonl").toStdString();
        Build b = demoBuild();
        auto j = Journal::start(at, b, "");
        b.mains.volts = 236;
        QVERIFY(j->append("mains", b).ok());
        QFile f(QString::fromStdString(at));
        QVERIFY(f.open(QIODevice::Append));
        f.write("{\"edit\":\"half a li\n"); // the disk was full for a moment
        f.close();
        b.notes = "later";
        QVERIFY(j->append("notes", b).ok());
        const auto r = recovered(at);
        QVERIFY(r.has_value());
        QCOMPARE(r->build.notes, std::string("later"));
        QCOMPARE(r->build.mains.volts, 236.0);
    }

    void aJournalThatCannotBeUsedIsKeptAside() {
        QTemporaryDir dir;
        QFile f(dir.filePath("journal-1-1.jsonl"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("{\"format\":\"dim-ember/journal\",\"file\":\"\",\"base\":{\"format\":\"other\"}}\n");
        f.close();
        const auto left = journalsLeft(dir.path().toStdString());
        QCOMPARE(left.size(), std::size_t(1));
        const auto r = recover(left[0]);
        QVERIFY(!r.ok());
        const auto aside = keepAside(left[0]);
        QVERIFY(QFile::exists(QString::fromStdString(aside.string())) && !f.exists());
        QVERIFY(journalsLeft(dir.path().toStdString()).empty());
    }

    /// Each window its own, and one that is in use is nobody else's to offer.
    void twoWindowsHaveTwoJournals() {
        QTemporaryDir dir;
        const auto folder = dir.path().toStdString();
        auto one = Journal::startIn(folder, demoBuild(), "");
        std::optional<Journal> other = std::move(*Journal::startIn(folder, demoBuild(), ""));
        QVERIFY(one->file() != other->file());
        Build b = demoBuild();
        b.mains.volts = 231;
        QVERIFY(one->append("a", b).ok());
        QVERIFY(other->append("b", b).ok());
        QVERIFY2(journalsLeft(folder).empty(), "both are in use");
        const auto file = other->file();
        other.reset(); // that program was killed
        const auto left = journalsLeft(folder);
        QCOMPARE(left.size(), std::size_t(1));
        QCOMPARE(left[0], file);
    }

    void savingFollowsLinksAndKeepsPermissions() {
        QTemporaryDir dir;
        const QString real = dir.filePath("real.ember.json"), link = dir.filePath("link.ember.json");
        QVERIFY(saveBuild(demoBuild(), real.toStdString()).ok());
        QVERIFY(QFile::setPermissions(real, QFile::ReadOwner | QFile::WriteOwner));
        QVERIFY(QFile::link(real, link));
        Build b = demoBuild();
        b.notes = "through the link";
        QVERIFY(saveBuild(b, link.toStdString()).ok());
        QVERIFY(QFileInfo(link).isSymLink());
        QCOMPARE(loadBuild(real.toStdString())->notes, b.notes);
        QCOMPARE(QFile::permissions(real) & (QFile::ReadGroup | QFile::ReadOther), QFile::Permissions());
    }

    void whatIsNoRegularFileIsWrittenToAndNeverReplaced() {
        QTemporaryDir dir;
        const auto pipe = dir.filePath("pipe").toStdString();
        QCOMPARE(::mkfifo(pipe.c_str(), 0600), 0);
        std::string got;
        std::thread reader([&] {
            std::ifstream in(pipe);
            std::getline(in, got, '\0');
        });
        const auto done = saveText("hello pipe", pipe);
        reader.join();
        QVERIFY(done.ok());
        QCOMPARE(got, std::string("hello pipe"));
        QVERIFY(std::filesystem::is_fifo(pipe));
        QVERIFY(saveText("gone", "/dev/null").ok());
        QVERIFY(std::filesystem::is_character_file("/dev/null"));
        QVERIFY(!saveText("x", dir.path().toStdString()).ok()); // a folder
    }

    void aBuildThatCouldNotBeReadAgainIsNotSaved() {
        QTemporaryDir dir;
        const auto file = dir.filePath("a.ember.json").toStdString();
        QVERIFY(saveBuild(demoBuild(), file).ok());
        Build b = demoBuild();
        b.bottles[0].type = "no such valve";
        const auto done = saveBuild(b, file);
        QVERIFY(!done.ok());
        QVERIFY2(done.problem().sentence.find("/bottles/0/type") != std::string::npos, done.problem().sentence.c_str());
        QVERIFY(loadBuild(file).ok());
    }

    void nothingIsRecoveredWhereNothingChanged() {
        QTemporaryDir dir;
        const auto at = dir.filePath("journal.jsonl").toStdString();
        QVERIFY(!recovered(at).has_value());
        auto j = Journal::start(at, demoBuild(), "");
        QVERIFY(j.ok() && !recovered(at).has_value());
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
        int found = 0;
        for (int k = 0; k < 200; ++k) {
            QProcess p;
            p.start(BIN_DIR "/save-loop", {file, journal});
            QVERIFY(p.waitForStarted(ember::tests::longest()));
            // Every other one is killed as it starts, the rest after one promise to six.
            QByteArray said;
            if (k % 2 == 1)
                for (const auto promises = 1 + static_cast<int>(chance() % 6); said.count('\n') < promises;) {
                    QVERIFY(p.waitForReadyRead(ember::tests::longest()));
                    said += p.readAllStandardOutput();
                }
            p.kill();
            QVERIFY(p.waitForFinished(ember::tests::longest()));
            said += p.readAllStandardOutput();
            const auto whole = loadBuild(file.toStdString());
            QVERIFY2(whole.ok(), whole.ok() ? "" : whole.problem().text().c_str());
            const int newline = static_cast<int>(said.lastIndexOf('\n'));
            if (newline <= 0) continue;
            const int promised = said.left(newline).split('\n').constLast().toInt();
            const auto r = recovered(journal.toStdString());
            QVERIFY(r.has_value());
            QVERIFY(r->edits >= promised);
            QVERIFY(r->build.notes.rfind("edit " + std::to_string(r->edits), 0) == 0);
            ++found;
        }
        QVERIFY2(found >= 100, qPrintable(QString::number(found)));
        // Opening and starting anew have removed what the killed ones left.
        QVERIFY(loadBuild(file.toStdString()).ok() && Journal::start(journal.toStdString(), demoBuild(), "").ok());
        QCOMPARE(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden, QDir::Name),
                 QStringList({"a.ember.json", "journal.jsonl"}));
    }

    void onlyWhatNobodyWritesAnyMoreIsRemoved() {
        QTemporaryDir dir;
        const auto at = [&](const char* name) { return dir.filePath(name).toStdString(); };
        QVERIFY(saveBuild(demoBuild(), at("a.ember.json")).ok());
        const auto make = [&](const char* name) {
            QFile f(dir.filePath(name));
            return f.open(QIODevice::WriteOnly) && f.write("half a bui") == 10;
        };
        for (const char* name : {".a.ember.json.Ab3dEf", ".a.ember.json.inUse1", ".b.ember.json.Ab3dEf",
                                 ".a.ember.json.notes", "a.ember.json.Ab3dEf"})
            QVERIFY(make(name));
        const int held = ::open(at(".a.ember.json.inUse1").c_str(), O_RDONLY);
        QVERIFY(held >= 0 && ::flock(held, LOCK_EX | LOCK_NB) == 0);
        QVERIFY(loadBuild(at("a.ember.json")).ok());
        QVERIFY(!QFile::exists(dir.filePath(".a.ember.json.Ab3dEf")));
        for (const char* name : {".a.ember.json.inUse1", ".b.ember.json.Ab3dEf", ".a.ember.json.notes",
                                 "a.ember.json.Ab3dEf", "a.ember.json"})
            QVERIFY2(QFile::exists(dir.filePath(name)), name);
        ::close(held);
    }
};

EMBER_TESTS(TestStorage)
#include "test_storage.moc"
