#pragma once
// One type of the catalogue on a page: its plate curves with limits and published points, its pins from below, heater.

#include "core/catalogue/catalogue.h"

#include <QWidget>

class QComboBox;
class QCustomPlot;
class QLabel;

namespace ember::app {

/// A base seen from below, its pins numbered clockwise from the key or gap.
class BasePicture : public QWidget {
    Q_OBJECT
  public:
    using QWidget::QWidget;
    void show(const ValveType& type);
    [[nodiscard]] QSize sizeHint() const override { return {150, 150}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    const ValveType* of = nullptr;
};

class ValveSheet : public QWidget {
    Q_OBJECT
  public:
    explicit ValveSheet(QWidget* parent = nullptr);
    /// `type` outlives the sheet, or is followed by another.
    void show(const ValveType& type);

  private:
    void draw();
    const ValveType* type = nullptr;
    QLabel* title;
    QComboBox* section;
    QCustomPlot* plot;
    BasePicture* base;
    QLabel* figures;
};

} // namespace ember::app
