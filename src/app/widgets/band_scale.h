#pragma once
// The expected band, the stop limit and the reading on one scale.

#include "core/quantity/unit.h"

#include <QWidget>

#include <optional>

namespace ember::app {

class BandScale : public QWidget {
    Q_OBJECT
  public:
    explicit BandScale(QWidget* parent = nullptr);
    /// `low` not finite: there is no band; `high` may be infinite.
    void show(double low, double high, std::optional<double> stopAbove, std::optional<double> stopBelow,
              std::optional<double> reading, Unit unit);
    [[nodiscard]] QSize sizeHint() const override { return {480, 54}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    double low = 0, high = 0;
    std::optional<double> stop, least, reading; ///< least: a stop limit below
    Unit unit = Unit::Volt;
    bool any = false;
};

} // namespace ember::app
