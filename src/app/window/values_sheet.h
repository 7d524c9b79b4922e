#pragma once
// Every value of the build in one searchable list: what no picture shows can be set here, with undo.

#include "app/document/document.h"
#include "core/build/build_json.h"

#include <QDialog>

class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;
class QTableWidgetItem;

namespace ember::app {

class ValuesSheet : public QDialog {
    Q_OBJECT
  public:
    explicit ValuesSheet(Document& document, QWidget* parent = nullptr);
    /// Shows what holds every one of `words`.
    void search(const QString& words);

  private:
    void refresh();
    void take(QTableWidgetItem* item);
    void say(const QString& sentence, bool good);
    void editEntry(bool twice);
    [[nodiscard]] const Setting* settingOf(int row) const;

    Document& document;
    std::vector<Setting> settings;
    std::vector<std::size_t> shown; ///< per row: index in `settings`
    QLineEdit* filter;
    QTableWidget* table;
    QLabel* answer;
    QPushButton *twice, *away;
    bool filling = false;
};

} // namespace ember::app
