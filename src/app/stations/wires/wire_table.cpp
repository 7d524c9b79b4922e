#include "wire_table.h"

#include <QHeaderView>

namespace ember::app {

using theme::Role;
using theme::Size;

WireTable::WireTable(const QString& called, const QStringList& heads, std::set<int> figures, QWidget* parent)
    : QTableWidget(0, static_cast<int>(heads.size()), parent),
      numbers(std::move(figures)) {
    setAccessibleName(called);
    setHorizontalHeaderLabels(heads);
    verticalHeader()->hide();
    verticalHeader()->setDefaultSectionSize(23);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    horizontalHeader()->setStretchLastSection(!numbers.contains(static_cast<int>(heads.size()) - 1));
    setShowGrid(false);
    setAlternatingRowColors(true);
    setEditTriggers(QAbstractItemView::NoEditTriggers);
    setSelectionBehavior(QAbstractItemView::SelectRows);
    setSelectionMode(QAbstractItemView::SingleSelection);
    setTabKeyNavigation(false);
    connect(this, &QTableWidget::currentCellChanged, this, [this](int row, int, int before, int) {
        if (row != before && row >= 0) Q_EMIT moved(currentId());
    });
}

void WireTable::show(const std::vector<WireRow>& rows) {
    const QString kept = currentId();
    const QSignalBlocker quiet(this);
    setRowCount(static_cast<int>(rows.size()));
    for (int r = 0; r < rowCount(); ++r) {
        const WireRow& row = rows[static_cast<std::size_t>(r)];
        for (int c = 0; c < columnCount(); ++c) {
            QTableWidgetItem* cell = item(r, c);
            if (!cell) setItem(r, c, cell = new QTableWidgetItem);
            cell->setText(c < row.cells.size() ? row.cells[c] : QString());
            cell->setData(Qt::UserRole, row.id);
            cell->setFont(numbers.contains(c) ? theme::figures(Size::Text) : theme::text(Size::Text));
            if (numbers.contains(c)) cell->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            cell->setForeground(c == row.column ? theme::color(row.good ? Role::Verdigris : Role::Ember)
                                                : theme::color(Role::Bone));
        }
    }
    select(kept);
}

QString WireTable::currentId() const {
    const QTableWidgetItem* at = currentRow() >= 0 ? item(currentRow(), 0) : nullptr;
    return at ? at->data(Qt::UserRole).toString() : QString();
}

void WireTable::select(const QString& id) {
    for (int r = 0; r < rowCount() && !id.isEmpty(); ++r)
        if (item(r, 0)->data(Qt::UserRole).toString() == id) return setCurrentCell(r, 0);
}

} // namespace ember::app
