#include "reading_table.h"

#include "app/widgets/words.h"

#include <QHeaderView>

#include <array>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

QString bandText(const procedure::Expectation& e) {
    const Unit u = e.point.unit();
    return std::isinf(e.band.high) ? text(e.band.low, u) + " or more"
                                   : text(e.band.low, u) + " to " + text(e.band.high, u);
}

QColor verdictColour(const LogEntry* reading) {
    return theme::color(!reading                         ? Role::BoneDim
                        : reading->verdict == "in range" ? Role::Verdigris
                        : reading->verdict == "stop"     ? Role::Stop
                                                         : Role::Ember);
}

const LogEntry* lastReading(const Build& build, int stage, const std::string& point) {
    for (auto e = build.log.rbegin(); e != build.log.rend(); ++e)
        if (e->kind == "reading" && e->stage == stage && e->point == point && !e->struck) return &*e;
    return nullptr;
}

ReadingTable::ReadingTable(QWidget* parent) : QTableWidget(0, 4, parent) {
    setObjectName("readings");
    setHorizontalHeaderLabels({"readings of this stage", "expected", "read", "verdict"});
    setAccessibleName("Readings of this stage");
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

bool ReadingTable::fill(const procedure::Stage& stage, const Build& build) {
    const QSignalBlocker quiet(this);
    setRowCount(static_cast<int>(stage.expectations.size()));
    bool all = !stage.expectations.empty();
    for (int k = 0; k < rowCount(); ++k) {
        const procedure::Expectation& e = stage.expectations[static_cast<std::size_t>(k)];
        const LogEntry* have = lastReading(build, stage.index, e.point.id);
        all = all && have && (have->verdict == "in range" || !have->text.empty());
        const std::array<QString, 4> cells{
            text(e.point.label), bandText(e), have ? text(have->value, e.point.unit(), 4) : QString("-"),
            have ? text(have->verdict + (have->text.empty() ? "" : ", explained")) : QString()};
        for (int c = 0; c < 4; ++c) {
            auto* item = new QTableWidgetItem(cells[static_cast<std::size_t>(c)]);
            item->setFont(c == 1 || c == 2 ? theme::figures(Size::Text, c == 2) : theme::text(Size::Text));
            if (c == 1) item->setForeground(theme::color(Role::BoneDim));
            if (c == 3 && have) item->setForeground(verdictColour(have));
            setItem(k, c, item);
        }
    }
    return all;
}

} // namespace ember::app
