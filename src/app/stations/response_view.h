#pragma once
// Response and output impedance of a channel: as planned, and as measured by stepped tones or a captured sweep.

#include "app/document/document.h"
#include "core/bench/sound_bench.h"
#include "core/signal/response.h"
#include "planned_response.h"
#include "response_takes.h"

#include <QFutureWatcher>
#include <QWidget>

class QComboBox;
class QCustomPlot;
class QLabel;
class QPushButton;

namespace ember::app {

class PlotTools;

class ResponseView : public QWidget {
    Q_OBJECT
  public:
    enum class Kind { Response, OutputImpedance };
    explicit ResponseView(Document& document, QWidget* parent = nullptr);
    ~ResponseView() override;
    void look(Kind kind, std::size_t channel);
    /// Single tones from 20 Hz to 20 kHz, three an octave, at this level [V].
    void takeSteps(Document::Bench with, double volts);
    /// A sweep that was just taken; its stimulus is the request's.
    /// `files`: its captures beside the build. `log`: whether it is a new one.
    void showSweep(const bench::TakeRequest& request, const signal::Capture& capture,
                   const bench::KeptFiles& files = {}, bool log = true);
    /// A captured sweep and the sweep that was played.
    void openSweep(const QString& capture, const QString& stimulus);
    [[nodiscard]] bool taking() const { return next < steps.size() || keeping; }
    using Measured = MeasuredResponse;
    /// The newest of the channel shown; empty: nothing was measured.
    [[nodiscard]] const Measured& measured() const;
    /// A take that the newest is compared with: any earlier one of either channel.
    struct Take {
        std::size_t channel = 0;
        QString title; ///< channel, how, time of day
        Measured curve;
    };
    [[nodiscard]] const std::vector<Take>& takes() const { return all; }
    void compareWith(int take); ///< its index in takes(); -1: none
    /// The newest over the compared one, by the newest's frequencies [dB]; empty: nothing to compare.
    [[nodiscard]] std::vector<double> difference() const;
    [[nodiscard]] const plan::ChannelResponse& planned() const { return plan.nominal; }
    [[nodiscard]] const PlannedResponse& plannedAll() const { return plan; }
    /// Which side of the response is drawn.
    enum class Side { Magnitude, Phase, Delay, Step };
    void showSide(Side side);
    Expected<Done> exportTo(const QString& file) const; ///< PNG, SVG or CSV by the ending

  Q_SIGNALS:
    void said(const QString& sentence, bool good);
    void swept(const QString& lowEnd, const QString& highEnd); ///< a sweep was analysed: its ends, in words
    /// The same sweep's harmonics; NaN: its level [V RMS] is not known.
    void distorted(std::size_t channel, double inputRms, const std::vector<signal::HarmonicCurve>& harmonics);

  private:
    void compute();
    void draw();
    void drawSide();
    void showRanges();
    void takeNext();
    void finish();
    void listTakes();
    /// What player and recorder do to a response: over the recorded input it is off already.
    enum class DeviceLoop { InIt, TakenOff };
    void analyse(std::function<Expected<signal::Response>()> analysis, const std::string& source, double inputRms,
                 const bench::KeptFiles& files, bool log, DeviceLoop loop = DeviceLoop::InIt);
    void keep(Measured result, const QString& how, const std::string& source, const bench::KeptFiles& files, bool log);

    Document& document;
    QCustomPlot* plot;
    QLabel* words;
    QPushButton *sweep, *cancel, *write;
    QComboBox *other, *sides;
    Kind kind = Kind::Response;
    std::size_t channel = 0;
    PlannedResponse plan;
    QFutureWatcher<PlannedResponse> solving;
    std::string key; ///< of what `solving` computes, among what is known
    std::stop_source stopSolving;
    Side side = Side::Magnitude;
    PlotTools* tools;
    std::vector<Take> all;     ///< in the order in which they were taken
    int compared = -1;         ///< index in `all`
    std::vector<double> steps; ///< [Hz] of the take under way
    std::size_t next = 0, takenOf = 0;
    double level = 0;
    std::vector<bench::TakeRecord> records;            ///< of the take under way
    bool keeping = false;                              ///< it is whole, and its captures are being written
    Document::Bench bench = Document::Bench::Practice; ///< of the take under way
    Measured partial;                                  ///< dB of the input meanwhile
    quint64 asked = 0;
    std::size_t askedChannel = 0;
    std::vector<double> deviceHertz, device; ///< the sound device's own response, of the newest sweep with one [dB]
};

} // namespace ember::app
