#pragma once
// What the build is made of: number, weight and price of each line; prices are typed here, with undo.

#include "app/document/document.h"
#include "core/report/parts_list.h"

#include <QDialog>

class QLabel;
class QLineEdit;
class QTableWidget;
class QTableWidgetItem;

namespace ember::app {

class PartsDialog : public QDialog {
    Q_OBJECT
  public:
    explicit PartsDialog(Document& document, QWidget* parent = nullptr);
    /// As a table for any spreadsheet.
    Expected<Done> exportTo(const QString& file) const;
    /// Prices from such a table, of this build or another; what was read, as a sentence.
    Expected<QString> importFrom(const QString& file);

  private:
    void refresh();
    void take(QTableWidgetItem* item);
    void say(const QString& sentence, bool good);

    Document& document;
    report::PartsList list;
    std::vector<std::size_t> shown; ///< per row: index of its line
    QLineEdit* filter;
    QTableWidget* table;
    QLabel *sums, *answer;
    bool filling = false;
};

} // namespace ember::app
