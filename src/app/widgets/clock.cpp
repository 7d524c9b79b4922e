#include "clock.h"

#include <algorithm>
#include <optional>
#include <vector>

namespace ember::app {

namespace {

/// The held time [ms] and the timers that run by it.
std::optional<qint64> heldAt;
std::vector<Timer*>& heldTimers() {
    static std::vector<Timer*> all;
    return all;
}

} // namespace

qint64 Clock::now() {
    return heldAt ? *heldAt : QDateTime::currentMSecsSinceEpoch();
}

void Clock::hold() {
    if (!heldAt) heldAt = QDateTime::currentMSecsSinceEpoch();
}

bool Clock::held() {
    return heldAt.has_value();
}

void Clock::move(qint64 ms) {
    if (!heldAt) return;
    const qint64 until = *heldAt + ms;
    while (true) {
        const auto& timers = heldTimers();
        const auto next =
            std::min_element(timers.begin(), timers.end(), [](Timer* a, Timer* b) { return a->due < b->due; });
        if (next == timers.end() || (*next)->due > until) break;
        Timer* timer = *next;
        heldAt = std::max(*heldAt, timer->due);
        if (timer->machine.isSingleShot())
            timer->stop();
        else
            timer->due = *heldAt + std::max(1, timer->machine.interval());
        Q_EMIT timer->timeout();
    }
    heldAt = std::max(*heldAt, until);
}

Timer::Timer(QObject* parent) : QObject(parent) {
    connect(&machine, &QTimer::timeout, this, &Timer::timeout);
}

Timer::~Timer() {
    stop();
}

void Timer::start(int ms) {
    machine.setInterval(ms);
    start();
}

void Timer::start() {
    stop();
    if (!Clock::held()) return machine.start();
    held = true;
    due = Clock::now() + machine.interval();
    heldTimers().push_back(this);
}

void Timer::stop() {
    machine.stop();
    held = false;
    std::erase(heldTimers(), this);
}

bool Timer::isActive() const {
    return held || machine.isActive();
}

} // namespace ember::app
