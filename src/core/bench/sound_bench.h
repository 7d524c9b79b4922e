#pragma once
// A sound device as the bench's generator and recorder, in volts: what a voltmeter said about it, and takes with it.

#include "instruments.h"
#include "sound_device.h"
#include "take.h"

#include "core/signal/response.h"

#include <filesystem>
#include <limits>

namespace ember::bench {

/// Of one player and one recorder, at the mixer's settings that they had then.
struct SoundCalibration {
    static constexpr double unknown = std::numeric_limits<double>::quiet_NaN();
    std::string player, recorder, playerMixer, recorderMixer;
    int input = 1;                  ///< channel that is recorded, 1 the left
    double playedVolts = unknown;   ///< crest at the amplifier's input of a full-scale sample [V]
    double recordedVolts = unknown; ///< across the load, divider included, that record as full scale [V]
    int secondInput = 0;            ///< another channel that is recorded beside it, 1 the left; 0: none
    double secondVolts = unknown;   ///< where that is connected, likewise [V]
    /// The device alone, its output joined to its input; NaN: not looked at.
    double ownThdPercent = unknown, ownNoise = unknown; ///< [%; RMS as a share of full scale]
    double latency = unknown;                           ///< [s] of what is recorded behind what is played
    std::vector<signal::ResponsePoint> loop; ///< its response from a sweep, dB of 1 kHz; empty: not looked at
    /// dB of 1 kHz at a frequency, straight between points in its logarithm, the ends' beyond them; 0 without a loop.
    [[nodiscard]] double loopAt(double hertz) const;
};

/// Where calibrations are kept: sound.json in the user's settings.
std::filesystem::path calibrationFile();
/// Of these ports; a fresh one where there is none.
Expected<SoundCalibration> readCalibration(const std::filesystem::path& file, const std::string& player,
                                           const std::string& recorder);
/// The one written last, if there is any.
Expected<SoundCalibration> lastCalibration(const std::filesystem::path& file);
Expected<Done> writeCalibration(const std::filesystem::path& file, const SoundCalibration& calibration);
/// Why takes cannot be trusted in volts: not calibrated, another mixer setting, a port that is gone. Empty: they can.
std::string staleness(const SoundCalibration& calibration, const SoundPorts& ports);

/// One reading of a voltmeter at each end while this tone plays makes a calibration.
inline constexpr double calibrationLevel = -20; ///< [dB of full scale] a tenth of what the device reaches
inline constexpr double calibrationSeconds = 8;
/// Plays it; the crests that were captured, as shares of full scale; of the second input 0 where there is none, or
/// where the tone was not found there.
struct CapturedTone {
    double crest = 0, second = 0;
};
Expected<CapturedTone> captureCalibrationTone(const SoundCalibration& calibration, const TakeWatch& watch = {});
/// Crest [V] of a full-scale sample, from the volts RMS that were read at the amplifier's input and at the recorder.
double playedFullScale(double readRms);
double recordedFullScale(double readRms, double capturedCrest);
/// The mixer as it stands in these ports is what the calibration belongs to.
void takeMixer(SoundCalibration& calibration, const SoundPorts& ports);

class SoundBench : public Player {
  public:
    explicit SoundBench(SoundCalibration c) : calibration(std::move(c)) {}
    /// A take; what the device's own response does to a single tone is taken off. Refused where its setup has a second
    /// input and that is not calibrated.
    Expected<signal::Capture> take(const TakeRequest& request, const TakeWatch& watch = {});
    /// The same on the player's channel of this number (counted round), the others silent; on every one where the
    /// take's setup drives every channel. Refused before anything is played where the calibration does not hold or the
    /// device does not reach these volts.
    Expected<signal::Capture> play(std::size_t channel, const std::vector<double>& volts, double rate,
                                   const TakeWatch& watch) override;

  private:
    [[nodiscard]] Expected<signal::Capture> playOn(int only, const std::vector<double>& volts, double rate,
                                                   const TakeWatch& watch);
    SoundCalibration calibration;
};

/// A tone and a sweep through the device alone, the amplifier's lead off. It begins 60 dB below full scale and goes on
/// where that came back and each step rises as it was played.
struct LoopbackCheck {
    double latency = 0;                          ///< [s] of the capture behind what is played, by the sweep
    double recordedShare = 0;                    ///< recorded over played
    double thdPercent = 0, noise = 0;            ///< [%; RMS as a share of full scale, 20 Hz to 20 kHz]
    std::vector<signal::ResponsePoint> response; ///< dB of 1 kHz
};
/// What the loop showed becomes part of the calibration.
void takeLoop(SoundCalibration& calibration, const LoopbackCheck& check);
Expected<LoopbackCheck> checkLoopback(const SoundCalibration& calibration, const TakeWatch& watch = {});

} // namespace ember::bench
