#pragma once
#include <string>
#include <vector>

namespace ember::plan {

/// How the amplifier stands at a moment of the work.
struct Conditions {
    double mainsVolts = 230;
    bool limiter = false;    ///< the lamp in series with the mains
    bool rectifierIn = true; ///< a valve rectifier in its socket; silicon is always in
    bool smallIn = true, outputsIn = true;
    bool coldest = false;                 ///< adjusters at their cold end whatever the build says
    std::vector<std::string> pulled = {}; ///< ids of bottles that are out of their sockets besides
    double crest = 0;                     ///< of the mains, over its RMS; 0: as the build has it
    bool operator==(const Conditions&) const = default;
};

} // namespace ember::plan
