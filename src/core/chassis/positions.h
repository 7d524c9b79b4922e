#pragma once
// Where every part stands, as a table: out to a spreadsheet, and back.

#include "core/build/edit.h"

namespace ember::chassis {

/// part,face,x mm,y mm,angle,recess mm; one part a line.
std::string positionsTable(const Chassis& chassis);

/// The table read back as one edit: parts are found by id, columns by their heads; point or comma decimals with `;`
/// between columns. The first parts on lower faces make it a tower. A Problem names the line.
Expected<Edit> positionsFromTable(const Build& build, std::string_view text);

} // namespace ember::chassis
