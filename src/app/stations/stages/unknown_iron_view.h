#pragma once
// A transformer without papers: ohms and volts between its leads, and what they say of it.

#include "app/widgets/number_rows.h"
#include "core/plan/unknown_iron.h"

#include <QWidget>

#include <optional>

class QLabel;

namespace ember::app {

class UnknownIronView : public QWidget {
    Q_OBJECT
  public:
    explicit UnknownIronView(QWidget* parent = nullptr);
    /// What the answers are given for.
    void suit(double mainsVolts, double loadOhms, const Meter& meter);
    [[nodiscard]] const std::optional<plan::UnknownIron>& identified() const { return found; }

  Q_SIGNALS:
    void changed();

  private:
    void judge();
    double mains = 230, load = 8;
    Meter meter;
    NumberRows* rows;
    QTableWidget* leads;
    QLabel* words;
    std::optional<plan::UnknownIron> found;
};

} // namespace ember::app
