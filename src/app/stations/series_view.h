#pragma once
// A measurement of several takes: its curves over the plan's with the band of healthy amplifiers, its figures beside
// the predicted ones, and an earlier one of the same kind.

#include "app/document/document.h"
#include "app/widgets/figure_list.h"
#include "core/bench/series/prediction.h"

#include <QFutureWatcher>
#include <QPointer>
#include <QWidget>

class QCPGraph;
class QCPItemText;
class QComboBox;
class QCustomPlot;
class QLabel;

namespace ember::app {

class PlotTools;

class SeriesView : public QWidget {
    Q_OBJECT
  public:
    explicit SeriesView(Document& document, QWidget* parent = nullptr);
    ~SeriesView() override;
    /// Shows what is known of this measurement, and computes what the plan says to it.
    void look(const bench::SeriesRequest& request);
    /// A measurement that was just taken, or read from its files.
    void add(Document::SeriesTaken taken, const QString& title);
    [[nodiscard]] const bench::SeriesResult* measured() const; ///< the newest of what is shown, or nullptr
    [[nodiscard]] const std::optional<bench::SeriesPrediction>& predicted() const { return prediction; }
    [[nodiscard]] bool predicting() const { return computing.isRunning(); }
    void compareWith(int index); ///< of the takes of this kind; -1: none
    /// What changed in the build between the compared one and the newest.
    [[nodiscard]] QString changes() const;
    [[nodiscard]] PlotTools* tools() const { return cursor; }
    void setSamples(int count) { samples = count; } ///< amplifiers that the band is drawn from

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    struct Kept {
        Document::SeriesTaken taken;
        QString title;
    };
    void compute();
    void draw();
    void showRanges();
    [[nodiscard]] std::pair<bench::SeriesAxis, bench::SeriesAxis> axes() const;
    void placeNames(); ///< of the curves, under each other where their ends are near
    void list();
    [[nodiscard]] const Kept* newest() const;
    [[nodiscard]] const Kept* compared() const;
    Document& document;
    QCustomPlot* plot;
    PlotTools* cursor;
    QLabel* words;
    FigureList* figures;
    std::vector<std::pair<QPointer<QCPGraph>, QPointer<QCPItemText>>> names; ///< the highest end first
    QComboBox* other;
    bench::SeriesRequest request;
    std::vector<Kept> all; ///< of every kind and channel, in the order of taking
    int against = -1;      ///< index in `all`
    std::optional<bench::SeriesPrediction> prediction;
    QString limits;           ///< which valve or iron limits, from the model
    quint64 predictedFor = 0; ///< revision of the build
    bench::SeriesRequest predictedRequest;
    struct Answered {
        Expected<bench::SeriesPrediction> prediction;
        QString limits;
    };
    using Answer = std::shared_ptr<Answered>;
    QFutureWatcher<Answer> computing;
    std::stop_source stopping;
    int samples = 8;
};

} // namespace ember::app
