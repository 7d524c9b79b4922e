#pragma once
// One valve beside the average of its type: what readings of it say, and which of several go together.

#include "catalogue.h"

#include <array>
#include <span>

namespace ember {

/// What a valve is, as shares of an average new one of its type.
struct ValveShares {
    double emission = 1; ///< current
    double mu = 1;       ///< amplification
    double cutoff = 1;   ///< sharpness of cut-off
    double screen = 1;   ///< current to the screen
    double gas = 0;      ///< of its cathode current, out of its grid; no share of the average's
};
enum class Share { Emission, Mu, Cutoff, Screen };
/// The type's law as such a valve has it; `emission` is left to the device. A pentode's share of the space current that
/// goes to the plate follows from what goes to the screen.
circuit::PortLaw lawOf(circuit::PortLaw average, const ValveShares& shares);

/// One reading of a valve [V to its cathode, A].
struct ValveReading {
    int section = 1;                        ///< of the bottle
    double plate = 0, screen = 0, grid = 0; ///< `screen` counts in a pentode alone
    double plateAmps = 0, screenAmps = 0;   ///< screenAmps 0: not read
};

struct ReadValve {
    ValveShares shares;
    double error = 0;            ///< RMS of the relative errors of current that are left
    double averageError = 0;     ///< the same of an average valve
    std::vector<double> errors;  ///< of each reading's plate current, computed over read - 1
    std::array<bool, 4> tells{}; ///< whether the readings make a share clearly surer than usual
    [[nodiscard]] bool told(Share share) const { return tells[static_cast<std::size_t>(share)]; }
    std::vector<std::string> open; ///< what they do not tell, and what would, in sentences
};
/// Least squares of the logarithms of the currents, its amps and volts being worth `accuracy` (a share), against what
/// is usual of valves of one type: current within 15 %, amplification 8 %, cut-off and screen 15 % (standard
/// deviations). A Problem names the reading that no valve of the type can give.
Expected<ReadValve> readValve(const ValveType& type, std::span<const ValveReading> readings, double accuracy = 0.02);

/// What is to be alike in valves that work together.
struct MatchFigures {
    double amps = 0, gm = 0; ///< at their point [A, A/V]
};
MatchFigures matchFigures(const ValveType& type, const ValveShares& shares, const ValveReading& at);

/// Into groups of `size` (2 or 4), so that the worst group is as good as can be, then their sum: a group's figure is
/// the greatest difference of current in it, and a quarter of that of gm, as shares. Those left over are those that fit
/// worst. Of more than 12 valves the first 12.
struct MatchedGroup {
    std::vector<std::size_t> valves;
    double ampsApart = 0, gmApart = 0; ///< greatest over least, less 1
};
std::vector<MatchedGroup> matched(std::span<const MatchFigures> valves, std::size_t size);

} // namespace ember
