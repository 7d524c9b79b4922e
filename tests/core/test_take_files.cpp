// Files of kept captures that somebody damaged, cut short or made up: a sentence each, and nothing else.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/bench/take_records.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <fstream>
#include <numbers>
#include <sstream>

using namespace ember;
using namespace ember::bench;

class TestTakeFiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir;
    std::filesystem::path folder;
    KeptFiles kept;

    static Measurement twoTones() {
        Measurement m;
        m.made = "2026-01-02T03:04:05", m.title = "Left: tone", m.build = demoBuild();
        m.context.channels.push_back({"Left", 8, 50, 10, Setup::asItStands, 10});
        for (const double rms : {0.01, 0.5}) {
            TakeRecord t;
            t.request = {TakeKind::Tone, 0, rms, 1000, 0.1};
            t.request.setup.loadOhms = 16;
            t.request.setup.loudspeaker = loudspeakerOf(4);
            for (int k = 0; k < 4800; ++k)
                t.capture.volts.push_back(10 * rms * std::numbers::sqrt2 * std::sin(2 * std::numbers::pi * k / 48));
            t.capture.fullScale = 20, t.capture.source = "practice";
            if (rms > 0.1) { // its own input beside it
                t.request.setup.second = SecondInput::Input;
                for (const double v : t.capture.volts) t.capture.second.push_back(0.1 * v);
            }
            m.takes.push_back(std::move(t));
        }
        return m;
    }
    std::string text() const {
        std::ifstream in(folder / kept.name);
        std::stringstream all;
        all << in.rdbuf();
        return all.str();
    }
    /// What is said of the file with this in the place of that; its hash is not looked at.
    QString saidOf(const std::string& from, const std::string& to) {
        std::string t = text();
        const auto at = t.find(from);
        if (at == std::string::npos) return "the text is not in it";
        t.replace(at, from.size(), to);
        std::ofstream(folder / "other.json") << t;
        const auto m = readMeasurement(folder, {"other.json", ""});
        return m ? QString("read") : QString::fromStdString(m.problem().text());
    }

  private Q_SLOTS:
    void init() {
        static int made = 0;
        folder = dir.filePath(QString::number(++made)).toStdString();
        const auto written = writeMeasurement(folder, "two", twoTones());
        QVERIFY2(written.ok(), written ? "" : written.problem().text().c_str());
        kept = *written;
    }

    /// A quiet capture behind a loud one keeps its digits: each is scaled to its own crest.
    void everyCaptureKeepsItsDigits() {
        const auto m = readMeasurement(folder, kept);
        QVERIFY2(m.ok(), m ? "" : m.problem().text().c_str());
        QCOMPARE(m->takes.size(), std::size_t(2));
        const Measurement was = twoTones();
        for (std::size_t t = 0; t < 2; ++t) {
            QCOMPARE(m->takes[t].capture.volts.size(), was.takes[t].capture.volts.size());
            double apart = 0;
            for (std::size_t k = 0; k < 4800; ++k)
                apart = std::max(apart, std::abs(m->takes[t].capture.volts[k] - was.takes[t].capture.volts[k]));
            QVERIFY2(apart < 2e-7 * 10 * was.takes[t].request.inputRms * 1.5, qPrintable(QString::number(apart)));
            QVERIFY(m->takes[t].request.setup == was.takes[t].request.setup);
            QCOMPARE(m->takes[t].capture.second.size(), was.takes[t].capture.second.size());
            for (std::size_t k = 0; k < was.takes[t].capture.second.size(); ++k)
                QVERIFY(std::abs(m->takes[t].capture.second[k] - was.takes[t].capture.second[k]) < 2e-7);
            QCOMPARE(m->takes[t].capture.fullScale, 20.0);
            QCOMPARE(m->takes[t].capture.source, std::string("practice"));
        }
        QCOMPARE(m->context.channels[0].loadOhms, 8.0);
        QVERIFY(m->build.log.empty() && m->build.name == demoBuild().name);
        // What sha256sum prints of an empty file, FIPS 180-4.
        std::ofstream(folder / "empty").flush();
        QCOMPARE(*hashOf(folder / "empty"),
                 std::string("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"));
    }

    void damageIsSaid() {
        QVERIFY2(saidOf("dim-ember/takes", "letters").contains("no takes of this program"), "another format");
        QVERIFY(saidOf("\"version\": 1", "\"version\": 7").contains("newer"));
        QVERIFY(saidOf("\"kind\": \"tone\"", "\"kind\": \"thunder\"").contains("\"thunder\" is not known"));
        QVERIFY(saidOf("\"from\": 4800", "\"from\": 480000000").contains("beyond the end"));
        QVERIFY(saidOf("\"count\": 4800", "\"count\": -3").contains("beyond the end") ||
                saidOf("\"count\": 4800", "\"count\": -3").contains("kind than expected"));
        QVERIFY(saidOf("\"scale\": ", "\"scale\": \"many\", \"x\": ").contains("missing or of another kind"));
        QVERIFY(saidOf("\"sound\": \"two.flac\"", "\"sound\": \"three.flac\"").contains("sound is not there"));
        QVERIFY(saidOf("\"sound_sha256\": \"", "\"sound_sha256\": \"00").contains("hash differs"));
        QVERIFY(saidOf("\"mains\": {", "\"mains\": 230, \"x\": {").contains("its build"));
        std::ofstream(folder / "half.json") << text().substr(0, text().size() / 2);
        QVERIFY(!readMeasurement(folder, {"half.json", ""}));
        // A name cannot lead out of the folder.
        const auto outside = readMeasurement(folder, {"../../../../etc/passwd", ""});
        QVERIFY(!outside && outside.problem().text().find("captures are not there") != std::string::npos);
        std::filesystem::remove(folder / "two.flac");
        QVERIFY(QString::fromStdString(readMeasurement(folder, kept).problem().text()).contains("sound is not there"));
    }

    /// A folder that cannot be made, and names that are taken.
    void placesThatCannotBeWritten() {
        std::ofstream(folder / "file") << "in the way";
        QVERIFY(!writeMeasurement(folder / "file" / "under", "x", twoTones()));
        QCOMPARE(writeMeasurement(folder, "two", twoTones())->name, std::string("two-2.json"));
        QCOMPARE(writeMeasurement(folder, "two", twoTones())->name, std::string("two-3.json"));
        QCOMPARE(filesFolder("/somewhere/hall.ember.json"), std::filesystem::path("/somewhere/hall.files"));
    }

    /// Answers come from the nearest level of the same signal; what was not taken is said.
    void answersFromRecords() {
        const auto records = std::make_shared<const std::vector<TakeRecord>>(twoTones().takes);
        const Taker taker = answeringFrom(records);
        TakeRequest r = records->front().request;
        r.inputRms *= 1.0005;
        QVERIFY(taker(r));
        r.inputRms *= 1.1;
        QVERIFY(taker(r).problem().sentence.find("no capture of") != std::string::npos);
        r = records->front().request;
        r.hertz = 2000;
        QVERIFY(!taker(r));
        r = records->front().request;
        r.setup = {};
        QVERIFY(!taker(r));
    }
};

EMBER_TESTS(TestTakeFiles)
#include "test_take_files.moc"
