#pragma once
// Captures from sound files: WAV, FLAC and what else libsndfile reads.

#include "capture.h"

#include "core/base/result.h"

#include <filesystem>

namespace ember::signal {

/// One channel (1-based) as volts: a full-scale sample is `fullScale` [V].
Expected<Capture> readSound(const std::filesystem::path& file, int channel, double fullScale);

/// One channel of samples of full scale 1 with 24 bits: as FLAC where the name ends so, else as WAV. A Problem where it
/// cannot be written.
Expected<Done> writeSound(const std::filesystem::path& file, const std::vector<double>& samples, double sampleRate);

} // namespace ember::signal
