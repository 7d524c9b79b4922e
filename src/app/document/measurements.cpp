// Series of takes, and captures beside the build.
#include "background.h"

#include "core/bench/sound_bench.h"

#include <QDateTime>

#include <chrono>

namespace ember::app {

namespace {

/// A sound device as the maker of a series' takes; `ready` asks the person at the bench before another setup is taken.
bench::Taker deviceTaker(bench::SoundCalibration calibration, const bench::SeriesContext& context,
                         const bench::TakeWatch& watch, std::function<bool(const std::string&)> ready) {
    struct Now {
        bench::Setup setup;
        std::size_t channel = 0;
        bool begun = false;
    };
    auto device = std::make_shared<bench::SoundBench>(std::move(calibration));
    return [device, &context, watch, ready = std::move(ready),
            now = std::make_shared<Now>()](const bench::TakeRequest& r) -> Expected<signal::Capture> {
        std::string wanted = bench::changeInWords(now->setup, r.setup, context.channels[r.channel].name);
        if (now->begun && now->channel != r.channel)
            wanted = "Move generator and recorder to channel " + context.channels[r.channel].name +
                     ", the volume down meanwhile. " + wanted;
        if (!wanted.empty() && !ready(wanted)) return Problem{"", "cancelled"};
        *now = {r.setup, r.channel, true};
        return device->take(r, {{}, watch.stop});
    };
}

} // namespace

void Document::answerSetup(bool done) {
    if (auto asking = std::exchange(setupAnswer, nullptr)) asking->set_value(done);
}

void Document::measure(Bench with, const bench::SeriesRequest& request,
                       std::function<void(Expected<SeriesTaken>)> then) {
    if (with == Bench::Practice && !practice) return then(Problem{"", "the practice bench is off"});
    stopTake = std::stop_source();
    ++takesUnderWay;
    const bench::TakeWatch watch = takeWatch();
    const auto ask = [this](const std::string& sentence) {
        auto answer = std::make_shared<std::promise<bool>>();
        auto future = answer->get_future();
        QMetaObject::invokeMethod(
            this,
            [this, answer, sentence] {
                setupAnswer = answer;
                if (stopTake.stop_requested()) return answerSetup(false);
                Q_EMIT setupWanted(QString::fromStdString(sentence));
            },
            Qt::QueuedConnection);
        return future.get();
    };
    auto taken = std::make_shared<SeriesTaken>();
    taken->measurement.series = request;
    taken->measurement.context = bench::seriesContextOf(current, published->figures);
    taken->measurement.build = current;
    if (request.channel < current.channels.size())
        taken->measurement.title = current.channels[request.channel].name + ": " + bench::formOf(request.kind).caption;
    taken->measurement.made = QDateTime::currentDateTime().toString(Qt::ISODate).toStdString();
    inBackground(with == Bench::Practice ? practiceBench : soundDevice,
                 [this, with, amplifier = practice, wall = mains, request, watch, taken, ask, folder = capturesFolder(),
                  then = std::move(then)] {
                     bench::Measurement& m = taken->measurement;
                     const auto work = [&]() -> Expected<bench::SeriesResult> {
                         bench::Taker taker;
                         if (with == Bench::Practice) {
                             if (auto done = amplifier->power(6, wall, watch.stop); !done) return done.problem();
                             taker = [&](const bench::TakeRequest& r) { return amplifier->take(r, {{}, watch.stop}); };
                         } else {
                             auto calibration = bench::lastCalibration(bench::calibrationFile());
                             if (!calibration) return calibration.problem();
                             taker = deviceTaker(std::move(*calibration), m.context, watch, ask);
                         }
                         return bench::measure(request, m.context, bench::recordingInto(m.takes, taker), watch);
                     };
                     const auto result = std::make_shared<Expected<bench::SeriesResult>>(work());
                     if (*result) {
                         if (const auto kept = keepCaptures(folder, m))
                             taken->files = *kept;
                         else
                             taken->notKept = kept.problem().text();
                         m.takes = {}; // on the disk from here on: tens of megabytes
                     }
                     QMetaObject::invokeMethod(
                         this,
                         [this, result, taken, then] {
                             --takesUnderWay;
                             if (!*result) return then(result->problem());
                             taken->result = std::move(**result);
                             then(std::move(*taken));
                         },
                         Qt::QueuedConnection);
                 });
}

std::filesystem::path Document::capturesFolder() const {
    return path.isEmpty() ? std::filesystem::path(stateFolder.toStdString()) / "captures"
                          : bench::filesFolder(path.toStdString());
}

Expected<bench::KeptFiles> Document::keepCaptures(const std::filesystem::path& folder, const bench::Measurement& m) {
    std::string stem;
    for (const char c : m.made + "-" + m.title.substr(0, m.title.find(':')))
        stem += (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ? c : '-';
    return bench::writeMeasurement(folder, stem, m);
}

/// What the log names is copied to where the build is now; the old place keeps its own.
Expected<Done> Document::moveCaptures(const std::filesystem::path& from) const {
    const auto to = capturesFolder();
    if (to == from) return Done{};
    for (const LogEntry& e : current.log) {
        const auto file = std::filesystem::path(e.file).filename(); // never outside of the folder
        if (file.empty() || !std::filesystem::exists(from / file)) continue;
        std::error_code error;
        std::filesystem::create_directories(to, error);
        for (const std::filesystem::path& name : {file, std::filesystem::path(file).replace_extension(".flac")})
            if (!error)
                std::filesystem::copy_file(from / name, to / name, std::filesystem::copy_options::overwrite_existing,
                                           error);
        if (error)
            return Problem{to.string(),
                           "the build is saved, but not the captures of \"" + e.text + "\": " + error.message()};
    }
    return Done{};
}

} // namespace ember::app
