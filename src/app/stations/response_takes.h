#pragma once
// Measured responses: their ends, and what two of them differ by.

#include "core/plan/figures.h"

#include <QString>

#include <vector>

namespace ember::app {

struct MeasuredResponse {
    std::vector<double> hertz, db; ///< of 1 kHz; hertz rising
    double low = plan::unknown, high = plan::unknown;
    /// By frequency, of a sweep: against 1 kHz [degrees, s].
    std::vector<double> degrees, delay;
    std::vector<double> step; ///< of a sweep, volts over volts, from 1 ms before the step on
    double stepRate = 48000;  ///< [Hz]
};
/// Where it passes 3 dB below 1 kHz, between two points on a logarithmic axis; the nearest to 1 kHz. NaN: nowhere.
double edgeOf(const MeasuredResponse& m, bool high);
/// Where it is 3 dB down; where it is not, how far it was looked at.
QString ends(double low, double high, const std::vector<double>& hertz);
/// `now` less `then` at the frequencies of `now` [dB]; NaN beyond what both have.
std::vector<double> differenceOf(const MeasuredResponse& now, const MeasuredResponse& then);
/// Where two takes are farthest apart, in words; empty where nothing was compared.
QString farthestApart(const std::vector<double>& hertz, const std::vector<double>& db);

} // namespace ember::app
