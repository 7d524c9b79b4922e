#pragma once
// Which fuse: by what flows all day, and by what a switch-on brings in a moment.

#include "core/build/build.h"
#include "figures.h"

#include <optional>

namespace ember::plan {

/// [A2 s] what a fuse is sure to bear in a surge: ten times its rating for the least pre-arcing time of IEC 60127-2
/// there, 20 ms time-lag (10 ms up to 100 mA), 1 ms quick.
double fuseBears(double amps, bool slow);

/// The longest that a fuse of this rating may take to clear `amps` [s]: IEC 60127-2, sheet 2 (quick) and 3 (time-lag),
/// between their points by the logarithm; infinite below 2.1 times its rating, where it need not clear at all.
double fuseClears(double amps, double rating, bool slow);

struct FuseAdvice {
    double continuous = unknown; ///< [A] RMS, mains at its high end
    double i2t = unknown;        ///< [A2 s] of the surge; NaN: not computed yet
    double forContinuous = 0;    ///< [A] the least standard rating of 1.5 times that
    double forSurge = 0;         ///< [A] the least standard rating that is sure to bear it; 0: not computed yet
    double amps = 0;             ///< the larger of the two
};

/// Standard ratings of IEC 60127, 32 mA to 10 A. Nothing where no standard rating is enough.
std::optional<FuseAdvice> adviseFuse(double continuous, double i2t, bool slow);

/// Of the mains fuse, and of a fuse in the chain (time-lag).
std::optional<FuseAdvice> mainsFuse(const Build& build, const Figures& figures);
std::optional<FuseAdvice> chainFuse(const Figures& figures, const Section& fuse);

} // namespace ember::plan
