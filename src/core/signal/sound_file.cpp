#include "sound_file.h"

#include <fmt/format.h>
#include <sndfile.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <memory>

namespace ember::signal {

Expected<Capture> readSound(const std::filesystem::path& file, int channel, double fullScale) {
    constexpr sf_count_t mostFrames = 1 << 25, chunk = 4096;
    const std::string name = file.filename().string();
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error)) return Problem{name, "there is no such file"};
    SF_INFO info{};
    const std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> sound(sf_open(file.c_str(), SFM_READ, &info), sf_close);
    if (!sound) return Problem{name, "this is no sound file that can be read; a WAV or FLAC is expected"};
    if (info.channels < 1 || info.channels > 64)
        return Problem{name, fmt::format("it has {} channels; 1 to 64 are read", info.channels)};
    if (channel < 1 || channel > info.channels)
        return Problem{name, fmt::format("it has {} channel(s); channel {} was asked for", info.channels, channel)};
    if (info.frames > mostFrames)
        return Problem{name, fmt::format("it is {} samples long; up to {} are read: cut out the part with the tone",
                                         info.frames, mostFrames)};
    Capture out;
    out.sampleRate = info.samplerate;
    out.fullScale = fullScale;
    out.source = name;
    std::vector<double> frames(static_cast<std::size_t>(chunk * info.channels));
    for (sf_count_t got = 0; (got = sf_readf_double(sound.get(), frames.data(), chunk)) > 0;)
        for (sf_count_t k = 0; k < got; ++k) {
            const double v = frames[static_cast<std::size_t>(k * info.channels + channel - 1)];
            if (!std::isfinite(v)) return Problem{name, fmt::format("sample {} is not a number", out.volts.size())};
            out.volts.push_back(v * fullScale);
            if (out.volts.size() > static_cast<std::size_t>(mostFrames))
                return Problem{name, "it is longer than it says"};
        }
    if (out.volts.empty()) return Problem{name, "it holds no samples; it may have been cut off"};
    return out;
}

Expected<Done> writeSound(const std::filesystem::path& file, const std::vector<double>& samples, double rate) {
    SF_INFO info{};
    info.samplerate = static_cast<int>(std::lround(rate));
    info.channels = 1;
    std::string ending = file.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
    info.format = (ending == ".flac" ? SF_FORMAT_FLAC : SF_FORMAT_WAV) | SF_FORMAT_PCM_24;
    const std::string name = file.filename().string();
    const std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> sound(sf_open(file.c_str(), SFM_WRITE, &info), sf_close);
    if (!sound) return Problem{name, fmt::format("it could not be written: {}", sf_strerror(nullptr))};
    const auto count = static_cast<sf_count_t>(samples.size());
    if (sf_writef_double(sound.get(), samples.data(), count) != count)
        return Problem{name, fmt::format("it could not be written whole: {}", sf_strerror(sound.get()))};
    return Done{};
}

} // namespace ember::signal
