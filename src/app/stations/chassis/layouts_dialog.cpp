#include "layouts_dialog.h"

#include "app/widgets/words.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/pins.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QtConcurrentRun>
#include <fmt/format.h>

#include <cmath>

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

QTableWidget* readOnlyTable(const QString& called) {
    auto* t = new QTableWidget;
    t->setAccessibleName(called);
    t->setSelectionBehavior(QAbstractItemView::SelectRows);
    t->setSelectionMode(QAbstractItemView::SingleSelection);
    t->verticalHeader()->hide();
    t->verticalHeader()->setMinimumSectionSize(18);
    t->setShowGrid(false);
    t->setTabKeyNavigation(false);
    return t;
}

} // namespace

LayoutsDialog::LayoutsDialog(Document& d, PlateView& p, QWidget* parent) : QDialog(parent), document(d), plate(p) {
    setWindowTitle("Layouts of these parts");
    setObjectName("layouts");
    resize(1080, 640);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(label("The chosen one lies over the plate as a dotted outline. Locked parts stay where they are "
                            "in every layout: lock with K what shall not move.",
                            Size::Text, false, "dim"));
    table = readOnlyTable("Layouts, compared");
    table->setObjectName("layoutTable");
    layout->addWidget(table, 5);
    layout->addWidget(label("Scores of the proposals: 0 is best, 1 is just acceptable", Size::Text, false, "dim"));
    scores = readOnlyTable("Scores of the proposals");
    scores->setObjectName("scoreTable");
    layout->addWidget(scores, 4);
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
    foot->addStretch();
    bar = new QProgressBar;
    bar->setObjectName("proposing");
    bar->setRange(0, 1000);
    bar->setFixedWidth(140);
    bar->setAccessibleName("Progress of the proposals");
    foot->addWidget(bar);
    stopButton = button("&Stop", "stopProposals", &LayoutsDialog::stop);
    proposeButton = button("&Propose three", "propose", &LayoutsDialog::propose);
    layout->addLayout(foot);
    layout->addWidget(answer = label("", Size::Text, false, "dim"));

    connect(table, &QTableWidget::itemSelectionChanged, this, &LayoutsDialog::showOver);
    connect(table, &QTableWidget::itemDoubleClicked, this, &LayoutsDialog::use);
    // Other schools are laid out anew for every layout: not while a part is being dragged.
    settled.setSingleShot(true);
    settled.setInterval(250);
    connect(&settled, &QTimer::timeout, this, &LayoutsDialog::refresh);
    connect(&plate, &PlateView::layoutChanged, &settled, qOverload<>(&QTimer::start));
    connect(this, &QDialog::finished, this, [this] { plate.overlay({}); });
    connect(&search, &QFutureWatcherBase::finished, this, &LayoutsDialog::arrived);
    ticking.setInterval(60);
    connect(&ticking, &QTimer::timeout, this, [this] { bar->setValue(static_cast<int>(1000 * share)); });
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
    return at >= 0 && at < static_cast<int>(rows.size()) ? &rows[static_cast<std::size_t>(at)] : nullptr;
}

void LayoutsDialog::refresh() {
    if (!isVisible() && !rows.empty()) return;
    const int at = std::max(0, table->currentRow());
    Build b = document.build();
    b.chassis = plate.shown();
    rows.clear();
    rows.push_back({Row::Kind::Now, "as it is now", placesOf(b.chassis), 0});
    for (std::size_t k = 0; k < b.chassis.kept.size(); ++k)
        rows.push_back({Row::Kind::Kept, "kept: " + text(b.chassis.kept[k].name), b.chassis.kept[k].places, k});
    for (School& s : schoolsOf(b)) rows.push_back({Row::Kind::School, text(s.instead), std::move(s.places), 0});
    for (std::size_t k = 0; k < proposals.size(); ++k)
        rows.push_back({Row::Kind::Proposal, "proposed: " + text(proposals[k].name), proposals[k].places, k});

    const QSignalBlocker quiet(table);
    const QStringList heads{"layout",
                            "misfits",
                            "hum pickup",
                            "at, from",
                            "hum at inputs",
                            "hum into output transformer",
                            "input lead",
                            "length of signal path",
                            "hottest capacitor",
                            "centre of mass off"};
    table->setColumnCount(static_cast<int>(heads.size()));
    table->setHorizontalHeaderLabels(heads);
    table->setRowCount(static_cast<int>(rows.size()));
    LayoutSolver solver;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        Build other = b;
        other.chassis = withPlaces(b.chassis, rows[k].places);
        const LayoutSummary s = summarise(other, solver.solve(other, Catalogue::shipped(), document.figures()));
        const QStringList words{rows[k].name,
                                QString::number(s.misfits),
                                QString("%1 dB").arg(s.exposureDb, 0, 'f', 1),
                                s.victim.empty() ? QString() : text(s.victim + " from " + s.strongestSource),
                                QString("%1 dB").arg(s.inputDb, 0, 'f', 1),
                                QString("%1 dB").arg(s.couplingDb, 0, 'f', 1),
                                QString("%1 mm").arg(s.inputLead * 1e3, 0, 'f', 0),
                                QString("%1 mm").arg(s.signalLength * 1e3, 0, 'f', 0),
                                QString("%1 °C").arg(std::max(0.0, s.hottestCan - 273.15), 0, 'f', 0),
                                QString("%1 mm").arg(s.offCentre * 1e3, 0, 'f', 0)};
        for (int column = 0; column < words.size(); ++column)
            table->setItem(static_cast<int>(k), column, cell(words[column], column > 0));
    }
    table->resizeColumnsToContents();
    table->resizeRowsToContents();
    table->selectRow(std::min(at, table->rowCount() - 1));
    fillScores();
    showOver();
}

void LayoutsDialog::fillScores() {
    scores->setVisible(!proposals.empty());
    if (proposals.empty()) return;
    QStringList heads{"term"};
    for (const Proposal& p : proposals) heads << text(p.name);
    heads << "as it is now";
    scores->setColumnCount(static_cast<int>(heads.size()));
    scores->setHorizontalHeaderLabels(heads);
    scores->setRowCount(static_cast<int>(termCount));
    Build b = document.build();
    b.chassis = plate.shown();
    const Scores now = Sketch(b, Catalogue::shipped(), document.figures()).scores();
    for (std::size_t t = 0; t < termCount; ++t) {
        const int row = static_cast<int>(t);
        scores->setItem(row, 0, cell(termNames[t], false));
        for (std::size_t k = 0; k < proposals.size(); ++k)
            scores->setItem(row, static_cast<int>(k) + 1, cell(QString::number(proposals[k].scores[t], 'f', 2)));
        scores->setItem(row, static_cast<int>(proposals.size()) + 1, cell(QString::number(now[t], 'f', 2)));
    }
    scores->resizeColumnsToContents();
    scores->resizeRowsToContents();
}

void LayoutsDialog::showOver() {
    const Row* row = chosen();
    const bool other = row && row->kind != Row::Kind::Now;
    plate.overlay(other ? row->places : std::vector<Standing>{});
    useButton->setEnabled(other);
    forgetButton->setEnabled(row && row->kind == Row::Kind::Kept);
}

void LayoutsDialog::use() {
    const Row* row = chosen();
    if (!row || row->kind == Row::Kind::Now) return;
    const Row wanted = *row;
    const std::string called = "layout: " + wanted.name.toStdString();
    Edit edit = usePlaces(called, document.build().chassis, wanted.places);
    if (wanted.kind == Row::Kind::Proposal) { // its sockets are turned to suit it
        std::vector<Edit> all{edit};
        Build so = document.build();
        so.chassis = withPlaces(so.chassis, wanted.places);
        for (const PinView& v : pinViews(so, Catalogue::shipped()))
            if (!so.chassis.parts[v.part].locked)
                all.push_back(setValue("", fmt::format("/chassis/parts/{}/pinOne", v.part), v.pinOne));
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

void LayoutsDialog::propose() {
    if (search.isRunning()) return;
    const Build& b = document.build();
    if (std::all_of(b.chassis.parts.begin(), b.chassis.parts.end(), [](const PlacedPart& p) { return p.locked; })) {
        answer->setText("Every part is locked, or none stands on the plate: there is nothing to move.");
        return;
    }
    stopping = std::stop_source();
    asked = document.revisionNow();
    share = 0;
    bar->setValue(0);
    bar->show();
    stopButton->show();
    proposeButton->setEnabled(false);
    ticking.start();
    answer->setText("Searching for layouts ...");
    search.setFuture(
        QtConcurrent::run([this, start = Sketch(b, Catalogue::shipped(), document.figures()),
                           misfits = trueMisfits(b, document.figures()), token = stopping.get_token(), from = seed++] {
            ProposalOptions options;
            options.seed = from;
            options.misfits = misfits;
            options.progress = [this](double s) { share = s; };
            options.stop = token;
            return proposeThree(start, options);
        }));
}

void LayoutsDialog::stop() {
    stopping.request_stop();
}

void LayoutsDialog::arrived() {
    ticking.stop();
    bar->hide();
    stopButton->hide();
    proposeButton->setEnabled(true);
    auto found = search.result();
    if (asked != document.revisionNow()) return answer->setText("The build changed meanwhile: ask again.");
    if (found.empty()) {
        answer->setText("Stopped; nothing was changed.");
        return;
    }
    proposals = std::move(found);
    answer->setText("Three proposals. Use one, or lock what you like of it and ask again.");
    refresh();
    table->selectRow(table->rowCount() - 3);
}

} // namespace ember::app
