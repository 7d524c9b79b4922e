#pragma once
// The commands on a build's wires: the wires themselves, heaters, returns, hum.

#include <string>

namespace ember::cli {

int tellWires(const std::string& file);
int tellHeaters(const std::string& file);
int tellGrounds(const std::string& file);
int tellHum(const std::string& file);

} // namespace ember::cli
