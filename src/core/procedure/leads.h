#pragma once
// Which pin each lead of the meter is clipped on.

#include "test_points.h"

#include "core/schematic/whole.h"

namespace ember::procedure {

/// One end of the meter's leads: a pin, or bare metal of the chassis. Neither: it is not known, as of a valve whose
/// pins the catalogue does not have.
struct LeadEnd {
    schematic::PinId pin;
    bool metal = false;
    [[nodiscard]] bool known() const { return metal || pin.part.index >= 0; }
    auto operator<=>(const LeadEnd&) const = default;
};
struct Leads {
    LeadEnd common, red;
};

/// Where a point's leads go in `whole`, which is made of `build`. The common of what is read to ground is on the return
/// of the first capacitor, on bare metal where no supply node has one.
Leads leadsOf(const Build& build, const schematic::WholeAmplifier& whole, const TestPoint& point);

/// An end as it is said: "V3 pin 3, cathode", "C1 −", "bare metal", "pin not known".
std::string spokenEnd(const schematic::WholeAmplifier& whole, const LeadEnd& end);

} // namespace ember::procedure
