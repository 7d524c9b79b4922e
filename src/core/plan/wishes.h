#pragma once
// The other way round: which value gives the figure that is wanted. Every answer is solved on the whole build, with the
// standard values on either side and what each of them gives.

#include "solve.h"

#include "core/build/edit.h"

namespace ember::plan {

/// One value that could be fitted, and what it brings.
struct WishStep {
    double value = 0;        ///< SI, of the part
    double figure = unknown; ///< SI, what is wished for
    double watts = unknown;  ///< of a resistor, mains at nominal
    Edit edit;
};

struct Wish {
    std::string part;      ///< id
    double exact = 0;      ///< the value that meets the wish
    WishStep below, above; ///< standard values on either side
};

/// The resistor `section` of the chain that brings node `node` to `volts`, nominal mains. E12.
Expected<Wish> resistorForVolts(const Build& build, const Catalogue& catalogue, std::size_t section, int node,
                                double volts, std::stop_token stop = {});
/// The capacitance of `section` that leaves `ripple` [V RMS] at node `node`. E6.
Expected<Wish> capacitanceForRipple(const Build& build, const Catalogue& catalogue, std::size_t section, int node,
                                    double ripple, std::stop_token stop = {});
/// The largest first capacitor with which the rectifier's peak stays at `amps`, mains at the high end. E6.
Expected<Wish> firstCapacitorForPeak(const Build& build, const Catalogue& catalogue, double amps,
                                     std::stop_token stop = {});
/// A bleeder across the first node, with which every capacitor is below 50 V after `seconds`, valves cold, mains high
/// before. E12; it replaces the first bleeder there is.
Expected<Wish> bleederForTime(const Build& build, const Catalogue& catalogue, double seconds,
                              std::stop_token stop = {});

} // namespace ember::plan
