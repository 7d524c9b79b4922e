#pragma once
#include <QApplication>
#include <QEvent>
#include <QTimer>
#include <QWidget>

#include <cstdio>
#include <functional>

namespace ember::app {

/// Calls `then` once, after `window` and its children have painted themselves for the first time.
inline void afterFirstPaint(QWidget& window, std::function<void()> then) {
    class Watch : public QObject {
      public:
        Watch(QWidget& w, std::function<void()> f) : QObject(&w), call(std::move(f)) { w.installEventFilter(this); }
        bool eventFilter(QObject*, QEvent* e) override {
            if (e->type() == QEvent::Paint && call) QTimer::singleShot(0, this, [f = std::exchange(call, {})] { f(); });
            return false;
        }

      private:
        std::function<void()> call;
    };
    new Watch(window, std::move(then));
}

/// Says "painted" and ends the program: for timing a start.
inline void sayPaintedAndQuit() {
    std::puts("painted");
    std::fflush(stdout);
    QApplication::quit();
}

} // namespace ember::app
