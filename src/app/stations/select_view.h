#pragma once
// A part selected on test: each try with its reading, channel by channel, and what to try next.

#include "app/document/document.h"
#include "core/bench/select_on_test.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QTableWidget;

namespace ember::app {

class SelectView : public QWidget {
    Q_OBJECT
  public:
    explicit SelectView(Document& document, QWidget* parent = nullptr);
    void arrive();

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    struct Row {
        std::size_t channel = 0;
        QString level;
        bench::Tried tried;
        Unit value = Unit::None, reading = Unit::None; ///< as they were typed
    };
    void add();
    void refresh();
    Document& document;
    std::vector<Row> rows;
    QComboBox *channel, *series, *way;
    QLineEdit *part, *target, *level, *value, *reading;
    QTableWidget* table;
    QLabel* advice;
};

} // namespace ember::app
