#pragma once
#include "app/stations/station.h"

#include "plate_view.h"

#include "core/chassis/hole_list.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;

namespace ember::app {

class FigureList;
class LayoutsDialog;
class QuantityField;
class SideView;
class SolidPanel;

/// The chassis: a plate in the hands, to scale; the layout answers as it is moved.
class ChassisStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"chassis", "Chassis", "PLAN"};
    ChassisStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    QWidget* sidePanel() override { return panel; }
    PlateView* plateView() { return plate; }
    /// The finished amplifier in place of the plate.
    void showSolid(bool on);
    /// Other layouts of these parts, over the window.
    LayoutsDialog* showLayouts();
    /// By the ending of `file`: .svg, .dxf, .pdf of the face that is shown, .csv of its holes; `-positions.csv` of all
    /// parts, `-picture.svg` for the record, `-together.svg` with the chosen board.
    Expected<Done> exportTo(const QString& file);
    /// A CSV of positions, or a DXF with the holes of an existing chassis.
    Expected<Done> importFrom(const QString& file);

  private:
    void buildPanel();
    void showSelection();
    void showFigures();
    /// That side of the chassis that is chosen.
    void lookAt(PlateSide look);
    void placeTyped();
    QPushButton* tab(const QString& words, const QString& name);

    PlateView* plate;
    SideView* side;
    LayoutsDialog* layouts = nullptr;
    QWidget* panel;
    QLabel *subtitle, *chosen;
    FigureList* figures;
    QLineEdit* tray;
    chassis::Datum datum;
    std::vector<QPushButton*> faces;
    QPushButton *asSolid, *lower; ///< `lower`: the sides of a tower's lower chassis
    QStackedWidget* pages;
    SolidPanel* solid;
    struct Field {
        const char* key;
        QLabel* name;
        QuantityField* field;
    };
    std::vector<Field> fields;
};

} // namespace ember::app
