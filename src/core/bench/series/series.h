#pragma once
// Measurements that take more than one tone: what is taken, in which setups of the bench, and what comes of it. One
// of them is one file in this folder and one line of the table in series.cpp. They ask for takes by one call, so that a
// practice amplifier, a sound device, the plan's netlist and captures from a file all answer to the same code.

#include "core/bench/instruments.h"
#include "core/bench/take.h"
#include "core/plan/figures.h"
#include "core/quantity/quantity.h"

#include <functional>
#include <optional>
#include <span>

namespace ember::bench {

/// Makes one take. A Problem ends the series.
using Taker = std::function<Expected<signal::Capture>(const TakeRequest&)>;

enum class SeriesKind {
    Power,
    DistortionByPower,
    DistortionByFrequency,
    DriveByControl,
    ControlTracking,
    ResponseAtSettings,
    ResponseWithLoudspeaker,
    OutputImpedance,
    Sag
};

struct SeriesRequest {
    SeriesKind kind = SeriesKind::Power;
    std::size_t channel = 0;
    double hertz = 1000; ///< of a series at one frequency
    double watts = 1;    ///< in the load, of a series at one power [W]; a line's as V2 over its load
    std::vector<double> frequencies = {20, 40, 100, 1000, 10e3, 20e3}; ///< [Hz] of power against frequency
    bool everyChannel = false;
    double secondLoad = 0;                       ///< [ohm] for the output impedance; 0: twice the build's own
    std::optional<Loudspeaker> loudspeaker = {}; ///< for the response with one; none: a typical one of the load's ohms
};

struct SeriesLine {
    std::string name;
    std::vector<double> x, y; ///< in the units of the form's axes
};
struct SeriesFigure {
    std::string name;
    double value = plan::unknown;
    Unit unit = Unit::None;
};
struct SeriesResult {
    std::vector<SeriesLine> lines;
    std::vector<SeriesFigure> figures;
    std::vector<std::string> trust; ///< what should not be trusted or was left out, and why
    bool inVolts = false;           ///< of a line: powers are given as the volts across its load
    [[nodiscard]] const SeriesLine* line(std::string_view name) const;
    /// NaN where there is none of this name.
    [[nodiscard]] double figure(std::string_view name) const;
};

/// A channel as far as it is known before it is measured.
struct SeriesChannel {
    std::string name;
    double loadOhms = 0, loadWatts = 0; ///< 0 ohm: none
    double gain = plan::unknown;        ///< volts over volts at 1 kHz, its control as it stands
    double control = Setup::asItStands; ///< where its level control stands; below 0: it has none
    double clipWatts = plan::unknown;   ///< at clipping, predicted
};
struct SeriesContext {
    std::vector<SeriesChannel> channels;
    int nodes = 0;        ///< of the supply
    double mostInput = 5; ///< [V RMS] that is put into an input at the most
};
SeriesContext seriesContextOf(const Build& build, const plan::Figures& figures);

class SeriesRun;
struct SeriesAxis {
    const char* caption;
    Unit unit;
    bool logarithmic;
};
struct SeriesForm {
    SeriesKind kind;
    const char* id;      ///< in files and commands
    const char* caption; ///< in a menu
    const char* about;   ///< what is done, one sentence
    SeriesAxis x, y;
    bool atFrequency, atPower, needsControl;
    Expected<SeriesResult> (*run)(SeriesRun&);
};
/// One entry for each SeriesKind, in its order.
std::span<const SeriesForm> seriesForms();
const SeriesForm& formOf(SeriesKind kind);

/// The form's axes, of a line with volts in the place of watts.
std::pair<SeriesAxis, SeriesAxis> axesOf(const SeriesForm& form, bool inVolts);

/// A node's volts while a burst played, as a line of this name and its figures: from a series, or a scope's table.
void addSag(SeriesResult& result, const signal::Capture& volts, const std::string& name);

/// Takes all of it. A Problem where nothing came of it, or it was cancelled; a series that had to end early says so
/// among its doubts.
Expected<SeriesResult> measure(const SeriesRequest& request, const SeriesContext& context, const Taker& take,
                               const TakeWatch& watch = {});

} // namespace ember::bench
