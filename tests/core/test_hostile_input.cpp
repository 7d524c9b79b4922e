// What comes from somewhere else may be anything: each reader returns, with what it read or with a sentence. A short
// fixed run over the examples that the fuzzer starts from, and over changes of them; scripts/fuzz is the long one.

#include "../fuzz/targets.h"
#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/build_json.h"
#include "core/procedure/log_words.h"
#include "core/quantity/quantity.h"

#include <QDirIterator>
#include <QFile>
#include <QTest>

#include <array>
#include <cstdlib>
#include <random>

using namespace ember;

namespace {

/// Numbers and marks at which readers have stumbled, here or elsewhere.
constexpr std::array<std::string_view, 20> awkward{
    "5e-324", "1e-308", "1e308", "-1e999", "-0", "NaN",  "1e",  "99999999999999999999",
    "\xff",   "\xc3",   "\"",    "[[[[",   "{}", "null", "\n,", ";;;;;",
    ".",      "-",      "\t",    "/0/1/2"};

QByteArray changed(QByteArray bytes, std::mt19937& chance) {
    const auto any = [&](qsizetype below) { return static_cast<qsizetype>(chance() % static_cast<unsigned>(below)); };
    const int changes = 1 + static_cast<int>(chance() % 4);
    for (int k = 0; k < changes && !bytes.isEmpty(); ++k) {
        const qsizetype at = any(bytes.size());
        const std::string_view word = awkward[chance() % awkward.size()];
        switch (chance() % 6) {
        case 0: bytes[at] = static_cast<char>(chance() % 256); break;
        case 1: bytes.remove(at, 1 + any(8)); break;
        case 2: bytes.insert(at, word.data(), static_cast<qsizetype>(word.size())); break;
        case 3: bytes.insert(at, bytes.mid(any(bytes.size()), 1 + any(64))); break;
        case 4: bytes.truncate(at); break;
        default: { // a number takes the awkward word's place
            qsizetype from = at;
            while (from < bytes.size() && !QChar::fromLatin1(bytes[from]).isDigit()) ++from;
            qsizetype to = from;
            while (to < bytes.size() && (QChar::fromLatin1(bytes[to]).isDigit() || bytes[to] == '.')) ++to;
            bytes.replace(from, to - from, word.data(), static_cast<qsizetype>(word.size()));
        }
        }
    }
    return bytes;
}

void read(const fuzz::Target& target, const QByteArray& bytes) {
    target.read({reinterpret_cast<const unsigned char*>(bytes.data()), static_cast<std::size_t>(bytes.size())});
}

} // namespace

class TestHostileInput : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyReaderReturns_data() {
        QTest::addColumn<QString>("name");
        for (const fuzz::Target& t : fuzz::targets())
            QTest::newRow(t.name.data()) << QString::fromUtf8(t.name.data(), static_cast<qsizetype>(t.name.size()));
    }
    void everyReaderReturns() {
        QFETCH(QString, name);
        const fuzz::Target* target = fuzz::findTarget(name.toStdString());
        QVERIFY(target);
        int examples = 0;
        for (QDirIterator at(QString(PROJECT_DIR "/tests/fuzz/corpus/") + name, QDir::Files); at.hasNext();
             ++examples) {
            QFile file(at.next());
            QVERIFY(file.open(QIODevice::ReadOnly));
            const QByteArray bytes = file.readAll();
            read(*target, bytes);
            std::mt19937 chance(static_cast<unsigned>(bytes.size()));
            for (int k = 0; k < 40; ++k) read(*target, changed(bytes, chance));
        }
        QVERIFY2(examples >= 3, "a reader has its examples");
    }

    /// The smallest numbers that a double holds are numbers: shown as they are, and refused with a sentence.
    void aSubnormalNumberIsShownAndRefused() {
        for (const double tiny : {5e-324, 2.5e-310, -1e-320}) {
            const std::string shown = formatExact(tiny, Unit::None);
            QCOMPARE(std::strtod(shown.c_str(), nullptr), tiny);
        }
        std::string text = toText(demoBuild());
        const auto at = text.find("\"capacitance\": ");
        QVERIFY(at != std::string::npos);
        const auto from = at + std::string("\"capacitance\": ").size();
        text.replace(from, text.find_first_of(",\n}", from) - from, "5e-324");
        const auto read = fromText(text);
        QVERIFY(!read.ok());
        QVERIFY2(read.problem().sentence.find("5e-324") != std::string::npos, read.problem().sentence.c_str());
    }

    void theLogLineKnowsItsPoints() {
        const Build b = demoBuild();
        const auto reading = procedure::understandLogWords(b, "  b+1   312 V ");
        // Nothing is read with the plug out yet: volts there are the capacitor's.
        QVERIFY(reading.point && reading.point->id == "held-c1" && reading.problem.empty());
        QCOMPARE(reading.value, 312.0);
        QVERIFY(reading.point->readAt(reading.stage));
        QVERIFY(!procedure::understandLogWords(b, "the choke hums a little").point);
        QVERIFY(!procedure::understandLogWords(b, "B+1").point);
        const auto typo = procedure::understandLogWords(b, "B+1 312q");
        QVERIFY(!typo.point && !typo.problem.empty());
    }
};

EMBER_TESTS(TestHostileInput)
#include "test_hostile_input.moc"
