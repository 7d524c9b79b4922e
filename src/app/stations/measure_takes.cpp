// What Measure does with a take or a series once it is there: analysed, shown, logged, kept beside the build, compared.
#include "measure_station.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/signal/square_wave.h"
#include "core/wires/hum.h"

#include <QComboBox>
#include <QDateTime>
#include <QInputDialog>
#include <QLabel>
#include <QtConcurrent>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using theme::Role;

void MeasureStation::takeSeries() {
    const auto request = controls->askedSeries();
    if (!request) return Q_EMIT said(QString::fromStdString(request.problem().sentence), false);
    controls->showTaking(true);
    seriesWords->setText("taking: " + controls->caption() + " ...");
    document.measure(
        controls->bench(), *request,
        [this, r = *request, with = controls->bench(),
         before = document.revisionNow()](Expected<Document::SeriesTaken> taken) {
            controls->showTaking(false);
            controls->refresh(ready());
            seriesWords->clear();
            if (!taken) {
                seriesWords->setText(QString::fromStdString(taken.problem().sentence));
                return Q_EMIT said(QString::fromStdString(taken.problem().sentence), false);
            }
            if (before != document.revisionNow() || r.channel >= document.build().channels.size())
                return seriesWords->setText("The build changed meanwhile: take it again.");
            LogEntry e;
            e.kind = "measure";
            e.source = with == Document::Bench::Practice ? bench::VirtualAmplifier::practice : "sound device";
            e.stage = -1;
            e.time = taken->measurement.made;
            e.text = document.build().channels[r.channel].name + ": " + bench::formOf(r.kind).caption;
            int told = 0;
            for (const bench::SeriesFigure& f : taken->result.figures)
                if (std::isfinite(f.value) && told < 4)
                    e.text += fmt::format("{}{} {}", told++ == 0 ? "; " : ", ", f.name, format(f.value, f.unit));
            e.file = taken->files.name, e.hash = taken->files.hash;
            if (!taken->notKept.empty()) Q_EMIT said(text(taken->notKept), false);
            document.log(e);
            const QString title =
                QString::fromStdString(document.build().channels[r.channel].name) + ", " + text(e.time).section('T', 1);
            series->add(std::move(*taken), title);
            Q_EMIT said(text(e.text), true);
        });
}

void MeasureStation::addNode(const signal::Capture& capture, const QString& file) {
    const auto request = controls->askedSeries();
    if (!request || request->channel >= document.build().channels.size()) return;
    const int nodes = bench::seriesContextOf(document.build(), document.figures()).nodes;
    bool ok = false;
    const int node =
        nodes > 1 ? QInputDialog::getInt(this, "Supply node", "Which node does it show? B+", 1, 1, nodes, 1, &ok) : 1;
    if (nodes > 1 && !ok) return;
    Document::SeriesTaken taken;
    taken.measurement.series = *request;
    taken.measurement.build = document.build();
    taken.measurement.context = bench::seriesContextOf(document.build(), document.figures());
    bench::addSag(taken.result, capture, fmt::format("B+{}", node));
    if (taken.result.figures.size() < 2) return Q_EMIT said("There is nothing in it.", false);
    LogEntry e;
    e.kind = "measure";
    e.source = std::filesystem::path(file.toStdString()).filename().string();
    e.stage = -1;
    e.text = fmt::format("{}: B+{} under a burst falls by {}", document.build().channels[request->channel].name, node,
                         format(taken.result.figures[1].value, Unit::Volt));
    document.log(e);
    series->add(std::move(taken), text(e.source));
    Q_EMIT said(text(e.text), true);
}

/// Analysed in the background, then shown and kept.
void MeasureStation::showTake(const bench::TakeRequest& request, const signal::Capture& c, double inputRms, bool log) {
    if (request.channel >= document.build().channels.size())
        return words->setText("This build has no channel to measure.");
    struct Result {
        Expected<TakeReading> reading{Problem{"", ""}};
        bench::KeptFiles files;
        std::string notKept;
    };
    auto* watcher = new QFutureWatcher<std::shared_ptr<Result>>(this);
    auto capture = std::make_shared<const signal::Capture>(c);
    if (request.kind == bench::TakeKind::Square && sourceSquare) {
        if (const auto without = signal::withoutSource(c, *sourceSquare, request.hertz))
            capture = std::make_shared<const signal::Capture>(*without);
        else
            Q_EMIT said(text(without.problem().text()), false);
    }
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher, request, capture, log] {
        const auto r = watcher->result();
        watcher->deleteLater();
        if (!r->reading) return words->setText(QString::fromStdString(r->reading.problem().sentence));
        draw(*r->reading, request);
        if (!r->notKept.empty()) Q_EMIT said(text(r->notKept), false);
        if (request.kind == bench::TakeKind::Tone) distortion->setFloor(r->reading->floorThd);
        if (request.kind == bench::TakeKind::Sweep) bySweep->setFloor(r->reading->floorThd);
        if (request.kind == bench::TakeKind::Sweep) {
            look(View::Response);
            return response->showSweep(request, *capture, r->files, log);
        }
        remember(request, *r->reading);
        if (log) keep(request, capture->source, *r->reading, r->files);
    });
    bench::Measurement m{QDateTime::currentDateTime().toString(Qt::ISODate).toStdString(),
                         document.build().channels[request.channel].name + ": " + bench::formOf(request.kind).caption,
                         std::nullopt,
                         bench::seriesContextOf(document.build(), document.figures()),
                         document.build(),
                         {{request, c}}}; // as it was captured, whatever is taken out of it for the picture
    watcher->setFuture(QtConcurrent::run([request, capture, log, m = std::move(m), folder = document.capturesFolder(),
                                          context = contextOf(document.solved(), request.channel, inputRms)]() mutable {
        const auto known = bench::lastCalibration(bench::calibrationFile());
        if (known && known->recorder == capture->source) context.device = bench::limitsOf(*known);
        auto out = std::make_shared<Result>();
        out->reading = readTake(request, *capture, context);
        // Captures from other programs' files are theirs to keep.
        const bool own =
            capture->source == bench::VirtualAmplifier::practice || (known && known->recorder == capture->source);
        if (!log || !own || !out->reading) return out;
        if (auto kept = Document::keepCaptures(folder, m))
            out->files = *kept;
        else
            out->notKept = kept.problem().text();
        return out;
    }));
}

void MeasureStation::keep(const bench::TakeRequest& request, const std::string& from, const TakeReading& reading,
                          const bench::KeptFiles& files) {
    if (request.channel >= document.build().channels.size()) return; // another build was opened meanwhile
    LogEntry e;
    e.kind = "measure";
    e.source = from;
    e.stage = -1;
    e.text = document.build().channels[request.channel].name + ": " + reading.log;
    e.file = files.name, e.hash = files.hash;
    document.log(e);
    if (request.kind == bench::TakeKind::Tone)
        distortion->add(request.channel, std::isfinite(reading.watts) ? reading.watts : reading.level,
                        reading.thdPercent);
    foretell(request);
    Q_EMIT said(QString::fromStdString(e.text), reading.good);
}

/// For comparing: the newest of every kind is the last of its kind here.
void MeasureStation::remember(const bench::TakeRequest& request, const TakeReading& reading) {
    constexpr std::size_t most = 40;
    if (earlier.size() == most) earlier.erase(earlier.begin());
    earlier.push_back(
        {request, reading,
         text(document.build().channels[request.channel].name) + ", " + QTime::currentTime().toString("HH:mm:ss"),
         document.build()});
    const QSignalBlocker quiet(other);
    other->clear();
    other->addItem("nothing", -1);
    for (std::size_t k = 0; k + 1 < earlier.size(); ++k)
        if (earlier[k].request.kind == request.kind) other->addItem(earlier[k].title, static_cast<int>(k));
    other->setEnabled(other->count() > 1);
}

void MeasureStation::compareWith(int index) {
    if (earlier.empty()) return;
    const Earlier& now = earlier.back();
    draw(now.reading, now.request);
    if (index < 0 || index + 1 >= static_cast<int>(earlier.size())) return;
    const Earlier& then = earlier[static_cast<std::size_t>(index)];
    charts->addEarlier(then.reading);
    QString said = "Slate: " + then.title + ", ";
    for (std::size_t k = 0; k < then.reading.figures.size(); ++k)
        said += (k > 0 ? ", " : "") + then.reading.figures[k].caption + " " + then.reading.figures[k].value;
    const auto changes = bench::differencesOf(then.build, now.build);
    said += changes.empty() ? ". Nothing in the build changed between them." : ". Changed between them:";
    for (std::size_t k = 0; k < std::min<std::size_t>(4, changes.size()); ++k)
        said += (k > 0 ? "; " : " ") + text(changes[k]);
    if (changes.size() > 4) said += QString("; and %1 more.").arg(changes.size() - 4);
    words->setText(said);
}

void MeasureStation::draw(const TakeReading& r, const bench::TakeRequest& request) {
    for (std::size_t k = 0; k < values.size(); ++k) {
        captions[k]->setText(r.figures[k].caption);
        values[k]->setText(r.figures[k].value);
        values[k]->setAccessibleName(r.figures[k].caption);
    }
    words->setStyleSheet(QString("color:%1").arg(theme::color(r.good ? Role::Bone : Role::Stop).name()));
    const auto& planned = document.figures().wires;
    const wires::ChannelHum* hum =
        planned && request.channel < planned->hum.channels.size() ? &planned->hum.channels[request.channel] : nullptr;
    QString said = r.words;
    if (hum && request.kind == bench::TakeKind::Tone)
        said += QString(";  hum predicted %1.").arg(text(hum->rms, Unit::Volt));
    if (!r.beside.isEmpty()) said += (said.endsWith('.') ? " " : ". ") + r.beside;
    words->setText(said);
    charts->showTake(r, request.kind, hum);
    const MeasuredResponse& swept = response->measured();
    if (request.kind == bench::TakeKind::Square && !swept.degrees.empty() && !r.wave.empty()) {
        std::vector<signal::ResponsePoint> points;
        for (std::size_t k = 0; k < swept.hertz.size(); ++k)
            points.push_back({swept.hertz[k], swept.db[k], swept.degrees[k]});
        const double seconds = static_cast<double>(r.wave.size()) * r.waveStep;
        charts->addExpected(signal::squareThrough(points, 1 / seconds, 400), seconds);
        words->setText(words->text() + " Slate, dotted: what the newest sweep makes of a square.");
    }
}

void MeasureStation::lookAgain(const std::filesystem::path& folder, const bench::KeptFiles& files) {
    struct Read {
        Expected<bench::Measurement> measurement{Problem{"", ""}};
        Expected<bench::SeriesResult> result{Problem{"", ""}};
    };
    auto* watcher = new QFutureWatcher<std::shared_ptr<Read>>(this);
    connect(watcher, &QFutureWatcherBase::finished, this, [this, watcher] {
        const auto read = watcher->result();
        watcher->deleteLater();
        const auto fail = [&](const Problem& p) { Q_EMIT said(text(p.text()), false); };
        if (!read->measurement) return fail(read->measurement.problem());
        const bench::Measurement& m = *read->measurement;
        if (m.series) {
            if (!read->result) return fail(read->result.problem());
            controls->chooseSeries(m.series->kind);
            series->add({*read->result, m},
                        text(m.context.channels[m.series->channel].name) + ", " + text(m.made).replace('T', ' '));
            return Q_EMIT said("From its captures: " + text(m.title), true);
        }
        if (m.takes.empty()) return fail({"", "it holds no capture"});
        controls->choose(m.takes.front().request.kind);
        showTake(m.takes.front().request, m.takes.front().capture, m.takes.front().request.inputRms, false);
        Q_EMIT said("From its capture: " + text(m.title), true);
    });
    watcher->setFuture(QtConcurrent::run([folder, files] {
        auto read = std::make_shared<Read>();
        read->measurement = bench::readMeasurement(folder, files);
        if (read->measurement && read->measurement->series)
            read->result = bench::measure(
                *read->measurement->series, read->measurement->context,
                bench::answeringFrom(std::make_shared<const std::vector<bench::TakeRecord>>(read->measurement->takes)));
        return read;
    }));
}

} // namespace ember::app
