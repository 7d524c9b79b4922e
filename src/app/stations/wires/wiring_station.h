#pragma once
#include "app/stations/station.h"

class QCheckBox;
class QComboBox;
class QLabel;

namespace ember::app {

class WirePicture;
class WireTable;

/// The run list in the order of work: each wire cut, hooked, soldered, and looked at a second time.
class WiringStation : public Station {
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
    void refresh();
    void light();
    void advance(bool forward);
    void exportList();
    QComboBox *kind, *colours;
    QCheckBox* secondLook;
    QLabel *words, *now;
    WirePicture* picture;
    WireTable* table;
};

} // namespace ember::app
