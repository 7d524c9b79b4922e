#pragma once
// A test waits for a state, however long this machine takes to reach it. The only clock is a watchdog, which ends a
// test that would wait for ever and says what it waited for.

#include <QCoreApplication>
#include <QDeadlineTimer>
#include <QEventLoop>
#include <QTest>
#include <QTimer>

#include <chrono>
#include <functional>

namespace ember::tests {

/// Minutes until a wait is given up; EMBER_TEST_WATCHDOG [s] in the environment says another time.
inline std::chrono::milliseconds watchdog() {
    bool given = false;
    const int seconds = qEnvironmentVariableIntValue("EMBER_TEST_WATCHDOG", &given);
    return given ? std::chrono::seconds(seconds) : std::chrono::minutes(20);
}

/// The same for the calls of Qt that wait for another process [ms].
inline int longest() {
    return static_cast<int>(watchdog().count());
}

/// Called between two looks at a state: a window's test moves the window's held clock on.
inline std::function<void()>& betweenLooks() {
    static std::function<void()> work;
    return work;
}

/// Answers events until `state` is true; false where the watchdog ended it.
inline bool comes(const std::function<bool()>& state) {
    const QDeadlineTimer end(watchdog());
    while (!state()) {
        if (end.hasExpired()) return false;
        QCoreApplication::processEvents();
        if (betweenLooks()) betweenLooks()();
        if (state()) return true;
        QEventLoop loop; // sleeps in between: waiting must not take processor time from what is waited for
        QTimer::singleShot(5, &loop, &QEventLoop::quit);
        loop.exec();
    }
    return true;
}

} // namespace ember::tests

/// Waits until `state` is true.
#define WAIT_FOR(state)                                                                                                \
    QVERIFY2(ember::tests::comes([&] { return static_cast<bool>(state); }), "waited in vain for: " #state)
/// Waits until `state` is true; `words` (const char*) tell what is there instead.
#define WAIT_FOR2(state, words)                                                                                        \
    do {                                                                                                               \
        const bool came = ember::tests::comes([&] { return static_cast<bool>(state); });                               \
        QVERIFY2(came, words);                                                                                         \
    } while (false)
/// Waits until `actual` is `expected`; both are shown where it never is.
#define WAIT_FOR_EQUAL(actual, expected)                                                                               \
    do {                                                                                                               \
        (void)ember::tests::comes([&] { return (actual) == (expected); });                                             \
        QCOMPARE(actual, expected);                                                                                    \
    } while (false)
