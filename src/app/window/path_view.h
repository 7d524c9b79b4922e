#pragma once
// The stations in the order of the work, each with a filament that glows with the share of its work that is done.

#include "app/stations/station.h"

class QVBoxLayout;

namespace ember::app {

class PathButton;

class PathView : public QWidget {
    Q_OBJECT
  public:
    explicit PathView(QWidget* parent = nullptr);
    void setStations(const std::vector<StationName>& stations);
    void setCurrent(int index);
    /// Shares of work done, 0 .. 1, in the order of the stations.
    void refresh(const std::vector<double>& shares, const std::vector<rules::Finding>& findings);

  Q_SIGNALS:
    void chosen(int index);

  private:
    std::vector<StationName> all;
    std::vector<PathButton*> buttons;
    QVBoxLayout* column;
};

} // namespace ember::app
