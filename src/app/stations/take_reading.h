#pragma once
// A capture in words and figures, by what was played for it: what Measure shows, and what the log keeps.

#include "app/document/document.h"

#include <QString>

#include <array>

namespace ember::app {

struct TakeReading {
    struct Figure {
        QString caption, value;
    };
    std::array<Figure, 4> figures;
    QString words;
    bool good = true;
    std::string log;                    ///< empty: nothing to keep
    std::vector<double> wave;           ///< [V], from its first moment on
    double waveStep = 0;                ///< [s]
    std::vector<double> spectrum;       ///< RMS per bin [V]
    double binHertz = 0, reference = 1; ///< what 0 dB is [V]
    QString referenceWord;
    double level = plan::unknown, thdPercent = plan::unknown; ///< of a tone [V, %]
};

/// `load` [ohm], 0: none; `inputRms` [V], NaN: not known. A Problem where nothing can be said.
Expected<TakeReading> readTake(const bench::TakeRequest& request, const signal::Capture& capture,
                               const Document::Solved& plan, double load, double inputRms);
/// The plan's own figures for the same take, as one sentence; empty where the capture says nothing.
QString plannedWords(const bench::TakeRequest& request, const signal::Capture& planned);

} // namespace ember::app
