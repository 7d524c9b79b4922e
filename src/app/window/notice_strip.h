#pragma once
// What holds for every station: the discharge clock while it runs, and that practice is on.

#include "app/document/document.h"

class QLabel;
class QPushButton;

namespace ember::app {

class NoticeStrip : public QWidget {
    Q_OBJECT
  public:
    explicit NoticeStrip(Document& document, QWidget* parent = nullptr);

  private:
    void refresh();

    Document& document;
    QWidget *clockRow, *practiceRow;
    QLabel *clock, *practice;
};

} // namespace ember::app
