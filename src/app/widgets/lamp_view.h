#pragma once
// The limiter's lamp as it should look: its brightness is the computed filament temperature.

#include <QWidget>

namespace ember::app {

class LampView : public QWidget {
    Q_OBJECT
  public:
    explicit LampView(QWidget* parent = nullptr);
    void show(double kelvin, const QString& looks, const QString& figures, const QString& through, bool inUse);
    [[nodiscard]] QSize sizeHint() const override { return {290, 96}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    double kelvin = 293;
    QString looks, figures, through;
    bool inUse = false;
};

} // namespace ember::app
