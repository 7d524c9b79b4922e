#pragma once
// What cuts, flies and weighs while metal is worked and iron goes on, said with the template and the hole list.

#include "core/build/chassis.h"

#include <string>

namespace ember::chassis {

/// Eyes, edges and swarf; the heaviest part by its tag, and what all parts together weigh [kg], without the sheet.
std::string handlingCaution(const Chassis& chassis);

} // namespace ember::chassis
