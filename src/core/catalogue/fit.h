#pragma once
// Laws of valves from what is published of them, and how far they are from it.

#include "published.h"

#include <string>
#include <vector>

namespace ember {

enum class Figure { PlateAmps, ScreenAmps, Gm, Mu, Rp, CutoffVolts, Gain, Power, PlateAmpsFull, ScreenAmpsFull, Thd };

/// Name of a figure as a sheet has it, and how far from it a law may be (a share).
struct FigureKind {
    const char* name;
    const char* key; ///< in JSON
    double allowed;
    bool judged = true; ///< else it steers the fit and is shown, no more
};
const FigureKind& kindOf(Figure f);
/// With the unit that sheets have it in: "47.5 mA".
std::string inWords(Figure f, double value);

/// One published figure beside what the law gives.
struct Compared {
    Figure figure = Figure::PlateAmps;
    std::string at; ///< the point, operation or stage in words
    double published = 0, computed = 0;
    [[nodiscard]] double error() const { return computed / published - 1; }
    [[nodiscard]] bool met() const;
};
std::vector<Compared> compare(const circuit::PortLaw& law, const PublishedData& data);

/// The law of least squares of relative errors, each in units of what is allowed, with weak priors for what the
/// figures leave open (typical valves of its kind). `start`'s kind (triode or pentode) and grid law are kept.
/// Needs at least one figure; finite for any finite figures.
circuit::PortLaw fitLaw(const circuit::PortLaw& start, const PublishedData& data);

/// Root mean square errors; `predicted` refits as often as there are points of full current
/// and stages, each left out once.
FitError errorOf(const circuit::PortLaw& law, const PublishedData& data, bool withPrediction);

/// The figures that do not go together with the rest: beyond what is allowed them and more than three times the median
/// error. In words, worst first; empty where all agree.
std::vector<std::string> misfits(const circuit::PortLaw& law, const PublishedData& data);

} // namespace ember
