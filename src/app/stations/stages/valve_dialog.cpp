#include "valve_dialog.h"

#include "own_type_dialog.h"
#include "valve_sheet.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

#include <algorithm>

namespace ember::app {

ValveDialog::ValveDialog(Document& d, const std::string& now, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Another valve");
    resize(1180, 640);
    auto* layout = new QVBoxLayout(this);
    search = new QLineEdit;
    search->setObjectName("valveSearch");
    search->setPlaceholderText("type to find: a designation, triode, pentode, noval, 6.3 V, 12 W");
    search->setAccessibleName("Find a valve");
    layout->addWidget(search);
    table = new QTableWidget(0, 7);
    table->setObjectName("valveTable");
    table->setHorizontalHeaderLabels({"type", "kind", "base", "mu", "gm", "plate limits", "heater"});
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->verticalHeader()->hide();
    table->horizontalHeader()->setStretchLastSection(true);
    table->setMinimumWidth(520);
    auto* both = new QHBoxLayout;
    both->addWidget(table, 1);
    sheet = new ValveSheet;
    both->addWidget(sheet, 1);
    layout->addLayout(both, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    for (const auto which : {QDialogButtonBox::Ok, QDialogButtonBox::Cancel}) buttons->button(which)->setIcon({});
    auto* foot = new QHBoxLayout;
    const auto button = [&](const char* words, const char* object, const char* tip) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setToolTip(tip);
        b->setAutoDefault(false);
        foot->addWidget(b);
        return b;
    };
    auto* own =
        button("A type of your own...", "valveOwn", "One that is not listed: from its sheet or a tracer's file");
    change = button("Change it...", "valveChange", "Figures of this type of your own");
    away = button("Take it away", "valveAway", "This type of your own out of the build");
    said = label("", theme::Size::Text);
    said->setObjectName("valveSaid");
    foot->addWidget(said, 1);
    foot->addWidget(buttons);
    layout->addLayout(foot);
    connect(own, &QPushButton::clicked, this, [this] { describe({}); });
    connect(change, &QPushButton::clicked, this, [this] { describe(type()); });
    connect(away, &QPushButton::clicked, this, &ValveDialog::remove);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(search, &QLineEdit::textChanged, this, &ValveDialog::fill);
    connect(table, &QTableWidget::cellDoubleClicked, this, &QDialog::accept);
    connect(table, &QTableWidget::currentCellChanged, this, [this](int row) {
        const ValveType* t = row < 0 || !table->item(row, 0)
                                 ? nullptr
                                 : catalogueOf(document.build()).valve(table->item(row, 0)->text().toStdString());
        if (t) sheet->show(*t);
        for (QPushButton* b : {change, away}) b->setVisible(t && ownTypeOf(document.build(), t->type));
        said->clear();
    });
    fill();
    choose(now);
    search->setFocus();
}

void ValveDialog::choose(const std::string& wanted) {
    for (int row = 0; row < table->rowCount(); ++row)
        if (table->item(row, 0)->text().toStdString() == wanted) table->selectRow(row);
}

void ValveDialog::describe(const std::string& changing) {
    OwnTypeDialog dialog(document, changing, this);
    if (dialog.exec() != QDialog::Accepted) return;
    search->clear();
    fill();
    choose(dialog.type());
}

void ValveDialog::remove() {
    const auto done = document.edit(removeOwnType(document.build(), type()));
    fill();
    said->setText(done ? QString() : coloured(theme::Role::Stop, text(done.problem().sentence)));
}

void ValveDialog::fill() {
    const QString wanted = search->text().trimmed().toLower();
    table->setRowCount(0);
    for (const ValveType& t : catalogueOf(document.build()).valves) {
        const TypeSection &one = t.section(1), &last = t.section(t.sections());
        const QString kind = one.pentode != last.pentode ? "triode and pentode"
                             : one.pentode               ? "pentode"
                             : t.sections() > 1          ? "double triode"
                                                         : "triode";
        const QString heater =
            QString("%1, %2").arg(text(t.heater.volts, Unit::Volt, 2), text(t.heater.amps, Unit::Ampere, 2));
        const auto limit = [](double v, Unit unit) { return v > 0 ? text(v, unit) : QString("-"); };
        const ValveLimits& most = last.pentode ? last.limits : one.limits;
        const QString watts = limit(most.plateWatts, Unit::Watt);
        bool fits = wanted.isEmpty();
        for (const QString& by : {kind, text(t.base).toLower(), heater.toLower(), watts.toLower()})
            fits = fits || by.contains(wanted);
        fits = fits || (ownTypeOf(document.build(), t.type) && QString("own").contains(wanted));
        for (const std::string& name : t.names) fits = fits || text(ember::lower(name)).contains(wanted);
        if (!fits) continue;
        const int row = table->rowCount();
        table->insertRow(row);
        // At the point that its maker publishes.
        const TypeSection& shown = last.pentode ? last : one;
        ValveFigures f;
        if (!shown.published.points.empty()) f = figuresAt(shown.law, shown.published.points[0]);
        const QString cells[] = {text(t.type),
                                 ownTypeOf(document.build(), t.type) ? "own, " + kind : kind,
                                 t.base.empty() ? "-" : text(t.base),
                                 text(f.mu, Unit::None, 2),
                                 text(1000 * f.gm, Unit::None, 2) + " mA/V",
                                 limit(most.plateVolts, Unit::Volt) + ", " + watts,
                                 heater};
        for (int c = 0; c < 7; ++c) table->setItem(row, c, new QTableWidgetItem(cells[c]));
    }
    table->resizeColumnsToContents();
    if (table->rowCount() > 0 && table->currentRow() < 0) table->selectRow(0);
}

std::string ValveDialog::type() const {
    const int row = table->currentRow();
    return row < 0 || !table->item(row, 0) ? std::string() : table->item(row, 0)->text().toStdString();
}

} // namespace ember::app
