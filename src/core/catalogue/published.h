#pragma once
// What is published of a valve type, and the figures that its law gives at the same place.

#include "core/circuit/laws.h"

#include <string>
#include <vector>

namespace ember {

/// One published operating point; zero where the source is silent.
struct PublishedPoint {
    double plate = 0, screen = 0, grid = 0; ///< [V] to the cathode (of a filament: to its middle)
    double plateAmps = 0, screenAmps = 0, gm = 0, mu = 0, rp = 0;
    bool strapped = false; ///< a pentode as a triode, its screen on its plate; plateAmps is both
    bool cutoff = false;   ///< `plateAmps` small; what is published is the grid's volts
    std::string source;
};

/// Class A, AB or B operation as published: of one valve, or of two in push-pull (then all currents, the load plate to
/// plate, the drive grid to grid and the power are of both). Zero where the source is silent.
struct PublishedOperation {
    bool pushPull = false, strapped = false;
    bool together = false;                  ///< `plateAmps...` are of plates and screens
    double plate = 0, screen = 0, grid = 0; ///< [V] to the cathode at rest; 0: from the supplies
    double supply = 0, screenSupply = 0;    ///< [V] to ground, before resistors; 0: from `plate`, `screen`
    double cathodeOhms = 0, screenOhms = 0; ///< one for both; 0: none (fixed bias)
    double screenTap = 0;                   ///< ultralinear: share of the winding from the supply
    double load = 0, drive = 0;             ///< [ohm, V peak]; drive 0: to the published distortion or grid at 0 V
    double power = 0, thdPercent = 0;
    double plateAmpsRest = 0, plateAmpsFull = 0, screenAmpsRest = 0, screenAmpsFull = 0;
    std::string source;
};

/// A resistance-coupled stage as published: cathode bypassed, gain at mid band into the next grid leak.
struct PublishedStage {
    double supply = 0, plateOhms = 0, cathodeOhms = 0, nextLeakOhms = 0, plateAmps = 0, gain = 0;
    std::string source;
};

struct PublishedData {
    std::vector<PublishedPoint> points;
    std::vector<PublishedOperation> operations;
    std::vector<PublishedStage> stages;
};

/// How far a law is from what is published, as root mean squares of relative errors.
struct FitError {
    double fitted = 0; ///< over all that it was fitted to
    /// Of the plate current at points and stages that were left out of the fit in turn; 0: too few to say.
    double predicted = 0;
};

/// Small-signal figures of a law at a point: amperes, A/V, a ratio, ohms. A law of a pentode takes its screen's volts.
struct ValveFigures {
    double plateAmps = 0, screenAmps = 0, gm = 0, mu = 0, rp = 0;
};
ValveFigures figuresAt(const circuit::PortLaw& law, double plate, double grid, double screen);
/// The same of a pentode as a triode: currents of both, mu of the strapped valve. A triode is as it is.
ValveFigures strappedFiguresAt(const circuit::PortLaw& law, double plate, double grid);
/// What the law gives at a published point, strapped or not.
ValveFigures figuresAt(const circuit::PortLaw& law, const PublishedPoint& at);
/// Grid volts at which the plate (or plate and screen strapped) takes the point's current, within 1 mV; between
/// 0 and -2 plate volts.
double gridForCurrent(const circuit::PortLaw& law, const PublishedPoint& at);

/// Grid volts, to the cathode, at which the grid itself takes `amps`; for a law whose grid current has no tail, where
/// it takes that much above 0 V.
double gridVoltsTaking(const circuit::PortLaw& law, double amps);

/// A published operation as the law does it, transformer coupled and ideal (no copper, no leakage), solved point by
/// point over a cycle. Amperes are of all valves.
struct Operation {
    double power = 0, thdPercent = 0, grid = 0; ///< grid: volts to the cathode at rest
    double plateAmpsRest = 0, plateAmpsFull = 0, screenAmpsRest = 0, screenAmpsFull = 0;
};
Operation operate(const circuit::PortLaw& law, const PublishedOperation& as);

/// A published stage as the law does it.
struct Amplified {
    double plateAmps = 0, gain = 0;
};
Amplified amplify(const circuit::PortLaw& law, const PublishedStage& as);

} // namespace ember
