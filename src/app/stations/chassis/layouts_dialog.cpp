#include "layouts_dialog.h"

#include "layout_picture.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/pins.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember::app {

using namespace chassis;
using theme::Size;

namespace {

QTableWidgetItem* cell(const QString& words, bool figures = true) {
    auto* item = new QTableWidgetItem(words);
    item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    if (figures) {
        item->setFont(theme::figures(Size::Small));
        item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    }
    return item;
}

/// What a column shows, from one layout's summary; less is better in all of them.
struct Column {
    const char* head;
    const char* unit;
    int decimals;
    double (*value)(const LayoutSummary& s);
};
constexpr std::array columns{
    Column{"misfits", "", 0, [](const LayoutSummary& s) { return static_cast<double>(s.misfits); }},
    Column{"hum pickup", " dB", 1, [](const LayoutSummary& s) { return s.exposureDb; }},
    Column{"hum at inputs", " dB", 1, [](const LayoutSummary& s) { return s.inputDb; }},
    Column{"into output iron", " dB", 1, [](const LayoutSummary& s) { return s.couplingDb; }},
    Column{"input lead", " mm", 0, [](const LayoutSummary& s) { return s.inputLead * 1e3; }},
    Column{"signal path", " mm", 0, [](const LayoutSummary& s) { return s.signalLength * 1e3; }},
    Column{"hottest can", " °C", 0, [](const LayoutSummary& s) { return std::max(0.0, s.hottestCan - 273.15); }},
    Column{"mass off centre", " mm", 0, [](const LayoutSummary& s) { return s.offCentre * 1e3; }}};
constexpr int pickup = 2; // column of the hum pickup, where its victim stands in the tip

/// "400 x 250 mm", "none".
QString signedNumber(double v, int decimals) {
    return (v > 0 ? "+" : "") + QString::number(v, 'f', decimals);
}

QString plateWords(const arrange::Extent& e) {
    return e.width > 0 ? QString("%1 x %2 mm").arg(e.width * 1e3, 0, 'f', 0).arg(e.depth * 1e3, 0, 'f', 0) : "none";
}

} // namespace

LayoutsDialog::LayoutsDialog(Document& d, PlateView& p, QWidget* parent) : QDialog(parent), document(d), plate(p) {
    setWindowTitle("Layouts of these parts");
    setObjectName("layouts");
    resize(1080, 640);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(
        label("The chosen one lies over the plate as a dotted outline; with Ctrl a second one is compared "
              "with it. Locked parts stay where they are in every layout: lock with K what shall not move.",
              Size::Text, false, "dim"));
    table = new QTableWidget;
    table->setAccessibleName("Layouts, compared");
    table->setObjectName("layoutTable");
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    table->verticalHeader()->hide();
    table->setIconSize(pictureSize);
    table->setShowGrid(false);
    table->setTabKeyNavigation(false);
    table->horizontalHeader()->setSectionsClickable(true);
    table->horizontalHeader()->setToolTip("Sorts by this figure; again: the other way round");
    connect(table->horizontalHeader(), &QHeaderView::sectionClicked, this, &LayoutsDialog::sortBy);
    layout->addWidget(table, 1);
    layout->addWidget(over = new QLabel);
    over->setObjectName("layoutsOver");
    over->setAccessibleName("Two layouts over each other");
    over->setAlignment(Qt::AlignCenter);
    over->hide();
    layout->addWidget(remark = label("", Size::Text, false, "dim"));
    remark->setObjectName("layoutRemark");
    remark->setWordWrap(true);
    auto* foot = new QHBoxLayout;
    const auto button = [&](const char* words, const char* id, void (LayoutsDialog::*does)()) {
        auto* b = new QPushButton(words);
        b->setObjectName(id);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, does);
        foot->addWidget(b);
        return b;
    };
    useButton = button("&Use this one", "useLayout", &LayoutsDialog::use);
    name = new QLineEdit;
    name->setObjectName("layoutName");
    name->setPlaceholderText("a name to keep it by");
    name->setAccessibleName("A name to keep the chosen layout by");
    name->setFixedWidth(180);
    foot->addWidget(name);
    keepButton = button("&Keep", "keepLayout", &LayoutsDialog::keep);
    connect(name, &QLineEdit::returnPressed, this, &LayoutsDialog::keep);
    forgetButton = button("&Forget", "forgetLayout", &LayoutsDialog::forget);
    everyOne = new QCheckBox("&All arrangements");
    everyOne->setObjectName("allArrangements");
    everyOne->setToolTip("Also those that are like another, or need another plate");
    connect(everyOne, &QCheckBox::toggled, this, &LayoutsDialog::refresh);
    foot->addWidget(everyOne);
    foot->addStretch();
    bar = new QProgressBar;
    bar->setObjectName("proposing");
    bar->setRange(0, 1000);
    bar->setFixedWidth(140);
    bar->setAccessibleName("Progress of the arrangements");
    foot->addWidget(bar);
    stopButton = button("&Stop", "stopProposals", &LayoutsDialog::stop);
    proposeButton = button("&Propose arrangements", "propose", &LayoutsDialog::propose);
    layout->addLayout(foot);
    layout->addWidget(answer = label("", Size::Text, false, "dim"));

    connect(table, &QTableWidget::itemSelectionChanged, this, &LayoutsDialog::showOver);
    connect(table, &QTableWidget::itemDoubleClicked, this, &LayoutsDialog::use);
    // Other schools are laid out anew for every layout: not while a part is being dragged.
    settled.setSingleShot(true);
    settled.setInterval(250);
    connect(&settled, &Timer::timeout, this, &LayoutsDialog::refresh);
    connect(&document, &Document::opened, this, [this] { arranged.clear(); }); // they were of other parts
    connect(&plate, &PlateView::layoutChanged, &settled, qOverload<>(&Timer::start));
    connect(this, &QDialog::finished, this, [this] { plate.overlay({}); });
    connect(&search, &QFutureWatcherBase::finished, this, &LayoutsDialog::arrived);
    ticking.setInterval(60);
    connect(&ticking, &Timer::timeout, this, [this] { bar->setValue(static_cast<int>(1000 * share)); });
    bar->hide();
    stopButton->hide();
    refresh();
}

LayoutsDialog::~LayoutsDialog() {
    stopping.request_stop();
    search.waitForFinished();
}

const LayoutsDialog::Row* LayoutsDialog::chosen() const {
    const int at = table->currentRow();
    return at >= 0 && at < static_cast<int>(order.size()) ? &rows[order[static_cast<std::size_t>(at)]] : nullptr;
}

void LayoutsDialog::choose(int row) {
    table->selectionModel()->setCurrentIndex(table->model()->index(row, 0),
                                             QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
}

void LayoutsDialog::choose(const QString& called) {
    for (std::size_t k = 0; k < order.size(); ++k)
        if (rows[order[k]].name == called) choose(static_cast<int>(k));
}

void LayoutsDialog::refresh() {
    if (!isVisible() && !rows.empty()) return;
    const Row* was = chosen();
    const QString before = was ? was->name : QString();
    Build b = document.build();
    b.chassis = plate.shown();
    rows.clear();
    rows.push_back({Row::Kind::Now, "as it is now", placesOf(b.chassis), 0});
    for (std::size_t k = 0; k < b.chassis.kept.size(); ++k)
        rows.push_back({Row::Kind::Kept, "kept: " + text(b.chassis.kept[k].name), b.chassis.kept[k].places, k});
    for (School& s : schoolsOf(b)) rows.push_back({Row::Kind::School, text(s.instead), std::move(s.places), 0});
    for (const std::size_t k : shownArrangements())
        rows.push_back({Row::Kind::Arrangement, text(arranged[k].family->title), arranged[k].places, k});
    LayoutSolver solver;
    for (Row& row : rows) {
        Build other = b;
        other.chassis = withPlaces(b.chassis, row.places);
        const LayoutFigures f = solver.solve(other, catalogueOf(other), document.figures());
        const LayoutSummary s = summarise(other, f);
        for (const Column& c : columns) row.figures.push_back(c.value(s));
        if (!s.victim.empty()) row.pickup = text("at " + s.victim + ", from " + s.strongestSource);
        row.picture = pictureOf(other, f);
    }
    fill();
    choose(before);
    if (table->currentRow() < 0) choose(0);
    showOver();
}

std::vector<std::size_t> LayoutsDialog::shownArrangements() const {
    std::vector<std::size_t> all(arranged.size());
    std::iota(all.begin(), all.end(), 0);
    std::stable_sort(all.begin(), all.end(),
                     [&](std::size_t a, std::size_t b) { return arrange::better(arranged[a], arranged[b]); });
    if (everyOne->isChecked()) return all;
    std::vector<std::size_t> shown;
    constexpr std::size_t atFirst = 5;
    constexpr double apart = 0.02; // [m] on average: nearer ones are alike
    for (const std::size_t k : all)
        if (shown.size() < atFirst && std::all_of(shown.begin(), shown.end(), [&](std::size_t other) {
                return meanShift(arranged[k].places, arranged[other].places) > apart;
            }))
            shown.push_back(k);
    return shown;
}

void LayoutsDialog::sortBy(int column) {
    downwards = column == sortColumn && !downwards;
    sortColumn = column;
    const Row* row = chosen();
    const QString keep = row ? row->name : QString();
    fill();
    choose(keep);
    showOver();
}

void LayoutsDialog::fill() {
    order.resize(rows.size());
    std::iota(order.begin(), order.end(), 0);
    if (sortColumn > 0) // the present layout stays on top, to compare with
        std::stable_sort(order.begin() + 1, order.end(), [&](std::size_t a, std::size_t b) {
            const auto at = static_cast<std::size_t>(sortColumn - 1);
            return downwards ? rows[b].figures[at] < rows[a].figures[at] : rows[a].figures[at] < rows[b].figures[at];
        });
    const QSignalBlocker quiet(table);
    QStringList heads{"layout"};
    for (const Column& c : columns) heads << c.head;
    table->setColumnCount(static_cast<int>(heads.size()));
    table->setHorizontalHeaderLabels(heads);
    table->horizontalHeader()->setSortIndicatorShown(sortColumn > 0);
    table->horizontalHeader()->setSortIndicator(sortColumn, downwards ? Qt::DescendingOrder : Qt::AscendingOrder);
    table->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t k = 0; k < order.size(); ++k) {
        const Row& row = rows[order[k]];
        const int line = static_cast<int>(k);
        auto* title = cell(row.name, false);
        title->setIcon(QIcon(row.picture));
        table->setItem(line, 0, title);
        for (std::size_t c = 0; c < columns.size(); ++c) {
            const int column = static_cast<int>(c) + 1;
            auto* item = cell(QString::number(row.figures[c], 'f', columns[c].decimals) + columns[c].unit);
            if (column == pickup) item->setToolTip(row.pickup);
            table->setItem(line, column, item);
        }
        table->setRowHeight(line, pictureSize.height() + 8);
    }
    table->resizeColumnsToContents();
}

const LayoutsDialog::Row* LayoutsDialog::other() const {
    const auto selected = table->selectionModel()->selectedRows();
    if (selected.size() != 2) return nullptr;
    for (const QModelIndex& at : selected)
        if (at.row() != table->currentRow() && at.row() < static_cast<int>(order.size()))
            return &rows[order[static_cast<std::size_t>(at.row())]];
    return nullptr;
}

/// The first as it would stand, the other's outlines over it, and what changes from one to the other.
void LayoutsDialog::compare(const Row& row, const Row& with) {
    Build b = document.build();
    b.chassis = withPlaces(plate.shown(), row.places);
    LayoutSolver solver;
    over->setPixmap(pictureOf(b, solver.solve(b, catalogueOf(b), document.figures()), {480, 300}, with.places));
    QStringList changes;
    for (std::size_t c = 0; c < columns.size(); ++c) {
        const double change = with.figures[c] - row.figures[c];
        if (!std::isfinite(change) || std::abs(change) < 0.5 * std::pow(10.0, -columns[c].decimals)) continue;
        changes << QString("%1 %2%3%4")
                       .arg(columns[c].head, change > 0 ? "+" : "")
                       .arg(change, 0, 'f', columns[c].decimals)
                       .arg(columns[c].unit);
    }
    remark->setText(
        QString("From \"%1\" to \"%2\" (outlines): %3.")
            .arg(row.name, with.name, changes.isEmpty() ? QString("no figure changes") : changes.join(", ")));
}

void LayoutsDialog::showOver() {
    const Row* row = chosen();
    const Row* second = other();
    over->setVisible(row && second);
    if (row && second) return compare(*second, *row); // the one that was there first, then the one just added
    const bool elsewhere = row && row->kind != Row::Kind::Now;
    plate.overlay(elsewhere ? row->places : std::vector<Standing>{});
    useButton->setEnabled(elsewhere);
    forgetButton->setEnabled(row && row->kind == Row::Kind::Kept);
    QString words;
    if (row && row->kind == Row::Kind::Arrangement) {
        const auto& a = arranged[row->index];
        if (a.least.width > 0)
            words = QString("Smallest plate%1 %2; of the usual ones %3, with a fifth to spare for later changes %4. ")
                        .arg(a.family->below ? "s: two of" : "", plateWords(a.least), plateWords(a.usual),
                             plateWords(a.roomy));
        words += text(a.words);
        if (a.misfits == 0 && std::isfinite(a.overFreeDb))
            words += QString("Against the best that was found without rules: %1 dB of pickup, %2 mm of signal path.")
                         .arg(signedNumber(a.overFreeDb, 1), signedNumber(1e3 * a.overFreeLength, 0));
    } else if (row && !row->pickup.isEmpty()) {
        words = "Most hum pickup " + row->pickup + ".";
    }
    remark->setText(words);
}

void LayoutsDialog::use() {
    const Row* row = chosen();
    if (!row || row->kind == Row::Kind::Now) return;
    const Row wanted = *row;
    const std::string called = "layout: " + wanted.name.toStdString();
    Edit edit = usePlaces(called, document.build().chassis, wanted.places);
    if (wanted.kind == Row::Kind::Arrangement) { // its sockets are turned to suit it
        std::vector<Edit> all{edit};
        Build so = document.build();
        so.chassis = withPlaces(so.chassis, wanted.places);
        for (Edit& turn : socketTurns(so, catalogueOf(so))) all.push_back(std::move(turn));
        edit = together(called, all);
    }
    const auto done = document.edit(edit);
    answer->setText(done ? "The parts are placed so; Ctrl+Z undoes it." : text(done.problem().text()));
}

void LayoutsDialog::keep() {
    const Row* row = chosen();
    if (!row) return;
    const QString called = name->text().trimmed();
    if (called.isEmpty()) {
        answer->setText("Type a name to keep it by, then Enter.");
        return name->setFocus();
    }
    const auto done = document.edit(keepLayout(document.build(), called.toStdString(), row->places));
    answer->setText(done ? "Kept as \"" + called + "\"." : text(done.problem().text()));
    if (done) name->clear();
    refresh();
}

void LayoutsDialog::forget() {
    const Row* row = chosen();
    if (!row || row->kind != Row::Kind::Kept) return;
    const auto done = document.edit(
        removeAt("forget the layout " + row->name.mid(6).toStdString(), fmt::format("/chassis/kept/{}", row->index)));
    answer->setText(done ? "Forgotten; Ctrl+Z brings it back." : text(done.problem().text()));
    refresh();
}

} // namespace ember::app
