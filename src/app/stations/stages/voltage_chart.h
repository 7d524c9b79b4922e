#pragma once
// The voltage chart: every pin of every bottle, predicted at a stage of First Power, with the last reading beside it.

#include "app/document/document.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QTableWidget;

namespace ember::app {

class VoltageChart : public QWidget {
    Q_OBJECT
  public:
    explicit VoltageChart(Document& document, QWidget* parent = nullptr);
    void refresh();

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill(const procedure::PowerStage* stage);
    Document& document;
    QComboBox* conditions;
    QLabel* words;
    QTableWidget* table;
};

} // namespace ember::app
