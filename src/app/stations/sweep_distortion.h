#pragma once
// Harmonics against the frequency that is played, from a sweep, beside what the plan says of a tone of 1 kHz.

#include "app/document/document.h"
#include "core/signal/response.h"

#include <QWidget>

class QCustomPlot;
class QLabel;

namespace ember::app {

class PlotTools;

class SweepDistortion : public QWidget {
    Q_OBJECT
  public:
    explicit SweepDistortion(Document& document, QWidget* parent = nullptr);
    void look(std::size_t channel);
    /// The newest sweep of a channel; `inputRms` [V], NaN: not known.
    void showSweep(std::size_t channel, double inputRms, std::vector<signal::HarmonicCurve> curves);
    void setFloor(double thdPercent); ///< of the sound device that it was taken with [%]; NaN: none is drawn
    /// Per cent of the fundamental at `hertz` by the newest sweep of the channel shown; NaN: not within it.
    [[nodiscard]] double measured(int order, double hertz) const;
    /// The same as planned for a tone of 1 kHz at the sweep's level.
    [[nodiscard]] double planned(int order) const;

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    struct Taken {
        double inputRms = plan::unknown;
        std::vector<signal::HarmonicCurve> curves;
    };
    void draw();
    [[nodiscard]] const Taken* newest() const;
    Document& document;
    QLabel* words;
    QCustomPlot* plot;
    PlotTools* tools;
    std::size_t channel = 0;
    double floor = plan::unknown;
    std::map<std::size_t, Taken> taken; ///< by channel
};

} // namespace ember::app
