#pragma once
// Captures from tables: the CSV of any oscilloscope, its separators, headers and units as they are found.

#include "capture.h"

#include "core/base/result.h"

#include <filesystem>
#include <string>

namespace ember::signal {

/// What a table was understood as, for people to check.
struct TableCapture {
    Capture capture;
    std::string understood; ///< "12000 rows, ';' between columns, time in column 1 (ms), volts in column 2 (mV)"
};
/// `channel`: the column of volts behind the time's, 1 the first. A table without a column of rising time is refused
/// unless `rate` [Hz] is given.
Expected<TableCapture> readTable(const std::filesystem::path& file, int channel, double rate = 0);

/// By the file's kind: a table (.csv, .tsv, .txt) in its own volts, else a sound file of this full scale [V].
Expected<Capture> readCapture(const std::filesystem::path& file, int channel, double fullScale);

} // namespace ember::signal
