#pragma once
// The First Power station of a real window, and what its tests reach for.

#include "window_test.h"

#include "app/stations/first_power_station.h"

class PowerTest : public WindowTest {
  protected:
    ember::app::FirstPowerStation* power() { return w->station<ember::app::FirstPowerStation>(); }
    void atStage(int k) {
        w->go("first-power");
        power()->showStage(k);
        settle();
        QVERIFY(power()->stage());
    }
    const ember::LogEntry& last() { return doc().build().log.back(); }
};
