#pragma once
#include "bias_fall.h"
#include "fall_view.h"
#include "supply_curves.h"

#include "app/stations/station.h"
#include "app/widgets/clock.h"

class QPushButton;
class QStackedWidget;
class QLabel;

namespace ember::app {

class SourceDialog;
class SupplyPanel;
class FindValueDialog;

/// The high-voltage supply: the fall, its curves through time, figures beside others.
class SupplyStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"supply", "Supply", "PLAN"};
    SupplyStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    QWidget* sidePanel() override;
    static constexpr int biasPicture = 8; ///< behind the curves
    void showCurve(int which);            ///< as of SupplyCurves::Kind, or the bias supply's picture
    FallView* fallView() { return fall; }
    SupplyCurves* curvesView() { return curves; }
    BiasFall* biasView() { return bias; }
    SupplyPanel* figuresPanel() { return panel; }
    FindValueDialog* findValue();
    SourceDialog* showSource();
    /// The curve as .png, .svg or .csv; the circuit as .cir for circuit simulators.
    Expected<Done> exportTo(const QString& file);

  private:
    void refresh();
    void drawCurve();
    [[nodiscard]] const plan::Steady* chosen() const;
    FallView* fall;
    SupplyCurves* curves;
    BiasFall* bias;
    QStackedWidget* below; ///< one of the two
    SupplyPanel* panel;
    FindValueDialog* finder = nullptr;
    SourceDialog* source = nullptr;
    QLabel* subtitle;
    Timer drawing;
    std::vector<QPushButton*> mainsTabs, curveTabs;
    int mainsChoice = 1, curve = 1;
};

} // namespace ember::app
