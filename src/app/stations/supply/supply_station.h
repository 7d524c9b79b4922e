#pragma once
#include "fall_view.h"
#include "supply_curves.h"

#include "app/stations/station.h"

#include <QTimer>

class QPushButton;
class QLabel;

namespace ember::app {

class SourceDialog;
class SupplyPanel;
class WishDialog;

/// The high-voltage supply: the fall, its curves through time, figures beside others.
class SupplyStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"supply", "Supply", "PLAN"};
    SupplyStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    QWidget* sidePanel() override;
    void showCurve(int which); ///< as of SupplyCurves::Kind
    FallView* fallView() { return fall; }
    SupplyCurves* curvesView() { return curves; }
    SupplyPanel* figuresPanel() { return panel; }
    WishDialog* showWishes();
    SourceDialog* showSource();
    /// The curve as .png, .svg or .csv; the circuit as .cir for circuit simulators.
    Expected<Done> exportTo(const QString& file);

  private:
    void refresh();
    void drawCurve();
    [[nodiscard]] const plan::Steady* chosen() const;
    FallView* fall;
    SupplyCurves* curves;
    SupplyPanel* panel;
    WishDialog* wishes = nullptr;
    SourceDialog* source = nullptr;
    QLabel* subtitle;
    QTimer drawing;
    std::vector<QPushButton*> mainsTabs, curveTabs;
    int mainsChoice = 1, curve = 1;
};

} // namespace ember::app
