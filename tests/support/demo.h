#pragma once
#include "core/base/embedded.h"
#include "core/build/build_json.h"

/// The demo, as shipped.
inline ember::Build demoBuild() {
    return *ember::fromText(ember::embedded::text("larkfield.ember.json"));
}
