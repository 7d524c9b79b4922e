#pragma once
#include "app/stations/station.h"

class QHBoxLayout;
class QLabel;
class QVBoxLayout;

namespace ember::app {

class UndersidePicture;
class WireTable;

/// What Heaters, Grounds and Wiring share: a head with their controls, a line of words, the chassis from below.
class WireStation : public Station {
    Q_OBJECT
  public:
    WireStation(Document& document, const StationName& names, QWidget* parent);
    /// Of a plan: done where no finding of its own is open.
    [[nodiscard]] double shareDone() const override;

  protected:
    /// Adds words and picture below the head, once the head's controls are there; derived stations go on in `column`.
    void finishHead(const char* wordsName);
    void edit(const Edit& edit); ///< or says why not
    /// A right click (or the menu key) on a row does to its wire what one in the picture does.
    void offerWireMenu(WireTable* table);
    virtual void refresh() = 0; ///< the figures are others
    QVBoxLayout* column;
    QHBoxLayout* head;
    QLabel* words = nullptr;
    UndersidePicture* picture;
};

} // namespace ember::app
