#include "parts_dialog.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/report/price_table.h"

#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

#include <cmath>
#include <limits>

namespace ember::app {

namespace {

struct PartsColumn {
    static constexpr int words = 0, of = 1, number = 2, weight = 3, each = 4, sum = 5, count = 6;
};

QString money(double v) {
    return std::isfinite(v) ? QString::number(v, 'f', 2) : QString();
}

} // namespace

PartsDialog::PartsDialog(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Parts list");
    setObjectName("parts");
    setAttribute(Qt::WA_DeleteOnClose);
    resize(940, 640);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(16, 14, 16, 12);
    filter = new QLineEdit;
    filter->setObjectName("partsFilter");
    filter->setPlaceholderText("part of a line, such as \"470\" or \"v3\"");
    filter->setAccessibleName("Show lines that contain these words");
    layout->addWidget(filter);
    table = new QTableWidget(0, PartsColumn::count);
    table->setObjectName("partsTable");
    table->setAccessibleName("Parts of the build");
    table->setHorizontalHeaderLabels({"part", "for", "number", "weight", "price each", "total"});
    table->verticalHeader()->hide();
    table->verticalHeader()->setDefaultSectionSize(24);
    table->setShowGrid(false);
    table->setTabKeyNavigation(false);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setEditTriggers(QAbstractItemView::AllEditTriggers);
    table->horizontalHeader()->setSectionResizeMode(PartsColumn::words, QHeaderView::Stretch);
    table->horizontalHeader()->resizeSection(PartsColumn::of, 230);
    for (const int c : {PartsColumn::words, PartsColumn::of})
        table->horizontalHeaderItem(c)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (const int c : {PartsColumn::number, PartsColumn::weight, PartsColumn::each, PartsColumn::sum}) {
        table->horizontalHeader()->resizeSection(c, 86);
        table->horizontalHeaderItem(c)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    }
    layout->addWidget(table, 1);
    layout->addWidget(sums = label(""));
    sums->setObjectName("partsSums");
    auto* foot = new QHBoxLayout;
    foot->addWidget(answer = label(""), 1);
    auto* write = new QPushButton("Table...");
    write->setObjectName("partsExport");
    auto* read = new QPushButton("Prices from a table...");
    read->setObjectName("partsImport");
    read->setToolTip("A parts list that was written before, of this build or another, with prices filled in");
    auto* close = new QPushButton("Close");
    for (QPushButton* b : {read, write, close}) {
        b->setAutoDefault(false);
        foot->addWidget(b);
    }
    layout->addLayout(foot);
    connect(filter, &QLineEdit::textChanged, this, &PartsDialog::refresh);
    connect(table, &QTableWidget::itemChanged, this, &PartsDialog::take);
    connect(write, &QPushButton::clicked, this, [this] {
        const QString f = QFileDialog::getSaveFileName(
            this, "Write the parts list", text(document.build().name).toLower() + "-parts.csv", "Tables (*.csv)");
        if (f.isEmpty()) return;
        const auto done = exportTo(f);
        say(done ? "written: " + f : text(done.problem().text()), done.ok());
    });
    connect(read, &QPushButton::clicked, this, [this] {
        const QString f = QFileDialog::getOpenFileName(this, "Read prices", {}, "Tables (*.csv *.txt)");
        if (f.isEmpty()) return;
        const auto done = importFrom(f);
        say(done ? *done : text(done.problem().text()), done.ok());
    });
    connect(close, &QPushButton::clicked, this, &QDialog::close);
    connect(&document, &Document::buildChanged, this, &PartsDialog::refresh);
    connect(&document, &Document::figuresChanged, this, &PartsDialog::refresh); // the wires' lengths
    refresh();
}

Expected<Done> PartsDialog::exportTo(const QString& file) const {
    return saveText(report::csv(list), file.toStdString());
}

Expected<QString> PartsDialog::importFrom(const QString& file) {
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly))
        return Problem{file.toStdString(), "it could not be read: " + in.errorString().toStdString()};
    if (in.size() > 1 << 20)
        return Problem{file.toStdString(), "this table is larger than 1 MB; a parts list never is"};
    const auto prices = report::pricesFromTable(document.build(), list, in.readAll().toStdString());
    if (!prices) return prices.problem();
    if (const auto done = document.edit(prices->edit); !done) return done.problem();
    QString words = QString("%1 price%2 taken over.").arg(prices->taken).arg(prices->taken == 1 ? "" : "s");
    if (prices->missing > 0)
        words += QString(" %1 of the table %2 of no part of this build.")
                     .arg(prices->missing)
                     .arg(prices->missing == 1 ? "is" : "are");
    return words;
}

void PartsDialog::refresh() {
    filling = true;
    const Build& b = document.build();
    list = report::partsList(b, catalogueOf(b), document.figures());
    shown.clear();
    const QStringList wanted = filter->text().toLower().split(' ', Qt::SkipEmptyParts);
    std::vector<QString> ids;
    for (std::size_t k = 0; k < list.lines.size(); ++k) {
        ids.push_back(text(list.lines[k].tags()));
        const QString line = (text(list.lines[k].words) + " " + ids.back() + " " + text(list.lines[k].group)).toLower();
        if (std::all_of(wanted.begin(), wanted.end(), [&](const QString& w) { return line.contains(w); }))
            shown.push_back(k);
    }
    const int row = table->currentRow();
    table->setRowCount(static_cast<int>(shown.size()));
    for (int r = 0; r < table->rowCount(); ++r) {
        const report::ListedPart& l = list.lines[shown[static_cast<std::size_t>(r)]];
        const QString& those = ids[shown[static_cast<std::size_t>(r)]];
        const QString cells[PartsColumn::count] = {
            text(l.words),
            those,
            l.metres ? QString("%1 m").arg(l.count, 0, 'f', 1) : QString::number(l.count),
            std::isfinite(l.mass) ? QString("%1 g").arg(l.mass * 1e3, 0, 'f', 0) : "",
            money(l.each),
            money(l.price())};
        for (int c = 0; c < PartsColumn::count; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            if (c != PartsColumn::each) item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setFont(c > PartsColumn::of ? theme::figures(theme::Size::Text) : theme::text(theme::Size::Text));
            if (c == PartsColumn::of) {
                item->setForeground(theme::color(theme::Role::BoneDim));
                item->setToolTip(those);
            }
            if (c > PartsColumn::of) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            table->setItem(r, c, item);
        }
    }
    if (table->rowCount()) table->setCurrentCell(std::clamp(row, 0, table->rowCount() - 1), PartsColumn::each);
    filling = false;
    const auto priced = list.lines.size() - static_cast<std::size_t>(list.unpriced);
    sums->setText(QString("%1 lines; %2 kg of them known%3")
                      .arg(list.lines.size())
                      .arg(list.mass, 0, 'f', 1)
                      .arg(priced ? QString("; total %1, %2 without a price").arg(money(list.price)).arg(list.unpriced)
                                  : QString("; type prices under \"price each\"")));
}

void PartsDialog::say(const QString& sentence, bool good) {
    answer->setText(sentence);
    answer->setStyleSheet("color:" + theme::color(good ? theme::Role::BoneDim : theme::Role::Ember).name());
}

void PartsDialog::take(QTableWidgetItem* item) {
    if (filling || item->column() != PartsColumn::each) return;
    const std::string line = list.lines[shown[static_cast<std::size_t>(item->row())]].words;
    const QString typed = item->text().trimmed().replace(',', '.');
    bool good = typed.isEmpty();
    const double price = good ? std::numeric_limits<double>::quiet_NaN() : typed.toDouble(&good);
    if (!good || price < 0 || price > 1e6) {
        say(QString("\"%1\" is no price: a number such as 4.50, or nothing").arg(item->text()), false);
        return refresh();
    }
    const bool known = std::isfinite(list.lines[shown[static_cast<std::size_t>(item->row())]].each);
    if (!std::isfinite(price) && !known) return;
    const auto done = document.edit(report::setPrice(document.build(), line, price));
    say(done ? text(line) + ": taken" : text(done.problem().text()), done.ok());
}

} // namespace ember::app
