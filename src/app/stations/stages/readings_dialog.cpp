#include "readings_dialog.h"

#include "matching_view.h"
#include "points_file.h"
#include "reading_rows.h"

#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::app {

using theme::Role;
using theme::Size;

ReadingsDialog::ReadingsDialog(Document& d, const std::string& bottle, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Valves as they were read");
    resize(1160, 660);
    auto* page = new QVBoxLayout(this);
    auto* tabs = new QHBoxLayout;
    page->addLayout(tabs);
    auto* views = new QStackedWidget;
    page->addWidget(views, 1);
    auto* pages = new QButtonGroup(this);
    for (const auto& [words, object] : {std::pair("one valve", "readingsOne"), {"matching", "readingsMatching"}}) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setProperty("tab", true);
        b->setCheckable(true);
        b->setChecked(pages->buttons().isEmpty());
        b->setAutoDefault(false);
        pages->addButton(b, static_cast<int>(pages->buttons().size()));
        tabs->addWidget(b);
    }
    tabs->addStretch();

    auto* one = new QWidget;
    auto* sides = new QHBoxLayout(one);
    sides->setContentsMargins(0, 0, 0, 0);
    auto* left = new QVBoxLayout;
    auto* head = new QHBoxLayout;
    valve = new QComboBox;
    valve->setObjectName("readingsValve");
    valve->setAccessibleName("Which valve");
    head->addWidget(valve, 1);
    const auto button = [&](QHBoxLayout* to, const char* words, const char* object, const char* tip) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setToolTip(tip);
        b->setAutoDefault(false);
        to->addWidget(b);
        return b;
    };
    auto* spare = button(head, "One more spare", "readingsSpare", "A valve of this type at hand, in no socket");
    left->addLayout(head);
    auto* note = label(
        "Volts to the cathode, as a tester or the meter in the socket gives them. A row for each reading; "
        "mA without a unit. Some old valves have radioactive paint or fillings: do not break them, and ask your local "
        "waste authority.",
        Size::Text, false, "dim");
    note->setWordWrap(true);
    left->addWidget(note);
    rows = new ReadingRows;
    left->addWidget(rows, 1);
    auto* under = new QHBoxLayout;
    auto* file =
        button(under, "From a file...", "readingsFile", "A curve tracer's table: CSV with heads and units, or JSON");
    auto* clear = button(under, "Clear", "readingsClear", "Every row away");
    under->addStretch();
    take = button(under, "Take over", "readingsTake", "The plan is computed with this valve as it was read");
    left->addLayout(under);
    sides->addLayout(left, 5);
    auto* right = new QVBoxLayout;
    plot = new QCustomPlot;
    plot->setMinimumWidth(520);
    new PlotTools(
        plot, [this] { return QString("%1 readings").arg(valve->currentText()); }, [this] { judge(); });
    right->addWidget(plot, 1);
    verdict = label("", Size::Text);
    verdict->setObjectName("readingsVerdict");
    verdict->setWordWrap(true);
    verdict->setMinimumHeight(96);
    verdict->setAlignment(Qt::AlignTop);
    right->addWidget(verdict);
    sides->addLayout(right, 6);
    views->addWidget(one);

    matching = new MatchingView(document);
    views->addWidget(matching);

    auto* foot = new QHBoxLayout;
    foot->addStretch();
    auto* close = button(foot, "Close", "readingsClose", "");
    page->addLayout(foot);

    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    connect(valve, &QComboBox::currentIndexChanged, this, &ReadingsDialog::showValve);
    connect(rows, &ReadingRows::edited, this, [this] {
        keepTyped();
        judge();
    });
    connect(clear, &QPushButton::clicked, this, [this] {
        rows->fill({});
        keepTyped();
        judge();
    });
    connect(spare, &QPushButton::clicked, this, [this] {
        const ValveType* type = catalogueOf(document.build()).valve(valveAt(document.build(), current()).type);
        if (!type || !document.edit(addSpare(document.build(), valveAt(document.build(), current()).type))) return;
        list();
        valve->setCurrentIndex(valve->count() - 1);
    });
    connect(file, &QPushButton::clicked, this, &ReadingsDialog::load);
    connect(take, &QPushButton::clicked, this, &ReadingsDialog::takeOver);
    connect(matching, &MatchingView::moved, this, [this] {
        pending.clear();
        showValve();
    });
    connect(pages, &QButtonGroup::idClicked, this, [this, views](int k) {
        views->setCurrentIndex(k);
        matching->show(current());
    });
    list();
    const auto& bottles = document.build().bottles;
    for (std::size_t k = 0; k < bottles.size(); ++k)
        if (bottles[k].id == bottle) valve->setCurrentIndex(static_cast<int>(k));
    showValve();
}

ValvePlace ReadingsDialog::current() const {
    const auto sockets = document.build().bottles.size();
    const auto at = static_cast<std::size_t>(std::max(0, valve->currentIndex()));
    return at < sockets ? ValvePlace{false, at} : ValvePlace{true, at - sockets};
}

void ReadingsDialog::list() {
    const QSignalBlocker quiet(valve);
    const int at = std::max(0, valve->currentIndex());
    valve->clear();
    const Build& b = document.build();
    for (const Valve& v : b.bottles) valve->addItem(QString("%1  %2").arg(tag(v.id), text(v.type)));
    for (const Valve& v : b.spares) valve->addItem(QString("%1  %2, spare").arg(tag(v.id), text(v.type)));
    valve->setCurrentIndex(std::min(at, valve->count() - 1));
}

void ReadingsDialog::showValve() {
    if (valve->count() == 0) return;
    const Valve& v = valveAt(document.build(), current());
    if (const ValveType* type = catalogueOf(document.build()).valve(v.type)) rows->suit(*type);
    const auto before = pending.find(current());
    rows->fill(before != pending.end() ? before->second : v.readings);
    judge();
    matching->show(current());
}

void ReadingsDialog::keepTyped() {
    if (const auto points = rows->typed()) pending[current()] = *points;
}

void ReadingsDialog::judge() {
    const ValveType* type = catalogueOf(document.build()).valve(valveAt(document.build(), current()).type);
    if (!type) return;
    const auto points = rows->typed();
    take->setEnabled(false);
    rows->showErrors({});
    const auto refuse = [&](const QString& why) {
        verdict->setText(coloured(Role::Stop, why));
        draw(*type, {}, nullptr);
    };
    if (!points) return refuse(text(points.problem().sentence));
    if (points->empty()) {
        verdict->setText(
            "No reading yet: plate and grid volts with the plate current, of a pentode the screen's volts. "
            "One reading tells the current; one at other plate volts the amplification; one at a tenth "
            "of the current the cut-off.");
        return draw(*type, {}, nullptr);
    }
    const auto found = readAs(*type, *points);
    if (!found) return refuse(text(found.problem().text()));
    rows->showErrors(found->errors);
    QStringList words;
    const ValveShares& s = found->shares;
    words << QString("Against an average %1: current %2, amplification %3, cut-off %4%5.")
                 .arg(text(type->type), percent(s.emission), percent(s.mu), percent(s.cutoff),
                      type->section(type->sections()).pentode ? ", screen " + percent(s.screen) : QString());
    words << QString("As such its model is %1 off the readings, an average valve's %2.")
                 .arg(percent(found->error), percent(found->averageError));
    for (const std::string& open : found->open) words << text(open);
    verdict->setText(words.join(" "));
    take->setEnabled(pending.count(current()) > 0);
    draw(*type, *points, &*found);
}

Expected<ReadValve> ReadingsDialog::readAs(const ValveType& type, const std::vector<ReadPoint>& points) const {
    const double accuracy = document.build().meter.dc + 0.01; // volts and current are both read
    return readValve(type, readingsOf(points), accuracy);
}

/// Plate curves of the average valve and of this one through each grid's volts that were read.
void ReadingsDialog::draw(const ValveType& type, const std::vector<ReadPoint>& points, const ReadValve* found) {
    plot->clearPlottables();
    plot->clearItems();
    theme::dress(*plot, "plate volts", "plate mA");
    if (!found) return plot->replot();
    double mostVolts = 0, mostAmps = 0;
    std::set<std::pair<int, std::pair<double, double>>> curves; // section, screen, grid
    for (const ReadPoint& p : points) {
        mostVolts = std::max(mostVolts, 1.25 * p.plate), mostAmps = std::max(mostAmps, 1.4 * p.plateAmps);
        if (curves.size() < 12) curves.insert({p.section, {p.screen, p.grid}});
    }
    std::set<double> screens;
    for (const auto& curve : curves) screens.insert(curve.second.first);
    bool named = false;
    for (const auto& [section, at] : curves) {
        for (const bool own : {false, true}) {
            const circuit::PortLaw law =
                own ? lawOf(type.section(section).law, found->shares) : type.section(section).law;
            QVector<double> x, y;
            for (int n = 1; n <= 120; ++n) {
                const double volts = mostVolts * n / 120;
                const double amps =
                    figuresAt(law, volts, at.second, at.first).plateAmps * (own ? found->shares.emission : 1);
                if (amps > mostAmps) break;
                x.push_back(volts), y.push_back(1e3 * amps);
            }
            auto* g = plot->addGraph();
            g->setData(x, y, true);
            g->setPen(QPen(theme::color(own ? Role::Verdigris : Role::Brass), own ? 1.8 : 1.2,
                           own ? Qt::SolidLine : Qt::DashLine));
            g->setName(!named ? (own ? "this valve" : "average") : "");
            if (!own || x.isEmpty()) continue;
            auto* word = new QCPItemText(plot);
            word->position->setCoords(x.back(), y.back());
            word->setPositionAlignment(Qt::AlignRight | Qt::AlignBottom);
            word->setText(text(at.second, Unit::Volt) +
                          (screens.size() > 1 ? ", screen " + text(at.first, Unit::Volt) : QString()));
            word->setFont(theme::figures(Size::Small));
            word->setColor(theme::color(Role::BoneDim));
        }
        named = true;
    }
    QVector<double> x, y;
    for (const ReadPoint& p : points) x.push_back(p.plate), y.push_back(1e3 * p.plateAmps);
    auto* read = plot->addGraph();
    read->setData(x, y);
    read->setLineStyle(QCPGraph::lsNone);
    read->setName("read");
    read->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssCircle, theme::color(Role::Bone), theme::color(Role::Bone), 7));
    plot->xAxis->setRange(0, mostVolts);
    plot->yAxis->setRange(0, 1e3 * mostAmps);
    auto* key = new QCPItemText(plot);
    key->position->setType(QCPItemPosition::ptAxisRectRatio);
    key->position->setCoords(0.02, 0.03);
    key->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    key->setText("this valve: full lines; an average one: dashed");
    key->setFont(theme::text(Size::Small));
    key->setColor(theme::color(Role::BoneDim));
    plot->replot();
}

void ReadingsDialog::load() {
    const QString path = QFileDialog::getOpenFileName(this, "Readings of a valve", {},
                                                      "Tables (*.csv *.txt *.tsv *.json);;All files (*)");
    if (path.isEmpty()) return;
    const auto read = pointsFromFile(path);
    if (!read) return verdict->setText(coloured(Role::Stop, text(read.problem().text())));
    std::vector<ReadPoint> points;
    for (const PublishedPoint& p : read->data.points) {
        ReadPoint r;
        r.plate = p.plate, r.screen = p.strapped ? p.plate : p.screen, r.grid = p.grid;
        r.plateAmps = p.plateAmps, r.screenAmps = p.screenAmps;
        points.push_back(r);
    }
    rows->fill(points);
    keepTyped();
    judge();
}

void ReadingsDialog::takeOver() {
    const ValvePlace place = current();
    const auto points = rows->typed();
    const ValveType* type = catalogueOf(document.build()).valve(valveAt(document.build(), place).type);
    if (!points || !type) return;
    const auto found = readAs(*type, *points);
    if (!found) return;
    if (const auto done = document.edit(keepReadings(document.build(), place, *points, *found)); !done)
        return verdict->setText(coloured(Role::Stop, text(done.problem().sentence)));
    pending.erase(place);
    showValve();
}

void ReadingsDialog::done(int result) {
    std::erase_if(pending, [&](const auto& p) {
        return p.second.empty() && valveAt(document.build(), p.first).readings.empty();
    });
    if (!pending.empty()) {
        QStringList names;
        for (const auto& [at, points] : pending) names << tag(valveAt(document.build(), at).id);
        QMessageBox ask(QMessageBox::Question, "Readings",
                        QString("The readings of %1 were not taken over.").arg(names.join(", ")), QMessageBox::NoButton,
                        this);
        auto* keep = ask.addButton("Take them over", QMessageBox::AcceptRole);
        ask.addButton("Leave them out", QMessageBox::DestructiveRole);
        auto* stay = ask.addButton("Stay here", QMessageBox::RejectRole);
        ask.exec();
        if (ask.clickedButton() == stay) return;
        if (ask.clickedButton() == keep) {
            for (const auto& [at, points] : pending) {
                const ValveType* type = catalogueOf(document.build()).valve(valveAt(document.build(), at).type);
                if (!type) continue;
                if (const auto found = readAs(*type, points))
                    (void)document.edit(keepReadings(document.build(), at, points, *found));
            }
        }
    }
    pending.clear();
    QDialog::done(result);
}

} // namespace ember::app
