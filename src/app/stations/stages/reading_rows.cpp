#include "reading_rows.h"

#include "app/widgets/words.h"

#include <QHeaderView>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::app {

namespace {

/// Which value of a reading a column holds, its head, and what a number without a unit is in.
struct Column {
    double ReadPoint::*value;
    const char* head;
    Unit unit;
    double bare; ///< of the unit
    bool ofPentode;
};
constexpr std::array<Column, 5> columns{{{&ReadPoint::plate, "plate V", Unit::Volt, 1, false},
                                         {&ReadPoint::screen, "screen V", Unit::Volt, 1, true},
                                         {&ReadPoint::grid, "grid V", Unit::Volt, 1, false},
                                         {&ReadPoint::plateAmps, "plate mA", Unit::Ampere, 1e-3, false},
                                         {&ReadPoint::screenAmps, "screen mA", Unit::Ampere, 1e-3, true}}};
constexpr int plateAmpsColumn = 3, sectionColumn = 5, offColumn = 6, mostRows = 200, leastRows = 8;

} // namespace

QString percent(double share) {
    return QString::number(100 * share, 'f', std::abs(share) < 0.0995 ? 1 : 0) + " %";
}

ReadingRows::ReadingRows(QWidget* parent) : QTableWidget(0, offColumn + 1, parent) {
    setObjectName("readingsTable");
    setAccessibleName("Readings of the valve");
    QStringList heads;
    for (const Column& c : columns) heads << c.head;
    setHorizontalHeaderLabels(heads << "section"
                                    << "model off");
    verticalHeader()->hide();
    setShowGrid(false);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    connect(this, &QTableWidget::itemChanged, this, [this] {
        if (filling) return;
        if (rowCount() < mostRows && item(rowCount() - 1, 0)) setRowCount(rowCount() + 1);
        Q_EMIT edited();
    });
}

void ReadingRows::suit(const ValveType& type) {
    const bool pentode = type.section(type.sections()).pentode;
    for (std::size_t c = 0; c < columns.size(); ++c)
        setColumnHidden(static_cast<int>(c), columns[c].ofPentode && !pentode);
    setColumnHidden(sectionColumn, type.sections() < 2);
}

void ReadingRows::fill(const std::vector<ReadPoint>& points) {
    filling = true;
    clearContents();
    setRowCount(std::max(static_cast<int>(points.size()) + 1, leastRows));
    for (int row = 0; row < static_cast<int>(points.size()); ++row) {
        const ReadPoint& p = points[static_cast<std::size_t>(row)];
        for (std::size_t c = 0; c < columns.size(); ++c)
            if (const double v = p.*columns[c].value; v != 0 || columns[c].value == &ReadPoint::grid)
                setItem(row, static_cast<int>(c), new QTableWidgetItem(QString::number(v / columns[c].bare, 'g', 6)));
        setItem(row, sectionColumn, new QTableWidgetItem(QString::number(p.section)));
    }
    filling = false;
}

Expected<std::vector<ReadPoint>> ReadingRows::typed() const {
    std::vector<ReadPoint> out;
    const auto words = [this](int row, int column) {
        const QTableWidgetItem* cell = item(row, column);
        return cell ? cell->text().trimmed() : QString();
    };
    const auto wrong = [](int row, const QString& what) {
        return Problem{"", QString("Row %1, %2").arg(row + 1).arg(what).toStdString()};
    };
    for (int row = 0; row < rowCount(); ++row) {
        ReadPoint p;
        p.plate = 0;
        for (std::size_t c = 0; c < columns.size(); ++c) {
            const QString cell = words(row, static_cast<int>(c));
            if (cell.isEmpty()) continue;
            bool bare = false;
            const double number = QString(cell).replace(',', '.').toDouble(&bare);
            const auto v =
                bare ? Expected<double>(number * columns[c].bare) : parseQuantity(cell.toStdString(), columns[c].unit);
            if (!v) return wrong(row, QString("%1: %2").arg(columns[c].head, text(v.problem().sentence)));
            p.*columns[c].value = *v;
        }
        if (const QString cell = words(row, sectionColumn); !cell.isEmpty()) {
            bool number = false;
            p.section = cell.toInt(&number);
            if (!number || p.section < 1 || p.section > 4) return wrong(row, "section: its number is expected, 1 or 2");
        }
        if (p.plateAmps > 0) out.push_back(p); // a row without its current is not finished
    }
    return out;
}

void ReadingRows::showErrors(const std::vector<double>& errors) {
    filling = true;
    std::size_t n = 0;
    for (int row = 0; row < rowCount(); ++row) {
        const QTableWidgetItem* amps = item(row, plateAmpsColumn);
        auto* cell = new QTableWidgetItem;
        cell->setFlags(Qt::ItemIsEnabled);
        if (amps && !amps->text().trimmed().isEmpty() && n < errors.size()) cell->setText(percent(errors[n++]));
        setItem(row, offColumn, cell);
    }
    filling = false;
}

} // namespace ember::app
