#pragma once
// A window with the demo in it, and the parts of its layout by name.

#include "window_test.h"

#include "app/stations/chassis/chassis_station.h"

class ChassisTest : public WindowTest {
  protected:
    ember::app::ChassisStation* station() { return w->station<ember::app::ChassisStation>(); }
    ember::app::PlateView* plate() { return station()->plateView(); }
    std::size_t indexOf(const std::string& id) {
        const auto& parts = doc().build().chassis.parts;
        for (std::size_t k = 0; k < parts.size(); ++k)
            if (parts[k].id == id) return k;
        qFatal("no part %s", id.c_str());
    }
    const ember::PlacedPart& part(const std::string& id) { return doc().build().chassis.parts[indexOf(id)]; }
    void choose(const std::string& id) { plate()->select({indexOf(id)}); }
};
