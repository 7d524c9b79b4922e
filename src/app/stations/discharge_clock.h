#pragma once
// Before a hand goes in: what every capacitor holds after switching off, at worst, how long to wait, how to take it
// down by hand; while the window's clock runs, what it says.

#include "app/document/discharge_watch.h"

#include <QLabel>

namespace ember::app {

class DischargeClock : public QLabel {
    Q_OBJECT
  public:
    explicit DischargeClock(DischargeWatch& watch, QWidget* parent = nullptr);
    /// `hot`: the same with the valves still drawing; may be empty.
    void show(const plan::Discharge& discharge, const plan::Curve& hot);

  private:
    void refresh();

    DischargeWatch& watch;
    QString planned;
};

} // namespace ember::app
