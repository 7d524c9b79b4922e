#include "number_rows.h"

#include "words.h"

#include <QHeaderView>

#include <algorithm>
#include <cmath>
#include <limits>

namespace ember::app {

namespace {
constexpr int mostTableRows = 200, leastTableRows = 8;
} // namespace

Expected<double> parseTyped(const QString& words, Unit unit, double bare) {
    bool plain = false;
    const double number = QString(words).replace(',', '.').toDouble(&plain);
    return plain ? Expected<double>(number * bare) : parseQuantity(words.toStdString(), unit);
}

QString percent(double share) {
    return QString::number(100 * share, 'f', std::abs(share) < 0.0995 ? 1 : 0) + " %";
}

NumberRows::NumberRows(std::span<const NumberColumn> of, const char* remarks, QWidget* parent)
    : QTableWidget(0, static_cast<int>(of.size()) + 1, parent),
      columns(of) {
    QStringList heads;
    for (const NumberColumn& c : columns) heads << c.head;
    setHorizontalHeaderLabels(heads << remarks);
    verticalHeader()->hide();
    setShowGrid(false);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    connect(this, &QTableWidget::itemChanged, this, [this] {
        if (filling) return;
        if (rowCount() < mostTableRows && item(rowCount() - 1, 0)) setRowCount(rowCount() + 1);
        Q_EMIT edited();
    });
}

QString NumberRows::cell(int row, int column) const {
    const QTableWidgetItem* at = item(row, column);
    return at ? at->text().trimmed() : QString();
}

void NumberRows::fillRows(const std::vector<std::vector<double>>& rows) {
    filling = true;
    clearContents();
    setRowCount(std::max(static_cast<int>(rows.size()) + 1, leastTableRows));
    for (std::size_t r = 0; r < rows.size(); ++r)
        for (std::size_t c = 0; c < columns.size() && c < rows[r].size(); ++c)
            if (std::isfinite(rows[r][c]))
                setItem(static_cast<int>(r), static_cast<int>(c),
                        new QTableWidgetItem(QString::number(rows[r][c] / columns[c].bare, 'g', 6)));
    filling = false;
}

Expected<std::vector<NumberRow>> NumberRows::typedRows() const {
    std::vector<NumberRow> out;
    for (int row = 0; row < rowCount(); ++row) {
        NumberRow typed{std::vector<double>(columns.size(), std::numeric_limits<double>::quiet_NaN()),
                        std::vector<std::string>(columns.size())};
        bool any = false;
        for (std::size_t c = 0; c < columns.size(); ++c) {
            const QString words = cell(row, static_cast<int>(c));
            if (words.isEmpty()) continue;
            any = true;
            if (columns[c].names) {
                typed.names[c] = words.toStdString();
                continue;
            }
            if (columns[c].unit == Unit::Ohm && words.compare("open", Qt::CaseInsensitive) == 0) {
                typed.values[c] = std::numeric_limits<double>::infinity();
                continue;
            }
            const auto v = parseTyped(words, columns[c].unit, columns[c].bare);
            if (!v)
                return Problem{"", QString("Row %1, %2: %3")
                                       .arg(row + 1)
                                       .arg(columns[c].head, text(v.problem().sentence))
                                       .toStdString()};
            typed.values[c] = *v;
        }
        if (any) out.push_back(std::move(typed));
    }
    return out;
}

void NumberRows::showRemarks(const QStringList& remarks, int column) {
    filling = true;
    int n = 0;
    for (int row = 0; row < rowCount(); ++row) {
        auto* remark = new QTableWidgetItem;
        remark->setFlags(Qt::ItemIsEnabled);
        if (!cell(row, column).isEmpty() && n < remarks.size()) remark->setText(remarks[n++]);
        setItem(row, static_cast<int>(columns.size()), remark);
    }
    filling = false;
}

} // namespace ember::app
