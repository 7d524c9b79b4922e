#pragma once
// A sound device as generator and recorder: playing and recording at once through the desktop's sound server, by the
// PulseAudio protocol, which PipeWire speaks too.

#include "instruments.h"

#include <string>
#include <vector>

namespace ember::bench {

/// Where the sound server plays to or records from.
struct SoundPort {
    std::string id, title;
    double rate = 48000; ///< its own [Hz]: at another one the server converts
    int channels = 2;
    std::string mixer;      ///< volume of each channel, or "muted": a calibration holds for these settings alone
    bool ofPlayer = false;  ///< a recorder that hears what a player plays, without any terminal
    bool isDefault = false; ///< of the desktop
};
struct SoundPorts {
    std::vector<SoundPort> players, recorders;
};
/// A Problem where no sound server answers.
Expected<SoundPorts> soundPorts();

/// By how much the recorder starts before the player [s].
inline constexpr double recorderLead = 0.1;

struct SoundTake {
    std::string player = {}, recorder = {}; ///< ids; empty: the desktop's default
    double rate = 48000;                    ///< [Hz]
    double after = 0.3;   ///< recorded beyond the end of what is played, for the way through the server [s]
    TakeWatch watch = {}; ///< told some ten times a second
    int only = -1; ///< of the player's channels the one that plays, counted round; the others are silent; -1: all
};
struct SoundRecording {
    double rate = 48000;
    std::vector<std::vector<double>> channels; ///< samples of full scale 1, from before the first that was played
};
/// Plays samples of full scale 1 and records. Blocks until it is done. A take in which
/// the server had a gap, lost samples or ran out of them is a Problem: it would look like distortion.
Expected<SoundRecording> playAndRecord(const std::vector<double>& samples, const SoundTake& take);

} // namespace ember::bench
