#pragma once
#include "wire_station.h"

#include "core/wires/continuity.h"
#include "core/wires/hum.h"

class QCheckBox;
class QComboBox;
class QLabel;

namespace ember::app {

class WireTable;

/// The run list in the order of work: each wire cut, hooked, soldered, and looked at a second time.
class WiringStation : public WireStation {
    Q_OBJECT
  public:
    static constexpr StationName called{"wiring", "Wiring", "WIRE"};
    explicit WiringStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    /// The cutting list as CSV: number, ends, colour, area, cut length, strips.
    [[nodiscard]] std::string cuttingList() const;

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void refresh() override;
    void light();
    void advance(bool forward);
    void exportList();
    void exportPictures();
    QString continuity(const wires::Run& run);
    QComboBox *kind, *colours;
    QCheckBox* secondLook;
    QLabel* now;
    WireTable* table;
    std::shared_ptr<const wires::WireFigures> networkOf;
    std::unique_ptr<wires::ContinuityNetwork> network;
};

} // namespace ember::app
