#pragma once
// What the plan foretells for a series, with the band in which healthy amplifiers lie.

#include "series.h"

#include "core/catalogue/catalogue.h"

namespace ember::bench {

/// Of one line of the nominal result, at its own x.
struct SeriesBand {
    std::vector<double> low, high;
};
struct SeriesPrediction {
    SeriesResult nominal;
    std::vector<SeriesBand> bands;       ///< by line; empty: not drawn yet
    std::vector<SeriesBand> figureBands; ///< one value each, by figure
    int samples = 0;
};

/// The same series on the plan's netlist at these mains [V], and on `samples` amplifiers within the parts' tolerances,
/// every other one on mains with a flattened wave; the band is what 95 of 100 would lie between by each half's mean and
/// standard deviation (of the logarithm, on a logarithmic axis), which holds 95 of 100. `early` gets the nominal one as
/// soon as it is there.
Expected<SeriesPrediction> predict(const SeriesRequest& request, const Build& build, const Catalogue& catalogue,
                                   double mainsVolts, const SeriesContext& context, int samples, std::stop_token stop,
                                   const std::function<void(const SeriesPrediction&)>& early = {});

/// Share of the first line's points that lie within the prediction's band, of those that both have.
double shareWithin(const SeriesResult& measured, const SeriesPrediction& prediction);

} // namespace ember::bench
