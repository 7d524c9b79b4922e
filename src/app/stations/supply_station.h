#pragma once
#include "fall_view.h"
#include "station.h"

class QCustomPlot;
class QPushButton;
class QLabel;

namespace ember::app {

/// The high-voltage supply: the fall, and its curves through time.
class SupplyStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"supply", "Supply", "PLAN"};
    SupplyStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void showCurve(int which);

  private:
    void refresh();
    void drawCurve();
    [[nodiscard]] const plan::Steady* chosen() const;
    FallView* fall;
    QCustomPlot* plot;
    QLabel *subtitle, *note;
    std::vector<QPushButton*> mainsTabs, curveTabs;
    int mainsChoice = 1, curve = 1;
};

} // namespace ember::app
