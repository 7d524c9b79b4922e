#include "unknown_iron_view.h"

#include "app/widgets/words.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>

#include <array>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr std::array<NumberColumn, 4> leadColumns{
    {{"from", Unit::None, 1, true}, {"to", Unit::None, 1, true}, {"ohms", Unit::Ohm, 1}, {"volts", Unit::Volt, 1}}};

} // namespace

UnknownIronView::UnknownIronView(QWidget* parent) : QWidget(parent) {
    auto* sides = new QHBoxLayout(this);
    sides->setContentsMargins(0, 0, 0, 0);
    auto* left = new QVBoxLayout;
    auto* note = label("First ohms between leads (\"open\" where nothing conducts), all other leads free. Then a low, "
                       "isolated alternating voltage onto the winding with the most ohms, and the volts between the "
                       "same leads, all in one go: only their ratios count.",
                       Size::Text, false, "dim");
    note->setWordWrap(true);
    left->addWidget(note);
    rows = new NumberRows(leadColumns, "");
    rows->setObjectName("leadRows");
    rows->setAccessibleName("Readings between leads");
    rows->setColumnHidden(static_cast<int>(leadColumns.size()), true);
    rows->fillRows({});
    left->addWidget(rows, 1);
    sides->addLayout(left, 5);
    auto* right = new QVBoxLayout;
    leads = new QTableWidget(0, 5);
    leads->setObjectName("leadsFound");
    leads->setAccessibleName("Windings and their leads");
    leads->setHorizontalHeaderLabels({"winding", "lead", "turns", "is", "end to end"});
    leads->verticalHeader()->hide();
    leads->setShowGrid(false);
    leads->setEditTriggers(QAbstractItemView::NoEditTriggers);
    leads->setSelectionMode(QAbstractItemView::NoSelection);
    leads->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    leads->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    right->addWidget(leads, 1);
    words = label("", Size::Text);
    words->setObjectName("leadWords");
    words->setWordWrap(true);
    words->setMinimumHeight(96);
    words->setAlignment(Qt::AlignTop);
    right->addWidget(words);
    sides->addLayout(right, 6);
    connect(rows, &NumberRows::edited, this, &UnknownIronView::judge);
    judge();
}

void UnknownIronView::suit(double mainsVolts, double loadOhms, const Meter& m) {
    mains = mainsVolts, load = loadOhms, meter = m;
    judge();
}

void UnknownIronView::judge() {
    found.reset();
    leads->setRowCount(0);
    const auto refuse = [&](const std::string& why) {
        words->setText(coloured(Role::Stop, text(why)));
        Q_EMIT changed();
    };
    const auto typed = rows->typedRows();
    if (!typed) return refuse(typed.problem().sentence);
    std::vector<plan::LeadReading> readings;
    for (const NumberRow& row : *typed) // a row is begun with its names, and counts from its first reading on
        if (!std::isnan(row.values[2]) || !std::isnan(row.values[3]))
            readings.push_back({row.names[0], row.names[1], row.values[2], row.values[3]});
    if (readings.empty()) {
        words->setText("Two leads and the ohms between them begin it. Of a lead with several taps read each from one "
                       "end, and one pair more than seems needed: it tells a misreading.");
        Q_EMIT changed();
        return;
    }
    const auto is = plan::identify(readings, mains, load, meter);
    if (!is) return refuse(is.problem().sentence);
    found = *is;
    int number = 0;
    for (const plan::FoundWinding& w : found->windings) {
        ++number;
        for (std::size_t k = 0; k < w.leads.size(); ++k) {
            const int row = leads->rowCount();
            leads->insertRow(row);
            QStringList whole;
            if (w.volts > 0) whole << text(w.volts, Unit::Volt);
            if (w.ohms > 0) whole << text(w.ohms, Unit::Ohm);
            const QString cells[] = {
                k == 0 ? QString::number(number) : QString(), text(w.leads[k].name),
                QString("%1%2 %").arg(w.byCopper ? "about " : "").arg(100 * w.leads[k].turns, 0, 'f', 0),
                text(w.leads[k].is), k == 0 ? whole.join(", ") : QString()};
            for (int c = 0; c < 5; ++c) leads->setItem(row, c, new QTableWidgetItem(cells[c]));
        }
    }
    QStringList all;
    for (const std::string& s : found->says) all << text(s);
    words->setText(all.join(" "));
    Q_EMIT changed();
}

} // namespace ember::app
