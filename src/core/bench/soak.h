#pragma once
// A soak: a level held for hours, read at intervals, and what its readings say.

#include "take.h"

#include "core/plan/figures.h"

#include <filesystem>

namespace ember::bench {

struct SoakPlan {
    TakeRequest tone;
    double interval = 60;      ///< [s] from one reading to the next
    double seconds = 4 * 3600; ///< in all
    double mostDrift = 1;      ///< [dB] of the output against its first reading, at which it is ended
    double mostCelsius = 120;  ///< of the load's sink, at which it is ended
    double mostDcVolts = 0.1;  ///< across the load
    std::string channel;       ///< its name
    bool practice = false;     ///< of the practice amplifier; it never goes on with another bench than it began with
};
struct SoakReading {
    double at = 0;                                       ///< [s] since it began
    double volts = 0, watts = 0, thdPercent = 0, dc = 0; ///< RMS; NaN where only a temperature was read
    double celsius = plan::unknown;                      ///< of the load's sink, typed
    bool playing = true;                                 ///< false: read while it cools
};

/// y = end + (begin - end) exp(-t / constant), fitted to points by least squares.
struct Exponential {
    double begin = plan::unknown, end = plan::unknown, constant = plan::unknown; ///< the last in seconds
    double residual = plan::unknown;                                             ///< RMS of what it leaves
};
/// NaN throughout where four points, or the curve's bend, are missing.
Exponential fitExponential(const std::vector<std::pair<double, double>>& points);

struct SoakFigures {
    double dbPerHour = plan::unknown, dbPerHourError = plan::unknown; ///< slope of the level, and its standard error
    double thdPerHour = plan::unknown;                                ///< change of THD [% an hour]
    Exponential warming, cooling;                                     ///< of the load's sink [degrees Celsius]
    double kelvinPerWatt = plan::unknown;        ///< of the sink, from its warming: (end - begin) / watts
    std::vector<std::pair<double, double>> gaps; ///< nothing was read from .. to [s]
    std::string stop;                            ///< why it must end; empty: it may go on
};
SoakFigures soakFigures(const SoakPlan& plan, const std::vector<SoakReading>& readings);

/// What somebody who holds a level for hours must know: the watts that become heat, `load` of them outside the
/// amplifier, and what the program does not watch.
std::string soakCaution(double mains, double load);

/// What a sink comes to: T = Tamb + P theta [degrees Celsius].
inline double settledCelsius(double ambient, double watts, double kelvinPerWatt) {
    return ambient + watts * kelvinPerWatt;
}

/// A soak's own file, a line for each reading, on the disk before the call returns: it survives a crash.
Expected<Done> beginSoak(const std::filesystem::path& file, const SoakPlan& plan, const std::string& time);
Expected<Done> addReading(const std::filesystem::path& file, const SoakReading& reading);
Expected<Done> endSoak(const std::filesystem::path& file, const std::string& why);
struct SoakRecord {
    SoakPlan plan;
    std::string begun; ///< ISO 8601
    std::vector<SoakReading> readings;
    std::string ended; ///< why; empty: it was interrupted
};
/// A torn last line is left out.
Expected<SoakRecord> readSoak(const std::filesystem::path& file);
/// The newest in the folder that was not ended; empty: none.
std::filesystem::path interruptedSoak(const std::filesystem::path& folder);

} // namespace ember::bench
