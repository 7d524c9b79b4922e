#pragma once
// Findings: this station's first, then the rest; each with numbers, reason, fix and waive.

#include "app/document/document.h"

#include <QWidget>

class QVBoxLayout;
class QLabel;

namespace ember::app {

class FindingsPanel : public QWidget {
    Q_OBJECT
  public:
    explicit FindingsPanel(Document& document, QWidget* parent = nullptr);
    /// `side`: what the station shows above the findings; may be null.
    void showFor(const QString& station, QWidget* side);

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    void refresh();
    QWidget* card(const rules::Finding& finding);
    void waive(const rules::Finding& finding);
    Document& document;
    QString station;
    QWidget* side = nullptr;
    QVBoxLayout *column, *top;
    QWidget* list = nullptr;
    QString shown;
};

} // namespace ember::app
