#pragma once
#include "wire_station.h"

#include "core/wires/hum.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;

namespace ember::app {

class FigureList;
class QuantityField;
class WireTable;

/// The return network: how it is joined, what flows in it and what that makes; hum and noise as one budget.
class GroundsStation : public WireStation {
    Q_OBJECT
  public:
    static constexpr StationName called{"grounds", "Grounds", "WIRE"};
    explicit GroundsStation(Document& document, QWidget* parent = nullptr);
    ~GroundsStation() override;
    void arrive() override;

  private:
    void refresh() override;
    void findHelp();
    void compare();
    void addEarthRow();
    [[nodiscard]] QString faultWords(const wires::EarthFaults& faults) const;
    QComboBox *scheme, *bond;
    QCheckBox *insulated, *earthed;
    std::vector<std::pair<std::string, QuantityField*>> outside; ///< by pointer: what is not in the amplifier
    QPushButton *help, *schools;
    WireTable* table;
    FigureList* budget;
    std::stop_source stopHelp;
};

} // namespace ember::app
