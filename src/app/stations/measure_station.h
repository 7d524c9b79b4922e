#pragma once
#include "core/signal/tone_analysis.h"
#include "response_view.h"
#include "station.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QCustomPlot;
class QStackedWidget;

namespace ember::app {

/// A tone: power, gain, distortion, spectrum, waveform; from the practice bench or a file, over what the plan
/// predicted.
class MeasureStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"measure", "Measure", "PROVE"};
    MeasureStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void analyseFile(const QString& file);
    void takeTone();
    void takeResponse();
    enum class View { Distortion, Response, OutputImpedance };
    void look(View view);
    [[nodiscard]] ResponseView* responseView() const { return response; }

  private:
    void show(const signal::Capture& capture, double inputRms);
    void drawPrediction();
    void sayHowToConnect();
    void refresh();
    QComboBox* channel;
    QLineEdit *input, *fullScale;
    QPushButton *tone, *steps, *file;
    QStackedWidget* lower;
    ResponseView* response;
    std::vector<QPushButton*> tabs;
    View view = View::Distortion;
    QString proposed = "50 mV"; ///< input level that stands there while nobody typed another
    QLabel *power, *gain, *thd, *noise, *words, *connecting, *expected;
    QCustomPlot *wave, *spectrum, *curve;
    struct Dot {
        std::size_t channel;
        double watts, thd;
    };
    std::vector<Dot> measured;
};

} // namespace ember::app
