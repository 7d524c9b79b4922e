#pragma once
// How the bench is set up for a take where it differs from what the build says: the load, the level control, which
// channels are driven.

#include "core/base/result.h"
#include "core/build/build.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember::bench {

/// The electrical equivalent of a moving-coil loudspeaker in a closed box (Small 1972): voice coil, and the resonance
/// of its moving mass as a parallel circuit.
struct Loudspeaker {
    double ohms = 6, henries = 0.5e-3;                          ///< of the voice coil
    double resonanceOhms = 30, farads = 265e-6, coil = 26.5e-3; ///< in parallel, behind it
    /// [ohm] at a frequency [Hz].
    [[nodiscard]] double impedance(double hertz) const;
    bool operator==(const Loudspeaker&) const = default;
};
/// A typical one of this nominal impedance [ohm]: its least above resonance is 0.8 of it (IEC 60268-5), resonance at
/// 60 Hz with five times that, a mechanical Q of 3, a voice coil of 0.5 mH for 8 ohm.
Loudspeaker loudspeakerOf(double nominal);
/// From its measured impedance, frequencies rising [Hz, ohm]: resistance, crest and width of the resonance (Thiele
/// 1971), the coil from the highest frequency. A Problem where no resonance is in it.
Expected<Loudspeaker> loudspeakerFrom(const std::vector<std::pair<double, double>>& impedance);

/// What the recorder's second input is across: the amplifier's input, or the load of the next channel (behind the last
/// the first).
enum class SecondInput { Nothing, Input, NextChannel };
inline constexpr std::array<std::string_view, 3> secondInputNames{"nothing", "input", "next-channel"};

struct Setup {
    static constexpr double asItStands = -1;
    double loadOhms = 0;                         ///< resistor at the output [ohm]; 0: the build's own
    std::optional<Loudspeaker> loudspeaker = {}; ///< in place of the resistor
    double control = asItStands;                 ///< of the level control's travel, 0 .. 1
    bool everyChannel = false;                   ///< driven alike; else the measured one alone
    SecondInput second = SecondInput::Nothing;
    bool operator==(const Setup&) const = default;
};

/// What the builder has to do to get from one setup to the other, a sentence; empty: nothing.
std::string changeInWords(const Setup& from, const Setup& to, const std::string& channel);
/// The channel that SecondInput::NextChannel is about.
inline std::size_t nextChannel(std::size_t channel, std::size_t channels) {
    return channels > 0 ? (channel + 1) % channels : 0;
}
/// In few words, for a legend: "16 Ω, control at 0.25"; "as built" where nothing differs.
std::string inWords(const Setup& setup);

/// The build with this setup in one channel, or in every one. Direct current is not touched by it.
Build asSetUp(const Build& build, std::size_t channel, const Setup& setup);

} // namespace ember::bench
