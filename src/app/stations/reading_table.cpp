#include "reading_table.h"

#include "app/widgets/words.h"

#include <QHeaderView>

#include <array>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

QColor verdictColour(const LogEntry* reading) {
    if (!reading) return theme::color(Role::BoneDim);
    switch (procedure::verdictOf(reading->verdict)) {
    case procedure::Verdict::InRange: return theme::color(Role::Verdigris);
    case procedure::Verdict::Stop: return theme::color(Role::Stop);
    case procedure::Verdict::NotJudged: return theme::color(Role::Slate);
    case procedure::Verdict::Low:
    case procedure::Verdict::High: break;
    }
    return theme::color(Role::Ember);
}

ReadingTable::ReadingTable(QWidget* parent) : QTableWidget(0, 4, parent) {
    setObjectName("readings");
    setHorizontalHeaderLabels({"Readings of this step", "Range", "Read", "Verdict"});
    setAccessibleName("Readings of this step");
    verticalHeader()->hide();
    verticalHeader()->setDefaultSectionSize(24);
    setShowGrid(false);
    setEditTriggers(QAbstractItemView::NoEditTriggers);
    setSelectionBehavior(QAbstractItemView::SelectRows);
    setSelectionMode(QAbstractItemView::SingleSelection);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    setTabKeyNavigation(false);
}

void ReadingTable::fill(const procedure::PowerStage& stage, const Build& build, procedure::Strand strand) {
    const QSignalBlocker quiet(this);
    setRowCount(static_cast<int>(stage.expectations.size()));
    for (int k = 0; k < rowCount(); ++k) {
        const procedure::Expectation& e = stage.expectations[static_cast<std::size_t>(k)];
        const LogEntry* have = procedure::shownReading(build, stage.index, e.point, strand);
        const std::array<QString, 4> cells{
            text(e.point.label), text(procedure::bandText(e.band, e.point.unit())),
            have ? text(procedure::readText(have->value, e.point.unit(), 4)) : QString("–"),
            have ? text(have->verdict + (have->text.empty() ? "" : ", explained")) : QString()};
        for (int c = 0; c < 4; ++c) {
            auto* item = new QTableWidgetItem(cells[static_cast<std::size_t>(c)]);
            item->setFont(c == 1 || c == 2 ? theme::figures(Size::Text, c == 2) : theme::text(Size::Text));
            if (c == 1) item->setForeground(theme::color(Role::BoneDim));
            if (c == 3 && have) item->setForeground(verdictColour(have));
            setItem(k, c, item);
        }
    }
}

} // namespace ember::app
