#pragma once
// The chassis from the front: heights above against the lid, depth below.

#include "plate_view.h"

namespace ember::app {

class SideView : public QWidget {
    Q_OBJECT
  public:
    explicit SideView(PlateView& plate, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override { return {600, 130}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    PlateView& plate;
};

} // namespace ember::app
