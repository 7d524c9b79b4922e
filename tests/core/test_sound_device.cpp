// The real path of sound: played and recorded at once through a sound server, without any device.

#include "../support/sound_server.h"
#include "../support/suite.h"

#include "core/bench/second_input.h"
#include "core/bench/sound_bench.h"
#include "core/bench/take.h"
#include "core/signal/response.h"
#include "core/signal/tone_analysis.h"

#include <QTest>

#include <cmath>
#include <fstream>

using namespace ember;

class TestSoundDevice : public QObject {
    Q_OBJECT
    std::unique_ptr<SoundServer> server;
    QTemporaryDir dir;

    bench::SoundCalibration calibrated() {
        bench::SoundCalibration c;
        c.player = SoundServer::player, c.recorder = SoundServer::recorder;
        const auto ports = bench::soundPorts();
        if (!ports) qFatal("%s", ports.problem().text().c_str());
        for (const bench::SoundPort& p : ports->players)
            if (p.id == c.player) c.playerMixer = p.mixer;
        for (const bench::SoundPort& p : ports->recorders)
            if (p.id == c.recorder) c.recorderMixer = p.mixer;
        c.playedVolts = 2, c.recordedVolts = 30;
        return c;
    }
    /// A take that a busy machine disturbed is refused, as it should be, and taken again.
    template <typename Take>
    static auto again(const Take& take) {
        auto out = take();
        for (int k = 0; k < 3 && !out; ++k) out = take();
        return out;
    }

  private Q_SLOTS:
    void initTestCase() {
        server = std::make_unique<SoundServer>();
        if (server->runs()) return;
        if (!qEnvironmentVariableIsEmpty("CI")) QFAIL("no sound server can be started");
        QSKIP("No sound server can be started here: the sound device is not tested.");
    }

    void theServersPortsAreListed() {
        const auto ports = bench::soundPorts();
        QVERIFY2(ports.ok(), ports.ok() ? "" : ports.problem().text().c_str());
        QCOMPARE(ports->players.size(), std::size_t(1));
        QCOMPARE(ports->players[0].id, std::string(SoundServer::player));
        QCOMPARE(ports->recorders[0].id, std::string(SoundServer::recorder));
        QVERIFY(ports->recorders[0].ofPlayer);
        QCOMPARE(ports->players[0].rate, 48000.0);
    }

    /// A path that changes nothing: what comes back is what was played, sample by sample.
    void whatIsPlayedComesBack() {
        bench::TakeRequest request{bench::TakeKind::Sweep, 0, 0.1, 1000, 1};
        const auto samples = bench::samplesOf(request);
        const auto heard = again([&] { return bench::playAndRecord(*samples, {}); });
        QVERIFY2(heard.ok(), heard.ok() ? "" : heard.problem().text().c_str());
        QCOMPARE(heard->channels.size(), std::size_t(2));
        QVERIFY(heard->channels[0].size() > samples->size());
        const auto r = signal::sweepResponse({heard->channels[0], 48000, 1, ""}, {*samples, 48000, 1, ""});
        QVERIFY2(r.ok(), r.ok() ? "" : r.problem().text().c_str());
        QVERIFY2(r->delay > 0 && r->delay < 3, qPrintable(QString::number(r->delay)));
        for (const auto& p : r->points)
            if (p.hertz > 200 && p.hertz < 15000)
                QVERIFY2(std::abs(p.db) < 0.02, qPrintable(QString("%1 Hz: %2 dB").arg(p.hertz).arg(p.db)));
    }

    /// The sweep through the loop is flat: a path that changes nothing.
    void theDeviceAloneIsChecked() {
        const auto c = calibrated();
        const auto alone = again([&] { return bench::checkLoopback(c); });
        QVERIFY2(alone.ok(), alone.ok() ? "" : alone.problem().text().c_str());
        QVERIFY2(alone->thdPercent < 1e-3 && alone->noise < 1e-5 && std::abs(alone->recordedShare - 1) < 1e-3,
                 qPrintable(QString("%1 % %2 %3").arg(alone->thdPercent).arg(alone->noise).arg(alone->recordedShare)));
        QVERIFY(alone->latency >= 0 && alone->latency < 2 && alone->response.size() > 200);
        for (const auto& p : alone->response)
            if (p.hertz > 40 && p.hertz < 18000)
                QVERIFY2(std::abs(p.db) < 0.05, qPrintable(QString("%1 Hz: %2 dB").arg(p.hertz).arg(p.db)));
    }

    /// 0.5 V RMS at the input; full scale is 2 V there and 30 V at the load: a loop of gain 1 records 7.5 V RMS.
    void volts() {
        bench::SoundBench device(calibrated());
        const auto played = bench::voltsOf({bench::TakeKind::Tone, 0, 0.5, 1000, 1});
        double last = 0;
        const auto c = again([&] {
            return device.play(0, *played, bench::takeRate, {[&](double share) { last = share; }, {}});
        });
        QVERIFY2(c.ok(), c.ok() ? "" : c.problem().text().c_str());
        QVERIFY(last > 0.3);
        QCOMPARE(c->fullScale, 30.0);
        QCOMPARE(c->volts.size(), played->size());
        const auto a = signal::analyseTone({c->volts.data() + 4800, 38400}, c->sampleRate, c->fullScale);
        QVERIFY(a && std::abs(a->level - 7.5) < 0.01);
        // The first sample played is the first of the capture.
        QVERIFY(std::abs(c->volts[12000] - played->at(12000) * 15) < 0.05);
        // More than the device reaches is refused before it plays.
        const auto loud = bench::voltsOf({bench::TakeKind::Tone, 0, 3, 1000, 1});
        const auto refused = device.play(0, *loud, bench::takeRate, {});
        QVERIFY(!refused && refused.problem().sentence.find("1.41 V") != std::string::npos);
    }

    /// What the loop did to a tone is taken off it; a supply node is nothing for a sound device.
    void theLoopsResponseIsTakenOff() {
        auto c = calibrated();
        c.loop = {{20, 0}, {1000, 0}, {10000, -6}, {20000, -6}};
        bench::SoundBench device(c);
        for (const auto& [hz, factor] : {std::pair{1000.0, 1.0}, {10000.0, std::pow(10, 0.3)}}) {
            const auto take = again([&] { return device.take({bench::TakeKind::Tone, 0, 0.2, hz, 0.5}); });
            QVERIFY2(take.ok(), take.ok() ? "" : take.problem().text().c_str());
            const auto a = signal::analyseTone({take->volts.data() + 4800, 14400}, take->sampleRate, 0);
            QVERIFY2(a && std::abs(a->level / (3 * factor) - 1) < 0.01, qPrintable(QString::number(a ? a->level : 0)));
        }
        bench::TakeRequest node{bench::TakeKind::Burst, 0, 0.1, 200, 0.5};
        node.node = 1;
        const auto refused = device.take(node);
        QVERIFY(!refused && refused.problem().sentence.find("scope and its probe") != std::string::npos);
    }

    /// Both channels of what plays are recorded at once: the second in volts of its own; without a reading of its volts
    /// it is refused before anything is played.
    void bothChannelsAreRecorded() {
        auto c = calibrated();
        c.secondInput = 2;
        bench::TakeRequest r{bench::TakeKind::Tone, 0, 0.2, 1000, 1};
        r.setup.second = bench::SecondInput::Input;
        r.setup.everyChannel = true; // the server's two outputs are its two inputs
        const auto refused = bench::SoundBench(c).take(r);
        QVERIFY(!refused && refused.problem().sentence.find("second input is not calibrated") != std::string::npos);
        const auto tone = again([&] { return bench::captureCalibrationTone(c); });
        QVERIFY2(tone.ok(), tone.ok() ? "" : tone.problem().text().c_str());
        QVERIFY(std::abs(tone->crest - 0.1) < 1e-3 && std::abs(tone->second - 0.1) < 1e-3);
        c.secondVolts = 2;
        const auto take = again([&] { return bench::SoundBench(c).take(r); });
        QVERIFY2(take.ok(), take.ok() ? "" : take.problem().text().c_str());
        const auto both = bench::compareInputs(*take, 1000);
        QVERIFY(both.ok());
        QVERIFY2(std::abs(both->ratioDb - 20 * std::log10(2.0 / 30)) < 0.01 && std::abs(both->degrees) < 0.1,
                 qPrintable(QString("%1 %2").arg(both->ratioDb).arg(both->degrees)));
        QVERIFY2(std::abs(both->secondRms - 0.2) < 1e-3, qPrintable(QString("%1 V at %2 Hz, %3")
                                                                        .arg(both->secondRms)
                                                                        .arg(both->hertz, 0, 'g', 9)
                                                                        .arg(signal::crestOf(take->second))));
        r.setup.everyChannel = false; // hazard 40: the other output, and what hangs on it, stays silent
        const auto alone = again([&] { return bench::SoundBench(c).take(r); });
        QVERIFY2(alone.ok(), alone.ok() ? "" : alone.problem().text().c_str());
        QVERIFY(signal::crestOf(alone->volts) > 1 && signal::crestOf(alone->second) < 1e-3);
        r.setup.second = bench::SecondInput::Nothing;
        QVERIFY(again([&] { return bench::SoundBench(c).take(r); })->second.empty());
        c.secondInput = 9;
        const auto none = bench::captureCalibrationTone(c);
        QVERIFY(!none && none.problem().sentence.find("channel 9 was asked for") != std::string::npos);
    }

    void aCalibrationIsKeptAndGoesStale() {
        const std::filesystem::path file = dir.filePath("settings/sound.json").toStdString();
        QVERIFY(!bench::lastCalibration(file).ok());
        auto c = calibrated();
        c.ownThdPercent = 0.004, c.input = 2, c.secondInput = 1, c.secondVolts = 1.5;
        QVERIFY(bench::writeCalibration(file, c).ok());
        bench::SoundCalibration other;
        other.player = "another", other.recorder = "one";
        QVERIFY(bench::writeCalibration(file, other).ok());
        QVERIFY(bench::writeCalibration(file, c).ok()); // once more: it stands once, and last
        const auto back = bench::lastCalibration(file);
        QVERIFY(back && back->playedVolts == 2 && back->recordedVolts == 30 && back->input == 2 &&
                back->secondInput == 1 && back->secondVolts == 1.5);
        QCOMPARE(back->playerMixer, c.playerMixer);
        QVERIFY(std::isnan(bench::readCalibration(file, "another", "one")->playedVolts));
        QCOMPARE(bench::staleness(c, *bench::soundPorts()), std::string());
        QVERIFY(bench::staleness(other, *bench::soundPorts()).find("not there") != std::string::npos);
        QVERIFY(server->mixer("set-sink-volume loop 50%"));
        QVERIFY(bench::staleness(c, *bench::soundPorts()).find("mixer was changed") != std::string::npos);
        const auto refused = bench::SoundBench(c).play(0, std::vector<double>(4800, 0.1), 48000, {});
        QVERIFY(!refused && refused.problem().sentence.find("mixer") != std::string::npos);
        QVERIFY(server->mixer("set-sink-mute loop 1"));
        const auto muted = bench::playAndRecord(std::vector<double>(4800, 0.1), {});
        QVERIFY(!muted && muted.problem().sentence.find("muted") != std::string::npos);
        QVERIFY(server->mixer("set-sink-mute loop 0") && server->mixer("set-sink-volume loop 100%"));
        std::ofstream(file) << "{\"format\": \"letters\"}";
        QVERIFY(!bench::lastCalibration(file).ok() && !bench::writeCalibration(file, c).ok());
    }

    void wrongPortsAreNamed() {
        const auto p = bench::playAndRecord({0.1, 0.2}, {.player = "harp"});
        QVERIFY(!p && p.problem().sentence.find("\"harp\"; there are: loop") != std::string::npos);
        const auto r = bench::playAndRecord({0.1, 0.2}, {.recorder = "ear"});
        QVERIFY(!r && r.problem().sentence.find("loop.monitor") != std::string::npos);
        QVERIFY(!bench::playAndRecord({}, {}).ok());
        QVERIFY(!bench::playAndRecord({0.1}, {.rate = 1}).ok());
    }

    void aTakeIsCancelled() {
        std::stop_source stop;
        bench::SoundTake take;
        take.watch = {[&](double share) {
                          if (share > 0.1) stop.request_stop();
                      },
                      stop.get_token()};
        const auto c = bench::playAndRecord(std::vector<double>(10 * 48000, 0.1), take);
        QVERIFY(!c && c.problem().sentence == "cancelled");
    }

    /// What stops in the middle of a take spoils it: it is refused, and never a shorter capture.
    void aDeviceThatStopsIsNoticed() {
        bool stopped = false;
        bench::SoundTake take;
        take.watch.progress = [&](double share) {
            if (share > 0.2 && !stopped) stopped = server->mixer("suspend-sink loop 1");
        };
        const auto c = bench::playAndRecord(std::vector<double>(2 * 48000, 0.1), take);
        QVERIFY(stopped && !c);
        QVERIFY2(c.problem().sentence.find("stopped recording") != std::string::npos ||
                     c.problem().sentence.find("not used") != std::string::npos,
                 c.problem().sentence.c_str());
        QVERIFY(server->mixer("suspend-sink loop 0"));
    }

    void withoutAServerThereIsASentence() {
        const QByteArray was = qgetenv("PULSE_SERVER");
        qputenv("PULSE_SERVER", "unix:/nowhere/socket");
        const auto ports = bench::soundPorts();
        qputenv("PULSE_SERVER", was);
        QVERIFY(!ports && ports.problem().sentence.find("running?") != std::string::npos);
    }
};

EMBER_TESTS(TestSoundDevice)
#include "test_sound_device.moc"
