#pragma once
// Distortion against power: planned at 1 kHz and at the ends of the ear's range, measured as dots.

#include "app/document/document.h"

#include <QFutureWatcher>
#include <QWidget>

#include <string>

class QCustomPlot;
class QLabel;

namespace ember::app {

class PlotTools;

class DistortionView : public QWidget {
    Q_OBJECT
  public:
    explicit DistortionView(Document& document, QWidget* parent = nullptr);
    ~DistortionView() override;
    void look(std::size_t channel);
    void add(std::size_t channel, double watts, double thdPercent); ///< a measured tone
    void setFloor(double thdPercent); ///< of the sound device that tones are taken with [%]; NaN: none is drawn
    /// Planned at 20 Hz and 10 kHz; solved in the background while the chart is seen.
    struct Ends {
        std::size_t channel = 0;
        quint64 revision = 0;
        std::vector<plan::ToneFigures> low, high;
    };
    [[nodiscard]] const Ends& ends() const { return planned; }
    static constexpr double lowHertz = 20, highHertz = 10e3;

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    void compute();
    void draw();
    Document& document;
    QLabel* words;
    QCustomPlot* plot;
    PlotTools* tools;
    std::size_t channel = 0;
    struct Dot {
        std::size_t channel;
        double watts, thd;
    };
    std::vector<Dot> measured;
    double floor = plan::unknown;
    Ends planned;
    std::string asked; ///< what `solving` computes, as its key among what is known
    QFutureWatcher<Ends> solving;
    std::stop_source stopping;
};

} // namespace ember::app
