#pragma once
#include "distortion_view.h"
#include "response_view.h"
#include "station.h"
#include "sweep_distortion.h"
#include "take_charts.h"

#include <QFutureWatcher>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;
class QVBoxLayout;

namespace ember::app {

/// Takes with the practice bench, a sound device or from a file: tones, sweeps, squares, two tones, hum and noise, over
/// what the plan predicted.
class MeasureStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"measure", "Measure", "PROVE"};
    MeasureStation(Document& document, QWidget* parent = nullptr);
    ~MeasureStation() override;
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    void analyseFile(const QString& file);
    /// Chooses what is measured; nothing: the response by single tones.
    void choose(std::optional<bench::TakeKind> kind);
    /// Takes what is chosen.
    void take();
    enum class View { Distortion, SweepDistortion, Response, OutputImpedance };
    void look(View view);
    [[nodiscard]] ResponseView* responseView() const { return response; }
    [[nodiscard]] DistortionView* distortionView() const { return distortion; }
    [[nodiscard]] SweepDistortion* sweepDistortion() const { return bySweep; }

  private:
    struct Planned {
        bench::TakeRequest request;
        PlannedReading reading;
    };
    void buildHead(QVBoxLayout& layout);
    void showTake(const bench::TakeRequest& request, const signal::Capture& capture, double inputRms);
    void keep(const bench::TakeRequest& request, const std::string& from, const TakeReading& reading);
    void draw(const TakeReading& reading, const bench::TakeRequest& request);
    void foretell(const bench::TakeRequest& request);
    void addPlanned();
    void proposeLevel();
    void refresh();
    [[nodiscard]] bench::TakeRequest asked(double volts) const;
    [[nodiscard]] std::optional<bench::TakeKind> chosen() const;
    [[nodiscard]] Document::Bench bench() const;
    [[nodiscard]] bool ready() const;
    QComboBox *source, *channel, *what, *frequency;
    QLineEdit *input, *fullScale;
    QPushButton *takeNow, *cancel, *device, *file;
    QStackedWidget* lower;
    DistortionView* distortion;
    SweepDistortion* bySweep;
    ResponseView* response;
    std::vector<QPushButton*> tabs;
    View view = View::Distortion;
    QString proposed = "50 mV"; ///< input level that stands there while nobody typed another
    std::array<QLabel*, 4> captions, values;
    QLabel *words, *connecting;
    TakeCharts* charts;
    QFutureWatcher<std::shared_ptr<Planned>> planning;
    std::stop_source stopPlanning;
};

} // namespace ember::app
