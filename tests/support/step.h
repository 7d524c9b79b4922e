#pragma once
// A step of First Power as a test asks for it: few amplifiers for its ranges, what it says, one of its readings.

#include "shipped.h"

#include "core/procedure/first_power.h"

#include <QString>

namespace ember::tests {

inline const ember::procedure::Expectation* find(const ember::procedure::PowerStage& s, const std::string& id) {
    for (const ember::procedure::Expectation& e : s.expectations)
        if (e.point.id == id) return &e;
    return nullptr;
}
inline const ember::procedure::Expectation& at(const ember::procedure::PowerStage& s, const std::string& id) {
    const ember::procedure::Expectation* e = find(s, id);
    if (!e) qFatal("no %s", id.c_str());
    return *e;
}
inline ember::procedure::PowerStage stageOf(const ember::Build& b, int k) {
    return ember::procedure::firstPowerStage(b, catalogue, k, b.mains.volts, {false, ember::procedure::roughSamples});
}
inline bool says(const ember::procedure::PowerStage& s, const QString& words) {
    QString all = QString::fromStdString(s.instruction);
    for (const auto& c : s.cautions) all += "\n" + QString::fromStdString(c);
    for (const ember::procedure::Expectation& e : s.expectations) all += "\n" + QString::fromStdString(e.point.probe);
    return all.contains(words);
}

} // namespace ember::tests
