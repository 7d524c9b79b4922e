#include "voltage_chart.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/plan/pin_figures.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QTableWidget>
#include <QVBoxLayout>

#include <cmath>

namespace ember::app {

using theme::Role;

VoltageChart::VoltageChart(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* head = new QHBoxLayout;
    head->addWidget(label("as at First Power's stage", theme::Size::Text, false, "dim"));
    conditions = new QComboBox;
    conditions->setObjectName("chartStage");
    conditions->setAccessibleName("Conditions of the chart");
    for (int k = 1; k < procedure::stageCount; ++k)
        conditions->addItem(QString("%1  %2").arg(k).arg(text(std::string(procedure::stageName(k)))));
    conditions->setCurrentIndex(4); // full mains
    head->addWidget(conditions);
    head->addWidget(words = label("", theme::Size::Text, false, "dim"), 1);
    layout->addLayout(head);
    table = new QTableWidget(0, 7);
    table->setObjectName("voltageChart");
    table->setHorizontalHeaderLabels({"valve", "pin", "electrode", "net", "to star, DC", "band", "last read"});
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->verticalHeader()->hide();
    table->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(table, 1);
    connect(conditions, &QComboBox::currentIndexChanged, this, &VoltageChart::refresh);
    connect(&document, &Document::figuresChanged, this, [this] {
        if (isVisible()) refresh();
    });
    connect(&document, &Document::stageReady, this, [this](int index) {
        if (isVisible() && index == conditions->currentIndex() + 1) refresh();
    });
    connect(&document, &Document::logChanged, this, [this] {
        if (isVisible()) refresh();
    });
}

void VoltageChart::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

void VoltageChart::refresh() {
    fill(document.stage(conditions->currentIndex() + 1, document.mainsRead()));
}

void VoltageChart::fill(const procedure::PowerStage* stage) {
    const Build& b = document.build();
    words->setText(!stage          ? "computing ..."
                   : stage->steady ? QString("mains %1%2")
                                         .arg(text(stage->conditions.mainsVolts, Unit::Volt),
                                              stage->conditions.limiter ? ", behind the lamp" : "")
                                   : text(stage->failure));
    if (!stage || !stage->steady) return;
    const auto figures = plan::schematicFigures(b, catalogueOf(b), *stage->steady);
    if (!figures) return words->setText(text(figures.problem().text()));
    table->setRowCount(static_cast<int>(figures->pins.size()));
    int row = 0;
    for (const plan::PinFigure& pin : figures->pins) {
        // The reading of this pin, where First Power has a point there.
        const procedure::Expectation* expected = nullptr;
        for (const auto& e : stage->expectations)
            if (procedure::isValvePoint(e.point.kind) && e.point.index < b.bottles.size() &&
                b.bottles[e.point.index].id == pin.part) {
                const ValveType* type = catalogueOf(b).valve(b.bottles[e.point.index].type);
                const std::string suffix = type && type->sections() > 1 ? " " + std::to_string(e.point.section) : "";
                const char* name = e.point.kind == procedure::PointKind::Grid    ? "grid"
                                   : e.point.kind == procedure::PointKind::Plate ? "plate"
                                                                                 : "cathode";
                if (pin.electrode == name + suffix) expected = &e;
            }
        QString read = "-";
        if (expected)
            if (const LogEntry* e = procedure::lastReading(b, stage->index, expected->point.id, document.strand()))
                read = QString("%1, %2").arg(text(e->value, procedure::unitOf(*e)), text(e->verdict));
        const QString cells[] = {tag(pin.part),
                                 pin.number > 0 ? QString::number(pin.number) : "-",
                                 text(pin.electrode),
                                 text(pin.net),
                                 std::isfinite(pin.volts)    ? text(pin.volts, Unit::Volt)
                                 : pin.electrode == "heater" ? "heater"
                                                             : "-",
                                 expected ? text(procedure::bandText(expected->band, expected->point.unit())) : "-",
                                 read};
        for (int c = 0; c < 7; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            if (c == 6 && read != "-") item->setForeground(theme::color(Role::Slate));
            table->setItem(row, c, item);
        }
        ++row;
    }
    table->resizeColumnsToContents();
}

} // namespace ember::app
