#pragma once
// The divider between an amplifier's load and the input of a sound device.

namespace ember::plan {

/// Two resistors that bring `crestIn` down to what the input takes.
struct InputDivider {
    double upper = 0, lower = 0;      ///< [ohm], E12; `lower` across the input
    double crestIn = 0, crestOut = 0; ///< [V] of a sine at the output's clipping level, and what the input then sees
    double upperWatts = 0;            ///< in the upper one, of a sine of that crest
};

/// For an output that clips at `watts` into `load` [ohm], with half as many volts again in hand, into an input of
/// `inputCrest` [V] at full scale. The lower resistor is 1 kohm: a line input's 10 kohm or more hardly loads it.
InputDivider inputDivider(double watts, double load, double inputCrest = 1);

} // namespace ember::plan
