#pragma once
// The window's time and its timers. In the program both are the machine's; a test holds them and moves them, so that
// what it says does not depend on how fast the machine is.

#include <QDateTime>
#include <QObject>
#include <QTimer>

namespace ember::app {

/// What time it is for the window. For the interface's thread.
class Clock {
  public:
    static qint64 now(); ///< [ms] since 1970, of the wall clock: it goes on while a laptop sleeps
    static QDateTime local() { return QDateTime::fromMSecsSinceEpoch(now()); }

    /// For tests: from here on time stands still but for move().
    static void hold();
    static bool held();
    /// Moves held time by `ms` [>= 0]. Timers that become due on the way fire in the order of their times, each at its
    /// own time.
    static void move(qint64 ms);
};

/// A QTimer by that clock: the part of its interface that the window uses.
class Timer : public QObject {
    Q_OBJECT
  public:
    explicit Timer(QObject* parent = nullptr);
    ~Timer() override;
    void setSingleShot(bool once) { machine.setSingleShot(once); }
    void setInterval(int ms) { machine.setInterval(ms); }
    void start(int ms);
    void stop();
    [[nodiscard]] bool isActive() const;

  public Q_SLOTS:
    void start();

  Q_SIGNALS:
    void timeout();

  private:
    friend class Clock;
    QTimer machine;    ///< runs where the clock is the machine's; holds the interval in any case
    qint64 due = 0;    ///< [ms] by the held clock
    bool held = false; ///< runs by the held clock
};

} // namespace ember::app
