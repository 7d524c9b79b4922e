#pragma once
#include "take_reading.h"

#include "core/wires/hum.h"

#include <QWidget>

class QCustomPlot;

namespace ember::app {

/// Waveform and spectrum of a take: measured in verdigris, what the plan says in brass.
class TakeCharts : public QWidget {
    Q_OBJECT
  public:
    explicit TakeCharts(QWidget* parent = nullptr);
    /// `hum`: the plan's lines at this channel's output, or nullptr.
    void showTake(const TakeReading& reading, bench::TakeKind kind, const wires::ChannelHum* hum);
    /// One period as the plan has it, over the measured one [V], of so many seconds.
    void addPlanned(const std::vector<double>& period, double seconds);
    /// What a measured response makes of a square, one period at the measured one's level, of so many seconds.
    void addExpected(const std::vector<double>& period, double seconds);
    /// An earlier take of the same kind, in slate beneath it.
    void addEarlier(const TakeReading& reading);
    [[nodiscard]] bool holdsPlanned() const;
    [[nodiscard]] QCustomPlot* waveform() const { return wave; }

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    void showRanges();
    QCustomPlot *wave, *spectrum;
    bench::TakeKind kind = bench::TakeKind::Tone;
    double reference = 1; ///< of the spectrum's dB [V]
};

} // namespace ember::app
