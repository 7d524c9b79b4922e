#pragma once
// Which valves of a type go together at a point, sockets and spares alike; and the move that puts them so.

#include "app/document/document.h"

#include "core/build/valve_stock.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace ember::app {

class MatchingView : public QWidget {
    Q_OBJECT
  public:
    explicit MatchingView(Document& document, QWidget* parent = nullptr);
    /// Valves of this one's type, matched where the plan has it (a spare: where the last one was).
    void show(ValvePlace of);

  Q_SIGNALS:
    void moved();

  private:
    void refresh();
    void place();
    /// Fills `from` and `to`: the best groups into the sockets in their order, whoever leaves into the place that
    /// became free. In words, empty where all stand so already.
    QString propose(const std::vector<ValvePlace>& places, const std::vector<MatchedGroup>& groups);
    Document& document;
    std::string type;
    std::vector<ValvePlace> from, to;
    QLineEdit *atPlate, *atScreen, *atGrid;
    QComboBox* size;
    QTableWidget* table;
    QLabel* words;
    QPushButton* put;
};

} // namespace ember::app
