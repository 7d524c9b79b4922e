#pragma once
// Readings of single valves: each beside the average of its type, and which of several go together.

#include "app/document/document.h"

#include "core/build/valve_stock.h"

#include <QDialog>

#include <map>

class QComboBox;
class QCustomPlot;
class QLabel;
class QPushButton;

namespace ember::app {

class MatchingView;
class ReadingRows;

class ReadingsDialog : public QDialog {
    Q_OBJECT
  public:
    /// `bottle`: id of the valve that is shown first.
    ReadingsDialog(Document& document, const std::string& bottle, QWidget* parent);
    void done(int result) override; ///< asks where readings were not taken over

  private:
    void list();      ///< the valves of the build
    void showValve(); ///< the chosen one's readings
    void judge();     ///< what the readings say
    void draw(const ValveType& type, const std::vector<ReadPoint>& points, const ReadValve* found);
    void load();
    void takeOver();
    void keepTyped();
    [[nodiscard]] ValvePlace current() const;
    [[nodiscard]] Expected<ReadValve> readAs(const ValveType& type, const std::vector<ReadPoint>& points) const;

    Document& document;
    std::map<ValvePlace, std::vector<ReadPoint>> pending; ///< typed, not taken over
    QComboBox* valve;
    ReadingRows* rows;
    MatchingView* matching;
    QCustomPlot* plot;
    QLabel* verdict;
    QPushButton* take;
};

} // namespace ember::app
