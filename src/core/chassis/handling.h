#pragma once
// Cautions for drilling the chassis and fitting its parts: eyes, sharp edges, swarf, weight.

#include "core/build/chassis.h"

#include <string>

namespace ember::chassis {

/// One line, written with every template: the cautions, then the heaviest part by its tag, and what all parts together
/// weigh [kg], without the sheet; no weight where none is 1 kg.
std::string handlingCaution(const Chassis& chassis);

} // namespace ember::chassis
