#pragma once
// The button that gives every part of the circuit its place; there only while some have none.

#include "app/document/document.h"

#include <QFutureWatcher>
#include <QPushButton>

#include <stop_token>

namespace ember::app {

class PlaceAllButton : public QPushButton {
    Q_OBJECT
  public:
    explicit PlaceAllButton(Document& document, QWidget* parent = nullptr);
    ~PlaceAllButton() override;

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    void refresh();
    void beginOrStop();
    void arrived();

    Document& document;
    QFutureWatcher<std::shared_ptr<const Expected<Edit>>> search;
    std::stop_source stopping;
    quint64 asked = 0; ///< the build's revision when it began
};

} // namespace ember::app
