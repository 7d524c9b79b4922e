#pragma once
// What every capacitor still holds after switching off, at worst, and how long to wait before measuring it.

#include "core/plan/figures.h"

#include <QLabel>

namespace ember::app {

class Timer;

class DischargeClock : public QLabel {
    Q_OBJECT
  public:
    explicit DischargeClock(QWidget* parent = nullptr);
    /// `hot`: the same with the valves still drawing; may be empty.
    void show(const plan::Discharge& discharge, const plan::Curve& hot);
    void start();
    [[nodiscard]] bool running() const;

  private:
    void tick();
    /// How to take the slowest capacitor down by hand, or nothing where it falls by itself.
    [[nodiscard]] QString byHand() const;

    Timer* timer;
    plan::Discharge discharge;
    plan::Curve hot;
    qint64 since = 0;
};

} // namespace ember::app
