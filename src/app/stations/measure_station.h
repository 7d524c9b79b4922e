#pragma once
#include "bench_sketch.h"
#include "distortion_view.h"
#include "measure_controls.h"
#include "response_view.h"
#include "select_view.h"
#include "series_view.h"
#include "soak_view.h"
#include "station.h"
#include "sweep_distortion.h"
#include "take_charts.h"

#include <QFutureWatcher>

class QComboBox;
class QLabel;
class QPushButton;
class QStackedWidget;

namespace ember::app {

/// Takes with the practice bench, a sound device or from a file: tones, sweeps, squares, two tones, hum and noise, and
/// series of them, over what the plan predicted.
class MeasureStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"measure", "Measure", "PROVE"};
    MeasureStation(Document& document, QWidget* parent = nullptr);
    ~MeasureStation() override;
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    QWidget* sidePanel() override { return connections; }
    void analyseFile(const QString& file);
    /// The source's own square, captured without the amplifier, is taken out of squares from now on; empty: no more.
    void takeOutSource(const QString& file);
    /// Captures beside the build, analysed again as they are now; nothing is logged.
    void lookAgain(const std::filesystem::path& folder, const bench::KeptFiles& files);
    /// Chooses what is measured; nothing: the response by single tones.
    void choose(std::optional<bench::TakeKind> kind) { controls->choose(kind); }
    void chooseSeries(bench::SeriesKind kind) { controls->chooseSeries(kind); }
    /// Takes what is chosen.
    void take();
    enum class View { Distortion, SweepDistortion, Response, OutputImpedance };
    void look(View view);
    void compareWith(int index); ///< of the takes kept of this kind; -1: none
    [[nodiscard]] ResponseView* responseView() const { return response; }
    [[nodiscard]] DistortionView* distortionView() const { return distortion; }
    [[nodiscard]] SweepDistortion* sweepDistortion() const { return bySweep; }
    [[nodiscard]] SeriesView* seriesView() const { return series; }
    [[nodiscard]] SoakView* soakView() const { return soak; }
    [[nodiscard]] SelectView* selectView() const { return select; }
    void choosePage(MeasureControls::Page page) { controls->choosePage(page); }

  private:
    struct Planned {
        bench::TakeRequest request;
        PlannedReading reading;
    };
    /// A take that a later one can be compared with.
    struct Earlier {
        bench::TakeRequest request;
        TakeReading reading;
        QString title;
        Build build;
    };
    void buildTakePage(QWidget& page);
    void takeSeries();
    /// `log`: whether it is a new one, to be kept.
    void showTake(const bench::TakeRequest& request, const signal::Capture& capture, double inputRms, bool log = true);
    void keep(const bench::TakeRequest& request, const std::string& from, const TakeReading& reading,
              const bench::KeptFiles& files);
    void draw(const TakeReading& reading, const bench::TakeRequest& request);
    void foretell(const bench::TakeRequest& request);
    void addPlanned(int at);
    void remember(const bench::TakeRequest& request, const TakeReading& reading);
    void askForSetup(const QString& sentence);
    /// A supply node under a burst, from a scope's table, over what is planned.
    void addNode(const signal::Capture& capture, const QString& file);
    void refresh();
    [[nodiscard]] bool ready() const;
    MeasureControls* controls;
    ConnectionsPanel* connections;
    QStackedWidget *body, *lower;
    DistortionView* distortion;
    SweepDistortion* bySweep;
    ResponseView* response;
    SeriesView* series;
    SoakView* soak;
    SelectView* select;
    std::vector<QPushButton*> tabs;
    View view = View::Distortion;
    std::array<QLabel*, 4> captions, values;
    QLabel *words, *seriesWords;
    QComboBox* other;
    std::vector<Earlier> earlier;
    std::optional<signal::Capture> sourceSquare; ///< the generator's own, taken out of squares
    QPushButton* sourceFile;
    TakeCharts* charts;
    QFutureWatcher<std::shared_ptr<Planned>> planning;
    QString plannedWords; ///< as they stand behind what was measured
    std::stop_source stopPlanning;
};

} // namespace ember::app
