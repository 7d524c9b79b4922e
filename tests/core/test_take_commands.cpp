// Takes from the command line: a signal made, played on the practice bench or through a sound server, and analysed.

#include "../support/sound_server.h"
#include "../support/suite.h"
#include "../support/wait.h"

#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>

class TestTakeCommands : public QObject {
    Q_OBJECT
    using Object = nlohmann::json;
    QTemporaryDir dir;
    const QString demo = PROJECT_DIR "/data/demo/larkfield.ember.json";
    int code = 0;
    QString err;

    Object run(const QStringList& arguments) {
        QProcess p;
        p.start(BIN_DIR "/dim-ember-cli", arguments);
        p.waitForFinished(ember::tests::longest());
        code = p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1;
        err = QString::fromUtf8(p.readAllStandardError());
        return Object::parse(p.readAllStandardOutput().toStdString(), nullptr, false);
    }
    QString file(const char* name) { return dir.filePath(name); }

  private Q_SLOTS:
    /// A tone played over time on the practice bench has the watts that the steady figures foretell for its level.
    void thePracticeBenchPlaysAFile() {
        run({"stimulus", "tone", "--hz", "1000", "--seconds", "0.4", "--level", "0", "-o", file("tone.wav")});
        QCOMPARE(code, 0);
        const Object taken = run({"take", file("tone.wav"), "-o", file("answer.wav"), "--practice", demo, "--volts",
                                  "0.2", "--seed", "0", "--channel", "2"});
        QVERIFY2(code == 0, qPrintable(err));
        QCOMPARE(taken["rate"].get<double>(), 48000.0);
        QVERIFY(std::abs(taken["seconds"].get<double>() - 1.4) < 1e-6);
        const double fullScale = taken["full_scale"].get<double>();
        const Object figures = run({"figures", demo});
        const double gain = figures["power"][1]["gain"].get<double>();
        // The second of silence behind it is no part of the tone.
        const Object tone = run({"analyse", file("answer.wav"), "--full-scale", QString::number(fullScale)});
        QVERIFY2(code == 0, qPrintable(err));
        const double rms = tone["level_rms"].get<double>(), wanted = gain * 0.2 / std::sqrt(2.0);
        QVERIFY(std::abs(tone["fundamental_hz"].get<double>() - 1000) < 0.5);
        QVERIFY(tone["thd_percent"].get<double>() < 0.5);
        QVERIFY2(std::abs(20 * std::log10(rms / wanted)) < 0.5, qPrintable(QString("%1 %2").arg(rms).arg(wanted)));
    }

    void whatCannotBeTakenIsASentence_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("says");
        const QString tone = dir.filePath("short.wav"), out = dir.filePath("out.wav");
        QTest::newRow("no file") << QStringList{"take", "/nowhere.wav", "-o", out, "--practice", demo, "--volts", "1"}
                                 << "no such file";
        QTest::newRow("no build") << QStringList{"take", tone, "-o", out, "--practice", "/nowhere.json", "--volts", "1"}
                                  << "nowhere.json";
        QTest::newRow("no channel") << QStringList{"take", tone,      "-o", out,         "--practice",
                                                   demo,   "--volts", "1",  "--channel", "7"}
                                    << "there is no channel 7";
        QTest::newRow("no fault") << QStringList{"take", tone,      "-o", out,       "--practice",
                                                 demo,   "--volts", "1",  "--fault", "gremlins"}
                                  << "there is no fault \"gremlins\"";
        QTest::newRow("nowhere to write")
            << QStringList{"take", tone, "-o", "/nowhere/out.wav", "--practice", demo, "--volts", "0.01"}
            << "could not be written";
    }
    void whatCannotBeTakenIsASentence() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, says);
        if (!QFile::exists(file("short.wav")))
            run({"stimulus", "square", "--hz", "1000", "--seconds", "0.05", "-o", file("short.wav")});
        run(arguments);
        QVERIFY(code != 0);
        QVERIFY2(err.contains(says), qPrintable(err));
        QVERIFY(!QFile::exists(file("out.wav")));
    }

    /// The same seed is the same amplifier and plays the same; another one has other parts.
    void aSeedIsAnAmplifier() {
        run({"stimulus", "tone", "--hz", "400", "--seconds", "0.2", "--level", "0", "-o", file("brief.wav")});
        const auto level = [&](const char* seed) {
            const Object taken = run({"take", file("brief.wav"), "-o", file("again.wav"), "--practice", demo, "--volts",
                                      "0.1", "--seed", seed});
            const Object tone = run({"analyse", file("again.wav"), "--full-scale",
                                     QString::number(taken["full_scale"].get<double>(), 'g', 17)});
            return tone["level_rms"].get<double>();
        };
        const double first = level("3"), same = level("3"), other = level("4");
        QVERIFY2(std::abs(first / same - 1) < 1e-6, qPrintable(QString("%1 %2").arg(first).arg(same)));
        QVERIFY(std::abs(first / other - 1) > 1e-5 && std::abs(20 * std::log10(first / other)) < 3);
    }

    void withoutAServerThereIsASentence() {
        const QByteArray was = qgetenv("PULSE_SERVER");
        qputenv("PULSE_SERVER", "unix:/nowhere/socket");
        for (const QStringList& arguments : {QStringList{"sound", "list"}, QStringList{"sound", "check"}}) {
            run(arguments);
            QVERIFY(code != 0 && err.contains("running?"));
        }
        qputenv("PULSE_SERVER", was);
    }

    /// Listed, checked by itself, and a square played through it comes back as the square it was.
    void aSoundDeviceIsUsed() {
        const SoundServer server;
        if (!server.runs()) QSKIP("No sound server can be started here.");
        const Object list = run({"sound", "list"});
        QVERIFY2(code == 0, qPrintable(err));
        QCOMPARE(list["players"][0]["id"].get<std::string>(), std::string(SoundServer::player));
        QCOMPARE(list["recorders"][0]["mixer"].get<std::string>(), std::string("0.00 dB, 0.00 dB"));
        const auto again = [&](const QStringList& arguments) { // a busy machine may spoil a take, which is then refused
            Object out = run(arguments);
            for (int k = 0; k < 3 && code != 0; ++k) out = run(arguments);
            return out;
        };
        const Object check = again({"sound", "check"});
        QVERIFY2(code == 0, qPrintable(err));
        QVERIFY(std::abs(check["recorded_share"].get<double>() - 1) < 1e-3);
        QVERIFY(check["thd_percent"].get<double>() < 1e-3 && check["latency_seconds"].get<double>() >= 0);
        run({"stimulus", "square", "--hz", "200", "--seconds", "1", "--level", "-6", "-o", file("square.wav")});
        const Object taken =
            again({"take", file("square.wav"), "-o", file("heard.wav"), "--player", SoundServer::player});
        QVERIFY2(code == 0, qPrintable(err));
        QVERIFY(taken["seconds"].get<double>() > 2);
        const Object square = run({"measure", "square", file("heard.wav"), "--hz", "200"});
        QVERIFY2(code == 0, qPrintable(err));
        QVERIFY(std::abs(square["hz"].get<double>() - 200) < 0.1);
        QVERIFY(std::abs(square["tilt_percent"].get<double>()) < 0.5);
        run({"take", file("square.wav"), "-o", file("x.wav"), "--recorder", "ear"});
        QVERIFY(code != 0 && err.contains("there is no recorder \"ear\""));
        run({"take", file("square.wav"), "-o", file("x.wav"), "--input", "9"});
        QVERIFY(code != 0 && err.contains("channels"));
    }
};

EMBER_TESTS(TestTakeCommands)
#include "test_take_commands.moc"
