#pragma once
// How the instruments are connected for a measurement, drawn: what plays, the amplifier, its load, what looks at it,
// and which of them stand on the safety earth.

#include "app/document/document.h"

#include <QWidget>

class QLabel;

namespace ember::app {

/// What a measurement needs connected.
struct BenchWiring {
    QString channel;       ///< the one that is measured
    QString generator;     ///< what plays; empty: the input is shorted
    QString load = "load"; ///< with its ohms
    QString second;        ///< a second load or loudspeaker that is changed over to; empty: none
    QString recorder;      ///< what looks at the load
    bool divider = false;  ///< before it
    bool everyChannel = false, control = false;
    QString beside;           ///< the channel whose load the recorder's second input is at; empty: none
    bool atInput = false;     ///< the recorder's second input is at the amplifier's input
    bool supply = false;      ///< the recorder looks at a supply node instead
    double supplyVolts = 0;   ///< the most of them [V]
    double switchOnVolts = 0; ///< what comes out while the amplifier is switched on; NaN: not known [V]
};
BenchWiring wiringOf(const Document& document, Document::Bench bench, std::size_t channel,
                     std::optional<bench::TakeKind> take, const bench::Setup& setup,
                     const std::optional<bench::SeriesRequest>& series);

class BenchSketch : public QWidget {
    Q_OBJECT
  public:
    explicit BenchSketch(QWidget* parent = nullptr);
    void show(const BenchWiring& wiring);
    [[nodiscard]] QString inWords() const; ///< the same for who does not see it

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    BenchWiring wiring;
};

/// The sketch with what to mind beneath it.
class ConnectionsPanel : public QWidget {
    Q_OBJECT
  public:
    explicit ConnectionsPanel(QWidget* parent = nullptr);
    void show(const BenchWiring& wiring, const plan::PowerFigures* power);
    BenchSketch* sketch;
    QLabel* words;
};

} // namespace ember::app
