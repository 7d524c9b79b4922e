#pragma once
// What to begin from: whole amplifiers, each with its picture, the parts it takes and what it will do.

#include "core/build/starts.h"
#include "core/plan/figures.h"

#include <QDialog>
#include <QFutureWatcher>

class QLabel;
class QListWidget;

namespace ember::app {

class StartDialog : public QDialog {
    Q_OBJECT
  public:
    explicit StartDialog(QWidget* parent);
    ~StartDialog() override;
    void choose(int row);
    [[nodiscard]] const Start* chosen() const; ///< nullptr: none

  private:
    void present(int row);
    QListWidget* list;
    QLabel *title, *about, *parts, *does;
    QWidget* picture;
    std::map<std::string, QString> known; ///< what was computed already
    std::stop_source stop;
};

} // namespace ember::app
