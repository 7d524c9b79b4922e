#pragma once
#include "app/stations/station.h"

class QCheckBox;
class QComboBox;
class QLabel;

namespace ember::app {

class WirePicture;
class WireTable;

/// Heater windings: volts at every socket along their wires, how they are tied to ground, and heater against cathode.
class HeatersStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"heaters", "Heaters", "WIRE"};
    explicit HeatersStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;

  private:
    void refresh();
    void edit(const Edit& edit);
    [[nodiscard]] std::vector<std::string> wiresOfWinding() const;
    [[nodiscard]] std::size_t current() const; ///< winding
    QComboBox *winding, *reference, *gauge;
    QCheckBox* twisted;
    QLabel* words;
    WirePicture* picture;
    WireTable* table;
    bool filling = false;
};

} // namespace ember::app
