#pragma once
#include "core/catalogue/catalogue.h"

namespace {
/// The valves and rectifiers that the program is shipped with.
const ember::Catalogue& catalogue = ember::Catalogue::shipped();
} // namespace
