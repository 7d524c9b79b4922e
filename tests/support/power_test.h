#pragma once
// The First Power station of a real window, and what its tests reach for.

#include "window_test.h"

#include "app/stations/first_power_station.h"

class PowerTest : public WindowTest {
  protected:
    ember::app::FirstPowerStation* power() { return w->station<ember::app::FirstPowerStation>(); }
    /// A step as a builder comes to it: those before it passed, every capacitor read with the plug out.
    void atStage(int k, bool discharged = true) {
        using namespace ember::procedure;
        const Strand whose = doc().strand();
        for (int before = currentStage(doc().build(), whose); before < k; ++before)
            doc().log(stageEntry(before, ember::StageEvent::Passed, whose));
        if (discharged && k > 0)
            for (const TestPoint& p : notYetDischarged(doc().build(), whose))
                doc().log(unjudgedEntry(p, k, 0.2, whose == Strand::Practice ? practiceSource : "typed"));
        w->go("first-power");
        power()->showStage(k);
        settle();
        QVERIFY(power()->stage());
    }
    const ember::procedure::Expectation& expectation(const std::string& id) {
        for (const auto& e : power()->stage()->expectations)
            if (e.point.id == id) return e;
        qFatal("no %s", id.c_str());
    }
    void chooseRow(const std::string& id) {
        const auto& all = power()->stage()->expectations;
        for (std::size_t k = 0; k < all.size(); ++k)
            if (all[k].point.id == id) child<QTableWidget>("readings")->selectRow(static_cast<int>(k));
    }
    QString verdict() { return w->logLine()->verdict(); }
    const ember::LogEntry& last() { return doc().build().log.back(); }
};
