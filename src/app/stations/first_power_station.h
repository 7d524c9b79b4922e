#pragma once
#include "station.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class LampView;
class BandScale;
class ClipsView;
class DischargeClock;
class ReadingTable;
class ShareBars;

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
    [[nodiscard]] const procedure::PowerStage* stage() const;
    QLineEdit* entry() { return reading; }
    [[nodiscard]] const procedure::Expectation* expectation() const; ///< of the row that is looked at

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    void buildSide();
    void refresh();
    void refreshDots();
    void fillRows();
    void showPoint();
    void showCauses();
    void showSuspects(const procedure::Suspicion* suspicion);
    bool take(const procedure::TestPoint& point, int stage, double value, const std::string& source);
    void takeTyped();
    void explain();
    void passStage();
    void switchedOff();
    void showObstacles();

    std::vector<QPushButton*> dots;
    ClipsView* clips;
    LampView* lamp;
    QLabel *title, *instruction, *stop, *pointLabel, *probe, *unit, *verdict, *causes, *before, *danger, *nextBest;
    DischargeClock* clock;
    QLineEdit *reading, *mainsField;
    BandScale* scale;
    ReadingTable* rows;
    QPushButton *next, *again, *fromPractice, *off, *exchange;
    ShareBars* shares;
    QWidget *side, *suspects;
    int index = 0, row = 0;
    std::string shownPoint; ///< whose reading the entry takes
};

} // namespace ember::app
