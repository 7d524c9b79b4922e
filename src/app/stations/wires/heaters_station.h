#pragma once
#include "wire_station.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QMenu;

namespace ember::app {

class HeaterFeedStrip;
class WireTable;

/// Heater windings: volts at every socket along their wires, how they are tied to ground, and heater against cathode.
class HeatersStation : public WireStation {
    Q_OBJECT
  public:
    static constexpr StationName called{"heaters", "Heaters", "WIRE"};
    explicit HeatersStation(Document& document, QWidget* parent = nullptr);
    void arrive() override;

  private:
    void refresh() override;
    [[nodiscard]] std::vector<std::string> wiresOfWinding() const;
    [[nodiscard]] std::size_t current() const; ///< winding
    void fillChanges(QMenu& menu);
    QComboBox *winding, *reference, *gauge;
    QCheckBox* twisted;
    WireTable* table;
    HeaterFeedStrip* feed;
    bool filling = false;
};

} // namespace ember::app
