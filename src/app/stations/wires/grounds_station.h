#pragma once
#include "wire_station.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;

namespace ember::app {

class FigureList;
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
    QComboBox *scheme, *bond;
    QCheckBox* insulated;
    void compare();
    QPushButton *help, *schools;
    WireTable* table;
    FigureList* budget;
    std::stop_source stopHelp;
};

} // namespace ember::app
