#pragma once
#include "station.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class LampView;
class BandScale;
class DischargeClock;
class ReadingTable;

/// The staged first power-up: one reading at a time.
class FirstPowerStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"first-power", "First Power", "PROVE"};
    FirstPowerStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    QWidget* sidePanel() override { return side; }
    void showStage(int index);
    [[nodiscard]] int stageIndex() const { return index; }
    [[nodiscard]] const procedure::Stage* stage() const;
    QLineEdit* entry() { return reading; }

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    void buildSide();
    void refresh();
    void fillRows();
    void showPoint();
    void take(double value, const std::string& source);
    void takeTyped();
    void explain();
    void passStage();
    void switchedOff();
    [[nodiscard]] double mains() const { return mainsVolts; }

    std::vector<QPushButton*> dots;
    LampView* lamp;
    QLabel *title, *instruction, *stop, *pointLabel, *probe, *unit, *verdict, *causes;
    DischargeClock* clock;
    QLineEdit *reading, *mainsField;
    BandScale* scale;
    ReadingTable* rows;
    QPushButton *next, *fromPractice, *off;
    QWidget* side;
    int index = 0, row = 0;
    double mainsVolts = 0;
};

} // namespace ember::app
