#pragma once
#include "station.h"

class QTableWidget;
class QLineEdit;
class QPushButton;

namespace ember::app {

/// Everything that happened, with time. Struck out, never erased.
class LogbookStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"logbook", "Logbook", "KEEP"};
    LogbookStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override { return document.build().log.empty() ? 0 : 1; }
    Expected<Done> writeHtml(const QString& file) const;
    Expected<Done> writePdf(const QString& file) const;

  private:
    void lookAgain();
    void refresh();
    void strike();
    void exportTo(bool pdf);
    [[nodiscard]] QString reportText() const;
    QTableWidget* table;
    QLineEdit *filter, *note;
};

} // namespace ember::app
