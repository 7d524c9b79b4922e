#pragma once
// Takes as they were made, beside the build: captures as FLAC, what they are of as JSON, so that they can be analysed
// again, and compared with what was measured later.

#include "series/series.h"

#include <filesystem>

namespace ember::bench {

struct TakeRecord {
    TakeRequest request;
    signal::Capture capture;
};

/// All takes of one measurement, with the build as it was.
struct Measurement {
    std::string made;                    ///< ISO 8601
    std::string title;                   ///< as the log has it
    std::optional<SeriesRequest> series; ///< nothing: one take
    SeriesContext context;
    Build build; ///< its log left out
    std::vector<TakeRecord> takes;
};

/// Takes are kept as they come.
Taker recordingInto(std::vector<TakeRecord>& records, Taker take);
/// Answers from records: the nearest level of the same signal, setup and channel, within a thousandth.
Taker answeringFrom(std::shared_ptr<const std::vector<TakeRecord>> records);

/// What the log keeps of a measurement's files.
struct KeptFiles {
    std::string name; ///< of the JSON file in the folder
    std::string hash; ///< SHA-256 of it, as 64 hexadecimal digits
};
/// Writes STEM.json and STEM.flac (24 bits, one capture behind the other, each scaled to its crest) into `folder`,
/// which is made where it is not there yet. Names that are taken get a number.
Expected<KeptFiles> writeMeasurement(const std::filesystem::path& folder, const std::string& stem,
                                     const Measurement& measurement);
/// Reads it back. A Problem says what is missing, or that a file is not the one that was written.
Expected<Measurement> readMeasurement(const std::filesystem::path& folder, const KeptFiles& files);

/// The folder of a build's captures: NAME.files beside NAME.ember.json.
std::filesystem::path filesFolder(const std::filesystem::path& buildFile);
/// SHA-256 of a file, as `sha256sum` prints it.
Expected<std::string> hashOf(const std::filesystem::path& file);

/// What differs between two builds, a line for each value that is not the same, such as "r4, resistance: 1 kΩ, was
/// 1.2 kΩ"; layout and wiring as one line each.
std::vector<std::string> differencesOf(const Build& before, const Build& after);

} // namespace ember::bench
