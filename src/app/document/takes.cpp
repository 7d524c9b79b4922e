// What the document asks of a bench: the practice amplifier's readings, and takes with it or with a sound device.
#include "background.h"

#include "core/bench/approach.h"
#include "core/bench/sound_bench.h"
#include "core/build/own_types.h"

namespace ember::app {

void Document::startPractice(quint64 seed, const QString& fault) {
    auto made = bench::VirtualAmplifier::make(current, catalogueOf(current), seed, fault.toStdString());
    if (made) {
        practice = std::make_shared<bench::VirtualAmplifier>(std::move(*made));
        // Another amplifier: nothing that an earlier one showed is proved of it.
        if (std::any_of(current.log.begin(), current.log.end(), [](const LogEntry& e) {
                return procedure::strandOf(e) == procedure::Strand::Practice && e.kind != "measure";
            }))
            log(procedure::stageEntry(0, StageEvent::Begun, procedure::Strand::Practice));
    } else {
        Q_EMIT trouble(QString::fromStdString(made.problem().text()));
    }
    Q_EMIT practiceChanged();
}

void Document::stopPractice() {
    practice.reset();
    Q_EMIT practiceChanged();
}

void Document::readPractice(int stageIndex, double volts, const QString& point,
                            std::function<void(Expected<double>)> then) {
    if (!practice) return then(Problem{"", "the practice bench is off"});
    inBackground(practiceBench,
                 [this, bench = practice, stageIndex, volts, id = point.toStdString(), then = std::move(then)] {
                     auto done = bench->power(stageIndex, volts);
                     Expected<double> value = done ? bench->read(id) : Expected<double>(done.problem());
                     QMetaObject::invokeMethod(
                         this, [value, then] { then(value); }, Qt::QueuedConnection);
                 });
}

namespace {

/// The level is raised in steps before what is to be measured is played at it.
Expected<Done> raise(const bench::TakeRequest& r, const bench::LoadLimits& limits, const bench::PlayTone& play,
                     const bench::TakeWatch& watch) {
    if (r.kind == bench::TakeKind::Noise || r.levelTried) return Done{};
    const auto steps = bench::approach(r.inputRms, bench::approachHertz(r), limits, play, watch);
    return steps ? Expected<Done>(Done{}) : Expected<Done>(steps.problem());
}

Expected<signal::Capture> practise(bench::VirtualAmplifier& amplifier, double mains, const bench::TakeRequest& r,
                                   const bench::LoadLimits& limits, const bench::TakeWatch& watch) {
    if (auto done = amplifier.power(6, mains, watch.stop); !done) return done.problem();
    const auto tone = [&](double volts) {
        return amplifier.take(
            {bench::TakeKind::Tone, r.channel, volts, bench::approachHertz(r), bench::approachSeconds},
            {{}, watch.stop});
    };
    if (auto done = raise(r, limits, tone, watch); !done) return done.problem();
    return amplifier.take(r, watch);
}

Expected<signal::Capture> takeWithDevice(const bench::TakeRequest& r, const bench::LoadLimits& limits,
                                         const bench::TakeWatch& watch) {
    auto calibration = bench::lastCalibration(bench::calibrationFile());
    if (!calibration) return calibration.problem();
    bench::SoundBench device(std::move(*calibration));
    const auto tone = [&](double rms) {
        return device.take({bench::TakeKind::Tone, r.channel, rms, bench::approachHertz(r), bench::approachSeconds},
                           {{}, watch.stop});
    };
    if (auto done = raise(r, limits, tone, watch); !done) return done.problem();
    return device.take(r, watch);
}

} // namespace

bench::TakeWatch Document::takeWatch() {
    return {[this](double share) {
                QMetaObject::invokeMethod(
                    this, [this, share] { Q_EMIT takeMoved(share); }, Qt::QueuedConnection);
            },
            stopTake.get_token(),
            [this](double inputRms) {
                QMetaObject::invokeMethod(
                    this, [this, inputRms] { Q_EMIT takeApproaches(inputRms); }, Qt::QueuedConnection);
            }};
}

void Document::cancelTake() {
    stopTake.request_stop();
    answerSetup(false);
}

void Document::take(Bench with, const bench::TakeRequest& request,
                    std::function<void(Expected<signal::Capture>)> then) {
    if (with == Bench::Practice && !practice) return then(Problem{"", "the practice bench is off"});
    stopTake = std::stop_source();
    ++takesUnderWay;
    const bench::TakeWatch watch = takeWatch();
    const bench::LoadLimits limits = request.channel < current.channels.size()
                                         ? bench::loadLimitsOf(current.channels[request.channel].stages, request)
                                         : bench::LoadLimits{};
    inBackground(
        with == Bench::Practice ? practiceBench : soundDevice,
        [this, with, amplifier = practice, wall = current.mains.volts, request, limits, watch, then = std::move(then)] {
            auto capture = std::make_shared<Expected<signal::Capture>>(
                with == Bench::Practice ? practise(*amplifier, wall, request, limits, watch)
                                        : takeWithDevice(request, limits, watch));
            QMetaObject::invokeMethod(
                this,
                [this, capture, then] {
                    --takesUnderWay;
                    then(*capture);
                },
                Qt::QueuedConnection);
        });
}

} // namespace ember::app
