#pragma once
#include "core/base/embedded.h"
#include "core/build/build_json.h"

/// The demo, as shipped.
inline ember::Build demoBuild();
/// The same where nothing but the valves takes the supply down.
inline ember::Build demoWithoutBleeder() {
    ember::Build b = demoBuild();
    b.supply.bleeders.clear();
    return b;
}
/// The same without its feedback: what its stages do by themselves.
inline ember::Build demoOpenLoop() {
    ember::Build b = demoBuild();
    for (ember::Channel& ch : b.channels)
        std::erase_if(ch.stages, [](const ember::Stage& s) { return s.kind == "feedback"; });
    return b;
}
inline ember::Build demoBuild() {
    static const ember::Build read = *ember::fromText(ember::embedded::text("larkfield.ember.json"));
    return read;
}
