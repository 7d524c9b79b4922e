#pragma once
#include "core/signal/tone_analysis.h"
#include "distortion_view.h"
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
    void arrive() override;
    void analyseFile(const QString& file);
    void takeTone();
    void takeResponse();
    enum class View { Distortion, Response, OutputImpedance };
    void look(View view);
    [[nodiscard]] ResponseView* responseView() const { return response; }
    [[nodiscard]] DistortionView* distortionView() const { return distortion; }

  private:
    void show(const signal::Capture& capture, double inputRms);
    void proposeLevel();
    void sayHowToConnect();
    void refresh();
    [[nodiscard]] double toneHertz() const;
    QComboBox *channel, *frequency;
    QLineEdit *input, *fullScale;
    QPushButton *tone, *steps, *file;
    QStackedWidget* lower;
    DistortionView* distortion;
    ResponseView* response;
    std::vector<QPushButton*> tabs;
    View view = View::Distortion;
    QString proposed = "50 mV"; ///< input level that stands there while nobody typed another
    QLabel *power, *gain, *thd, *noise, *words, *connecting;
    QCustomPlot *wave, *spectrum;
};

} // namespace ember::app
