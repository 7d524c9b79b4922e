// The document's First Power: readings are kept at once and judged by the step that they are of; steps are passed,
// begun again, and reopened by what is changed.
#include "background.h"
#include "last_computed.h"

#include "app/widgets/words.h"
#include "core/build/flat.h"
#include "core/build/own_types.h"
#include "core/procedure/changes.h"

#include <fmt/format.h>

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
    using procedure::PointKind;
    const procedure::Strand whose = strand();
    if (const std::string why = procedure::notReadable(current, point, index, whose); !why.empty())
        return {text(why), false};
    const bool unplugged = point.kind == PointKind::Held;
    log(procedure::unjudgedEntry(point, index, value, practising() ? procedure::practiceSource : source));
    const std::size_t entry = current.log.size() - 1;
    Taken taken;
    // Stop limits are ratings: they hold at once, before the ranges are fine.
    const procedure::PowerStage* s = stage(index, mains);
    const auto stops = [&] {
        return std::any_of(s->expectations.begin(), s->expectations.end(), [&](const procedure::Expectation& x) {
            return x.point.id == point.id && procedure::judge(x, value) == procedure::Verdict::Stop;
        });
    };
    if (s && (!s->rough || unplugged || stops())) {
        taken = judge(entry, *s);
    } else {
        waiting.push_back({entry, {index, mains}});
        taken = {"kept; judged as soon as its band is computed", true};
    }
    if (unplugged && procedure::notYetDischarged(current, whose).empty() && whose == procedure::Strand::Amplifier)
        switchedOffWatch.measured(text(current.name));
    return taken;
}

std::vector<std::string> Document::obstaclesTo(const procedure::PowerStage& s) const {
    std::vector<std::string> stops;
    if (strand() == procedure::Strand::Amplifier) {
        if (busy) return {"The findings are still being computed."};
        for (const rules::Finding& f : findings())
            if (f.level == rules::Level::Stop && !f.waived) stops.push_back(f.title);
    }
    if (s.rough) return {"The ranges are still being computed."};
    return procedure::obstacles(current, s, strand(), stops);
}

bool Document::passStage(int index) {
    const procedure::PowerStage* s = stage(index, mains);
    if (!s || !obstaclesTo(*s).empty()) return false;
    log(procedure::stageEntry(index, StageEvent::Passed, strand()));
    if (index > 0) startWatch(); // what comes next is done with the plug out
    return true;
}

void Document::beginAgain(int index) {
    log(procedure::stageEntry(index, StageEvent::Begun, strand()));
}

plan::Discharge Document::worstDischarge() const {
    for (auto s = stages.rbegin(); s != stages.rend(); ++s) // of the latest step that is there: the most is charged
        if (!s->second.discharge.seconds.empty() && s->second.conditions.rectifierIn) return s->second.discharge;
    return figures().discharge;
}

void Document::startWatch() {
    if (strand() == procedure::Strand::Practice) return; // the practice amplifier holds nothing
    switchedOffWatch.start(text(current.name), worstDischarge());
}

void Document::switchedOff(int stage) {
    log(procedure::switchedOffEntry(stage, strand()));
    startWatch();
}

void Document::takeBias(const procedure::Expectation& x, int stage, double value, const std::string& source) {
    log(procedure::readingEntry(x, stage, value, practising() ? procedure::practiceSource : source));
    if (procedure::judge(x, value) == procedure::Verdict::Stop) startWatch();
}

void Document::exchanged(const std::string& part) {
    log(procedure::exchangedEntry(current, part));
    solve(); // the finding at the part goes
}

void Document::logChanges(const Build& before) {
    const std::string now = Clock::local().toString(Qt::ISODate).toStdString();
    if (!procedure::logChanges(before, current, now)) return;
    logModified = true;
    QMetaObject::invokeMethod(this, &Document::logChanged, Qt::QueuedConnection);
}

Document::Taken Document::judge(std::size_t at, const procedure::PowerStage& s) {
    LogEntry& e = current.log[at];
    for (const procedure::Expectation& x : s.expectations) {
        if (x.point.id != e.point) continue;
        procedure::judgeEntry(e, x);
        const procedure::Verdict v = procedure::judge(x, e.value);
        const QString words = QString::fromStdString(procedure::sentence(x, e.value));
        record("judge a reading");
        if (v == procedure::Verdict::Stop) {
            const procedure::Strand whose = procedure::strandOf(current.log[at]);
            log(procedure::stageEntry(s.index, StageEvent::Ended, whose,
                                      x.point.label + " at " +
                                          procedure::readText(current.log[at].value, x.point.unit())));
            if (s.powered) startWatch();
        }
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
    const auto readings = procedure::readingsSoFar(current, *s, strand());
    bool wrong = false, stopped = false;
    for (const auto& [point, value] : readings) {
        const LogEntry* e = procedure::lastReading(current, index, point.id, strand());
        const auto v = e ? procedure::verdictOf(e->verdict) : procedure::Verdict::NotJudged;
        wrong = wrong || (v != procedure::Verdict::InRange && v != procedure::Verdict::NotJudged);
        stopped = stopped || v == procedure::Verdict::Stop;
    }
    if (!wrong) return nullptr;
    if (!asked || asked->at != at || asked->revision != revision) {
        if (asked) asked->stop.request_stop();
        asked = Asked{at, revision};
        inBackground(solver, [this, b = current, power = *s, at, mine = revision, stop = asked->stop.get_token()] {
            if (stop.stop_requested()) return;
            auto table = procedure::faultTable(b, catalogueOf(b), power, stop);
            if (!table || stop.stop_requested()) return;
            auto shared = std::make_shared<const procedure::FaultTable>(std::move(*table));
            QMetaObject::invokeMethod(
                this,
                [this, at, mine, shared] {
                    if (!asked || asked->at != at || asked->revision != mine) return;
                    asked->table = shared;
                    Q_EMIT suspected(at.first);
                },
                Qt::QueuedConnection);
        });
    }
    if (!asked->table) return nullptr;
    std::vector<std::pair<std::string, double>> of;
    for (const auto& [point, value] : readings) of.emplace_back(point.id, value);
    if (!asked->answer || asked->readings != of) {
        asked->readings = of;
        asked->answer.reset();
        if (auto answer = procedure::suspects(*asked->table, readings, !stopped)) asked->answer = std::move(*answer);
    }
    return asked->answer ? &*asked->answer : nullptr;
}

} // namespace ember::app
