#pragma once
// What the first capacitor should still hold after switching off: computed, and said to be no proof.

#include "core/plan/figures.h"

#include <QLabel>

class QTimer;

namespace ember::app {

class DischargeClock : public QLabel {
    Q_OBJECT
  public:
    explicit DischargeClock(QWidget* parent = nullptr);
    /// The curve of the present stage; stops a running clock. An empty one: no high voltage was computed.
    void setCurve(const plan::Curve& curve);
    /// The mains went off now.
    void start();
    [[nodiscard]] bool running() const;

  private:
    void tick();
    plan::Curve curve;
    QTimer* timer;
    qint64 since = 0; ///< [ms]
};

} // namespace ember::app
