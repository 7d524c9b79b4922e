#include "valve_dialog.h"

#include "app/widgets/words.h"

#include <QDialogButtonBox>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

#include <algorithm>

namespace ember::app {

ValveDialog::ValveDialog(const std::string& now, QWidget* parent) : QDialog(parent) {
    setWindowTitle("Another valve");
    resize(760, 420);
    auto* layout = new QVBoxLayout(this);
    search = new QLineEdit;
    search->setObjectName("valveSearch");
    search->setPlaceholderText("type to find: a designation, triode, pentode");
    search->setAccessibleName("Find a valve");
    layout->addWidget(search);
    table = new QTableWidget(0, 8);
    table->setObjectName("valveTable");
    table->setHorizontalHeaderLabels(
        {"type", "kind", "amplification", "slope", "plate, most", "watts", "heater", "heater to cathode"});
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->verticalHeader()->hide();
    table->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(table);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    for (const auto which : {QDialogButtonBox::Ok, QDialogButtonBox::Cancel}) buttons->button(which)->setIcon({});
    layout->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(search, &QLineEdit::textChanged, this, &ValveDialog::fill);
    connect(table, &QTableWidget::cellDoubleClicked, this, &QDialog::accept);
    fill();
    for (int row = 0; row < table->rowCount(); ++row)
        if (table->item(row, 0)->text().toStdString() == now) table->selectRow(row);
    search->setFocus();
}

void ValveDialog::fill() {
    const QString wanted = search->text().trimmed().toLower();
    table->setRowCount(0);
    for (const ValveType& t : Catalogue::shipped().valves) {
        const QString kind = t.pentode ? "pentode" : t.sections > 1 ? "double triode" : "triode";
        bool fits = wanted.isEmpty() || kind.contains(wanted);
        for (const std::string& name : t.names) fits = fits || text(ember::lower(name)).contains(wanted);
        if (!fits) continue;
        const int row = table->rowCount();
        table->insertRow(row);
        // At the point that its maker publishes.
        ValveFigures f;
        if (!t.points.empty()) f = figuresAt(t.law, t.points[0].plate, t.points[0].grid, t.points[0].screen);
        const QString cells[] = {
            text(t.type),
            kind,
            text(f.mu, Unit::None),
            text(1000 * f.gm, Unit::None) + " mA/V",
            text(t.limits.plateVolts, Unit::Volt),
            text(t.limits.plateWatts, Unit::Watt),
            QString("%1, %2").arg(text(t.heater.volts, Unit::Volt), text(t.heater.amps, Unit::Ampere)),
            t.limits.heaterCathodeVolts > 0 ? text(t.limits.heaterCathodeVolts, Unit::Volt) : "-"};
        for (int c = 0; c < 8; ++c) table->setItem(row, c, new QTableWidgetItem(cells[c]));
    }
    table->resizeColumnsToContents();
    if (table->rowCount() > 0 && table->currentRow() < 0) table->selectRow(0);
}

std::string ValveDialog::type() const {
    const int row = table->currentRow();
    return row < 0 || !table->item(row, 0) ? std::string() : table->item(row, 0)->text().toStdString();
}

} // namespace ember::app
