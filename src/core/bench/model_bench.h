#pragma once
// A netlist as a bench: what the plan, or one amplifier built to it, answers to takes, without hum and noise.

#include "instruments.h"
#include "take.h"

#include "core/plan/played.h"
#include "core/plan/tone.h"

#include <map>
#include <tuple>

namespace ember::bench {

class ModelBench {
  public:
    /// `steady` is of this build; `warm` where its solution ended.
    ModelBench(Build build, const Catalogue& catalogue, plan::Steady steady, plan::WarmStart warm,
               plan::Miswiring wiring = {});
    /// Solved at these mains [V].
    static Expected<ModelBench> at(Build build, const Catalogue& catalogue, double mainsVolts,
                                   std::stop_token stop = {});

    /// A steady tone is the periodic solution with the supply's sag, its harmonics exact up to half the sample rate;
    /// everything else is played through over time (plan/played.h). With a `node`, that node's volts, averaged over
    /// half periods of the mains. The recorder's second input has what the setup says: a channel that is not driven is
    /// silent: the netlists of channels are apart.
    Expected<signal::Capture> take(const TakeRequest& request, const TakeWatch& watch = {});
    /// Any volts at the channel's input.
    Expected<signal::Capture> play(std::size_t channel, const Setup& setup, const std::vector<double>& volts,
                                   double rate, const TakeWatch& watch);
    [[nodiscard]] const Build& build() const { return real; }
    [[nodiscard]] const plan::Steady& state() const { return steady; }

  private:
    Expected<signal::Capture> takeFirst(const TakeRequest& request, const TakeWatch& watch); ///< its first input alone
    Expected<signal::Capture> tone(const TakeRequest& request, const TakeWatch& watch);
    Expected<signal::Capture> recorded(const plan::Played& played, const TakeRequest& request, double rate) const;
    Build real;
    const Catalogue* catalogue;
    plan::Steady steady;
    plan::WarmStart warm;
    plan::Miswiring wiring;
    /// Where the last tone of this channel, frequency and load ended.
    struct Last {
        Setup setup;
        std::size_t channel = 0;
        double hertz = 0;
        plan::Sag sag;
        plan::ToneRun run;
    };
    std::map<std::pair<std::size_t, double>, Last> last;
    /// The last that was played, and what it was: another node of it is only read.
    std::optional<TakeRequest> playedOf;
    plan::Played played;
};

} // namespace ember::bench
