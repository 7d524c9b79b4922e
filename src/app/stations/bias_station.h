#pragma once
#include "station.h"

#include "core/procedure/bias.h"

class QTableWidget;
class QLabel;
class QPushButton;
class QLineEdit;

namespace ember::app {

class ClipsView;

/// Output valves set and watched: one row a valve.
class BiasStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"bias", "Bias", "PROVE"};
    BiasStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    QWidget* sidePanel() override { return side; }
    bool eventFilter(QObject* watched, QEvent* event) override; ///< the leads of the row that is worked on

  private:
    struct Row {
        procedure::BiasPlace place;
        QLineEdit *sense, *adjuster;
        QLabel *name, *plate, *screen, *current, *advice;
        QPushButton* practice;
    };
    void rebuild();
    void refresh();
    void take(std::size_t row, double volts, const std::string& source);
    [[nodiscard]] double lastRead(const std::string& point) const;
    [[nodiscard]] std::optional<procedure::BiasState> stateOf(const Row& row, double volts) const;
    void turn(std::size_t row);
    std::vector<Row> rows;
    QWidget *table, *side;
    ClipsView* clips;
    QLabel *how, *target, *balance;
    std::string shape;
};

} // namespace ember::app
