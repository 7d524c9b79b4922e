#pragma once
// The expected band, the stop limit and the reading on one scale.

#include <QWidget>

#include <optional>

namespace ember::app {

class BandScale : public QWidget {
    Q_OBJECT
  public:
    explicit BandScale(QWidget* parent = nullptr);
    void show(double low, double high, std::optional<double> stop, std::optional<double> reading, const QString& unit);
    [[nodiscard]] QSize sizeHint() const override { return {480, 54}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    double low = 0, high = 0;
    std::optional<double> stop, reading;
    QString unit;
    bool any = false;
};

} // namespace ember::app
