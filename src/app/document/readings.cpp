// The document's readings: kept at once, judged by the stage of First Power that they are of.
#include "background.h"
#include "last_computed.h"

#include "core/build/flat.h"
#include "core/build/own_types.h"

#include <algorithm>

#include <sys/resource.h>
#include <unistd.h>

namespace ember::app {

void yieldToTheInterface() {
    static thread_local const bool once = setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), 5) == 0;
    (void)once;
}

Document::Taken Document::takeReading(const procedure::TestPoint& point, int index, double value,
                                      const std::string& source) {
    log(procedure::unjudgedEntry(point, index, value, source));
    const std::size_t entry = current.log.size() - 1;
    Taken taken;
    if (const procedure::PowerStage* s = stage(index, mains); s && !s->rough) {
        taken = judge(entry, *s);
    } else {
        waiting.push_back({entry, {index, mains}});
        taken = {"kept; judged as soon as its band is computed", true};
    }
    return taken;
}

Document::Taken Document::judge(std::size_t at, const procedure::PowerStage& s) {
    LogEntry& e = current.log[at];
    for (const procedure::Expectation& x : s.expectations) {
        if (x.point.id != e.point) continue;
        procedure::judgeEntry(e, x);
        const procedure::Verdict v = procedure::judge(x, e.value);
        const QString words = QString::fromStdString(procedure::sentence(x, e.value));
        record("judge a reading");
        if (v == procedure::Verdict::Stop)
            log(procedure::stageEntry(s.index, StageEvent::Ended,
                                      x.point.label + " at " + format(current.log[at].value, x.point.unit())));
        return {words, v == procedure::Verdict::InRange};
    }
    return {"kept, not judged: this stage does not read that point", false};
}

void Document::judgeWaiting() {
    const auto all = std::exchange(waiting, {});
    for (const Waiting& w : all) {
        const auto s = stages.find(w.at);
        if (s == stages.end() || s->second.rough) {
            waiting.push_back(w);
            continue;
        }
        const Taken taken = judge(w.entry, s->second);
        Q_EMIT judged(taken.sentence, taken.good);
    }
}

void Document::setMainsRead(double volts) {
    if (volts == mains) return;
    mains = volts;
    Q_EMIT mainsReadChanged();
}

namespace {

/// Stages of First Power of the circuits that were open last, by stageKey().
LastComputed<std::string, procedure::PowerStage, 40>& knownStages() {
    static LastComputed<std::string, procedure::PowerStage, 40> known;
    return known;
}

} // namespace

std::string Document::stageKey(const StageAt& at) const {
    Build wires;
    wires.wiring = current.wiring;
    return fmt::format("{} {} {}\n{}\n{}", at.first, at.second, bandSamples, flatCircuit(current), flat(wires));
}

const procedure::PowerStage* Document::stage(int index, double volts) {
    const StageAt key{index, volts};
    if (const auto at = stages.find(key); at != stages.end()) return &at->second;
    if (const procedure::PowerStage* known = knownStages().find(stageKey(key))) return &(stages[key] = *known);
    if (!stagesUnderWay.insert(key).second) return nullptr;
    inBackground(
        practiceBench, [this, mine = revision, key, b = current, samples = bandSamples, stop = stopStages.get_token()] {
            const auto compute = [&](bool withFaults, int drawnFrom, bool rough) {
                if (stop.stop_requested()) return;
                procedure::PowerStage s =
                    procedure::firstPowerStage(b, catalogueOf(b), key.first, key.second, {withFaults, drawnFrom, stop});
                s.rough = rough;
                if (stop.stop_requested()) return;
                QMetaObject::invokeMethod(
                    this, [this, mine, key, s = std::move(s)] { keepStage(key, s, mine); }, Qt::QueuedConnection);
            };
            if (samples > procedure::roughSamples) compute(false, procedure::roughSamples, true);
            compute(true, samples, false);
        });
    return nullptr;
}

void Document::keepStage(const StageAt& at, procedure::PowerStage s, quint64 of) {
    if (of != revision) return;
    if (stages.size() > 20) stages.clear(); // many mains were tried
    if (!s.rough) {
        stagesUnderWay.erase(at);
        knownStages().keep(stageKey(at), s);
    }
    stages[at] = std::move(s);
    judgeWaiting();
    Q_EMIT stageReady(at.first);
}

const procedure::Suspicion* Document::suspicion(int index) {
    const StageAt at{index, mains};
    const procedure::PowerStage* s = stage(index, mains);
    if (!s || s->rough || !s->powered) return nullptr;
    const auto readings = procedure::readingsSoFar(current, *s);
    const bool wrong = std::any_of(readings.begin(), readings.end(), [&](const auto& r) {
        const LogEntry* e = procedure::lastReading(current, index, r.first.id);
        const auto v = e ? procedure::verdictOf(e->verdict) : procedure::Verdict::NotJudged;
        return v != procedure::Verdict::InRange && v != procedure::Verdict::NotJudged;
    });
    if (!wrong) return nullptr;
    std::vector<std::pair<std::string, double>> of;
    for (const auto& [point, value] : readings) of.emplace_back(point.id, value);
    if (asked && asked->at == at && asked->revision == revision && asked->readings == of)
        return asked->answer ? &*asked->answer : nullptr;
    if (asked) asked->stop.request_stop();
    asked = Asked{at, revision, of, {}, {}};
    inBackground(solver,
                 [this, b = current, power = *s, readings, of, at, mine = revision, stop = asked->stop.get_token()] {
                     if (stop.stop_requested()) return;
                     auto answer = procedure::suspects(b, catalogueOf(b), power, readings, stop);
                     if (!answer || stop.stop_requested()) return;
                     QMetaObject::invokeMethod(
                         this,
                         [this, of, at, mine, answer = std::move(*answer)]() mutable {
                             if (!asked || asked->at != at || asked->revision != mine || asked->readings != of) return;
                             asked->answer = std::move(answer);
                             Q_EMIT suspected(at.first);
                         },
                         Qt::QueuedConnection);
                 });
    return nullptr;
}

} // namespace ember::app
