#pragma once
// Captures from sound files: WAV, FLAC and what else libsndfile reads.

#include "capture.h"

#include "core/base/result.h"

#include <filesystem>

namespace ember::signal {

/// One channel (1-based) as volts: a full-scale sample is `fullScale` [V].
Expected<Capture> readSound(const std::filesystem::path& file, int channel, double fullScale);

} // namespace ember::signal
