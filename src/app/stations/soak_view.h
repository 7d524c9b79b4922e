#pragma once
// A soak under way, or the last one: level, distortion and the load's temperature against hours; the load itself.

#include "app/document/document.h"
#include "app/widgets/clock.h"
#include "core/bench/soak.h"

#include <QWidget>

class QCustomPlot;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class PlotTools;

class SoakView : public QWidget {
    Q_OBJECT
  public:
    explicit SoakView(Document& document, QWidget* parent = nullptr);
    /// Begins at this tone; its readings are kept beside the build from the first on.
    void start(Document::Bench with, const bench::TakeRequest& tone);
    void stop(const QString& why);
    [[nodiscard]] bool running() const { return timer.isActive(); }
    [[nodiscard]] const std::vector<bench::SoakReading>& readings() const { return record.readings; }
    [[nodiscard]] bench::SoakFigures figures() const { return bench::soakFigures(record.plan, record.readings); }
    /// Speaks of this channel's load, and looks for a soak that was interrupted; offered to go on.
    void arrive(std::size_t channel);
    void setIntervals(double interval, double seconds); ///< [s]; for tests, in place of the fields

  Q_SIGNALS:
    void said(const QString& sentence, bool good);
    void changed(); ///< it began or ended

  private:
    void resume();
    void read();
    void add(const bench::SoakReading& reading);
    void typedTemperature();
    void tellLoad();
    void draw();
    [[nodiscard]] double secondsNow() const;
    Document& document;
    Document::Bench bench = Document::Bench::Practice;
    bench::SoakRecord record;
    std::size_t channel = 0; ///< the one chosen
    std::filesystem::path file, interrupted;
    bool levelTried = false; ///< since it was started or resumed: else its level is approached in steps again
    qint64 begunAt = 0;      ///< [ms] of the wall clock, which goes on while a laptop sleeps
    Timer timer;
    QLineEdit *interval, *hours, *celsius, *ambient, *theta, *drift, *hand;
    QPushButton* goOn;
    QLabel *words, *load;
    QCustomPlot* plot;
    PlotTools* tools;
};

} // namespace ember::app
