#pragma once
// Always ready to take a note or a reading, such as "B+1 312" or a sentence; shows the verdict at once.

#include "app/document/document.h"

#include <QWidget>

class QLineEdit;
class QLabel;

namespace ember::app {

class LogLine : public QWidget {
    Q_OBJECT
  public:
    explicit LogLine(Document& document, QWidget* parent = nullptr);
    void say(const QString& sentence, bool good);
    QLineEdit* entry() { return line; }
    [[nodiscard]] QString verdict() const;

  private:
    void preview();
    void take();
    Document& document;
    QLineEdit* line;
    QLabel* answer;
};

} // namespace ember::app
