#pragma once
// A working place of the job. It reads figures and issues edits, and knows no other station.

#include "app/document/document.h"
#include "core/quantity/quantity.h"

#include <QWidget>

#include <functional>
#include <utility>

namespace ember::app {

/// How a station is called: in code and settings, on the path, and the phase of the job it belongs to.
struct StationName {
    const char *id, *title, *phase;
};

class Station : public QWidget {
    Q_OBJECT
  public:
    Station(Document& d, const StationName& names, QWidget* parent) : QWidget(parent), document(d), id(names.id) {
        setAccessibleName(names.title);
    }
    [[nodiscard]] virtual double shareDone() const { return 0; } ///< 0 .. 1: how much of its work the record shows
    virtual void arrive() {}                                     ///< it becomes the visible one
    virtual QWidget* sidePanel() { return nullptr; }             ///< shown above the findings while it is visible

    Document& document;
    const QString id;

  protected:
    /// Does it now where the station is seen, or when it next is: what nobody looks at costs no time.
    void whenSeen(std::function<void()> what) {
        if (isVisible()) return what();
        pending = std::move(what);
    }
    void showEvent(QShowEvent* event) override {
        QWidget::showEvent(event);
        if (pending) std::exchange(pending, {})();
    }

  private:
    std::function<void()> pending;

  Q_SIGNALS:
    void said(const QString& sentence, bool good); ///< for the log line's verdict
    void valuesWanted(const QString& words);       ///< the sheet of every value, showing what holds these
    void capturesWanted(const QString& file, const QString& hash); ///< a measurement is to be looked at again
};

} // namespace ember::app
