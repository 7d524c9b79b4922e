#pragma once
#include "station.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;
class QComboBox;
class QCheckBox;
class QTimer;

namespace ember::app {

class LampView;
class BandScale;
class QuantityField;

/// The staged first power-up: one reading at a time.
class FirstPowerStation : public Station {
    Q_OBJECT
  public:
    FirstPowerStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    QWidget* sidePanel() override { return side; }
    void showStage(int index);
    [[nodiscard]] int stageIndex() const { return index; }
    [[nodiscard]] const procedure::Stage* stage() const;
    QLineEdit* entry() { return reading; }

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
    void tick();
    [[nodiscard]] const LogEntry* lastReading(const std::string& point) const;
    [[nodiscard]] double mains() const { return mainsVolts; }

    std::vector<QPushButton*> dots;
    LampView* lamp;
    QLabel *title, *instruction, *stop, *pointLabel, *probe, *unit, *verdict, *causes, *clock, *clockTitle;
    QLineEdit *reading, *mainsField;
    BandScale* scale;
    QTableWidget* rows;
    QPushButton *next, *fromPractice, *off;
    QWidget* side;
    QTimer* timer;
    int index = 0, row = 0;
    double mainsVolts = 0;
    qint64 offSince = 0;
};

} // namespace ember::app
