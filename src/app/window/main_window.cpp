#include "main_window.h"

#include "ember_line.h"
#include "findings_panel.h"
#include "log_line.h"
#include "notice_strip.h"
#include "parts_dialog.h"
#include "path_view.h"
#include "shortcuts.h"
#include "start_dialog.h"
#include "values_sheet.h"

#include "app/stations/bias_station.h"
#include "app/stations/chassis/chassis_station.h"
#include "app/stations/first_power_station.h"
#include "app/stations/logbook_station.h"
#include "app/stations/measure_station.h"
#include "app/stations/stages/stages_station.h"
#include "app/stations/supply/supply_station.h"
#include "app/stations/wires/grounds_station.h"
#include "app/stations/wires/heaters_station.h"
#include "app/stations/wires/wiring_station.h"
#include "app/theme/recolour.h"
#include "core/base/embedded.h"
#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/diagnose/faults.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QScreen>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QTimer>

namespace ember::app {

MainWindow::MainWindow(const QString& stateFolder, QWidget* parent) : QMainWindow(parent), doc(stateFolder) {
    auto* whole = new QWidget;
    auto* column = new QVBoxLayout(whole);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(line = new EmberLine(doc));
    column->addWidget(new NoticeStrip(doc));
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(path = new PathView);
    table = new QStackedWidget;
    middle->addWidget(table, 1);
    middle->addWidget(findings = new FindingsPanel(doc));
    column->addLayout(middle, 1);
    column->addWidget(log = new LogLine(doc));
    setCentralWidget(whole);
    stations = {entry<ChassisStation>(), entry<SupplyStation>(), entry<StagesStation>(),     entry<HeatersStation>(),
                entry<GroundsStation>(), entry<WiringStation>(), entry<FirstPowerStation>(), entry<BiasStation>(),
                entry<MeasureStation>(), entry<LogbookStation>()};
    std::vector<StationName> names;
    for (std::size_t k = 0; k < stations.size(); ++k) {
        names.push_back(stations[k].name);
        table->addWidget(new QWidget); // until the station is made
        auto* s = new QShortcut(QKeySequence(QString("Alt+%1").arg((k + 1) % 10)), this);
        connect(s, &QShortcut::activated, this, [this, k] { go(static_cast<int>(k)); });
    }
    path->setStations(names);
    connect(path, &PathView::chosen, this, [this](int k) { go(k); });
    connect(line, &EmberLine::chosen, this, [this](const QString& id) { go(id); });
    connect(findings, &FindingsPanel::said, log, &LogLine::say);
    connect(&doc, &Document::trouble, log, [this](const QString& s) { log->say(s, false); });
    connect(&doc, &Document::fileChanged, this, &MainWindow::refreshTitle);
    connect(&doc, &Document::figuresChanged, this, [this] {
        refreshPath();
        if (!doc.figures().failures.empty()) log->say(QString::fromStdString(doc.figures().failures.front()), false);
    });
    connect(&doc, &Document::logChanged, this, &MainWindow::refreshPath);
    const auto key = [this](const char* keys, auto f) {
        connect(new QShortcut(QKeySequence(keys), this), &QShortcut::activated, this, f);
    };
    key("Ctrl+L", [this] { log->entry()->setFocus(); });
    key("F8", [this] {
        const int step = procedure::currentStage(doc.build(), doc.strand());
        doc.switchedOff(std::min(step, procedure::stageCount - 1));
        log->say("The discharge clock runs: pull the plug, wait, measure every capacitor.", true);
    });
    key("F6", [this] { findings->setVisible(!findings->isVisible()); });
    key("?", [this] { showShortcuts(); });
    key("F1", [this] { showShortcuts(); });
    buildMenus();
    // No larger than the screen leaves free, frame and all.
    const QRect free = screen()->availableGeometry();
    constexpr int frame = 40;
    resize(std::min(1280, free.width()), std::min(800, free.height() - frame));
    QSettings settings;
    restoreGeometry(settings.value("window/geometry").toByteArray());
    go("supply");
}

void MainWindow::buildMenus() {
    const auto add = [this](QMenu* m, const QString& text, const QKeySequence& keys, auto f) {
        QAction* a = m->addAction(text);
        a->setShortcut(keys);
        connect(a, &QAction::triggered, this, f);
        return a;
    };
    QMenu* file = menuBar()->addMenu("&Build");
    add(file, "&New", QKeySequence::New, [this] { newBuild(); });
    add(file, "&Open...", QKeySequence::Open, [this] {
        if (!mayClose()) return;
        const QString f =
            QFileDialog::getOpenFileName(this, "Open a build", {}, "Builds (*.ember.json);;All files (*)");
        if (!f.isEmpty()) openFile(f);
    });
    recent = file->addMenu("Open &recent");
    fillRecent();
    add(file, "Open the &demo", {}, [this] {
        if (mayClose()) openDemo();
    });
    file->addSeparator();
    add(file, "&Save", QKeySequence::Save, [this] { save(); });
    add(file, "Save &as...", QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); });
    add(file, "Parts &list...", QKeySequence("Ctrl+Shift+L"), [this] { (new PartsDialog(doc, this))->show(); });
    file->addSeparator();
    add(file, "&Quit", QKeySequence::Quit, [this] { close(); });
    QMenu* edit = menuBar()->addMenu("&Edit");
    QAction* undo = doc.undoStack().createUndoAction(this, "&Undo");
    undo->setShortcut(QKeySequence::Undo);
    edit->addAction(undo);
    QAction* redo = doc.undoStack().createRedoAction(this, "&Redo");
    redo->setShortcuts({QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")});
    edit->addAction(redo);
    edit->addSeparator();
    add(edit, "Every &value...", QKeySequence("Ctrl+E"), [this] { showValues(); });
    QMenu* view = menuBar()->addMenu("&View");
    add(view, "D&usk", {}, [this] { applyTheme(0); });
    add(view, "Day&light", {}, [this] { applyTheme(1); });
    add(view, "&Findings", {}, [this] { findings->setVisible(!findings->isVisible()); });
    QMenu* practice = menuBar()->addMenu("&Practice");
    connect(practice, &QMenu::aboutToShow, this, [this, practice, add] {
        practice->clear();
        if (doc.practising()) {
            add(practice, "Turn the practice bench &off", {}, [this] { doc.stopPractice(); });
            return;
        }
        add(practice, "A &healthy amplifier", {},
            [this] { doc.startPractice(QDateTime::currentSecsSinceEpoch() % 10000 + 1, {}); });
        add(practice, "A hidden &fault", {}, [this] {
            const auto all = diagnose::faultsOf(doc.build(), catalogueOf(doc.build()));
            const auto seed = static_cast<quint64>(QDateTime::currentMSecsSinceEpoch());
            if (!all.empty())
                doc.startPractice(seed % 10000 + 1, QString::fromStdString(all[seed / 7 % all.size()].id));
        });
        QMenu* known = practice->addMenu("A &known fault");
        for (const auto& f : diagnose::faultsOf(doc.build(), catalogueOf(doc.build())))
            if (f.common) // several hundred would not fit a menu; the hidden one is any of them
                add(known, QString::fromStdString(f.sentence), {},
                    [this, id = QString::fromStdString(f.id)] { doc.startPractice(1, id); });
    });
    connect(&doc, &Document::practiceChanged, this, &MainWindow::refreshTitle);
    QMenu* help = menuBar()->addMenu("&Help");
    add(help, "&Keys", {}, [this] { showShortcuts(); });
}

int MainWindow::indexOf(const QString& id) const {
    for (std::size_t k = 0; k < stations.size(); ++k)
        if (id == stations[k].name.id) return static_cast<int>(k);
    return -1;
}

Station* MainWindow::station(int index) {
    if (index < 0 || index >= stationCount()) return nullptr;
    Entry& e = stations[static_cast<std::size_t>(index)];
    if (!e.made) {
        e.made = e.make(doc);
        connect(e.made, &Station::said, log, &LogLine::say);
        connect(e.made, &Station::valuesWanted, this, &MainWindow::showValues);
        connect(e.made, &Station::capturesWanted, this, [this](const QString& file, const QString& hash) {
            go(MeasureStation::called.id);
            station<MeasureStation>()->lookAgain(doc.capturesFolder(), {file.toStdString(), hash.toStdString()});
        });
        QWidget* instead = table->widget(index);
        table->insertWidget(index, e.made);
        table->removeWidget(instead);
        delete instead;
        refreshPath();
    }
    return e.made;
}

/// One in each turn of the event loop, so that a key pressed meanwhile is answered.
void MainWindow::makeNextStation() {
    for (int k = 0; k < stationCount(); ++k)
        if (!stations[static_cast<std::size_t>(k)].made) {
            station(k);
            QTimer::singleShot(0, this, &MainWindow::makeNextStation);
            return;
        }
}

void MainWindow::showEvent(QShowEvent* e) {
    QMainWindow::showEvent(e);
    QTimer::singleShot(100, this, &MainWindow::makeNextStation);
}

void MainWindow::go(const QString& id) {
    go(indexOf(id));
}

void MainWindow::go(int k) {
    Station* s = station(k);
    if (!s) return;
    table->setCurrentIndex(k);
    path->setCurrent(k);
    findings->showFor(s->id, s->sidePanel());
    s->arrive();
}

void MainWindow::refreshPath() {
    std::vector<double> shares;
    for (const Entry& e : stations) shares.push_back(e.made ? e.made->shareDone() : 0);
    path->refresh(shares, doc.findings());
}

void MainWindow::refreshTitle() {
    const QString name = QString::fromStdString(doc.build().name);
    setWindowTitle(QString("%1%2%3 - Dim Ember")
                       .arg(name, doc.modified() ? " *" : "", doc.practising() ? " (practice bench on)" : ""));
    setWindowModified(false);
}

void MainWindow::applyTheme(int mode) {
    QSettings().setValue("theme", mode);
    const theme::Mode before = theme::mode();
    theme::apply(*qApp, mode == 1 ? theme::Mode::Daylight : theme::Mode::Dusk);
    theme::recolour(*this, before);
    // Charts are drawn anew with the figures.
    Q_EMIT doc.figuresChanged();
    Q_EMIT doc.logChanged();
    const int here = table->currentIndex();
    findings->showFor({}, nullptr);
    go(here);
    for (QWidget* w : findChildren<QWidget*>()) w->update();
}

void MainWindow::openDemo() {
    auto b = fromText(embedded::text("larkfield.ember.json"));
    if (b)
        doc.setBuild(*b, {});
    else
        log->say(QString::fromStdString(b.problem().text()), false);
}

void MainWindow::newBuild() {
    if (!mayClose()) return;
    StartDialog dialog(this);
    if (dialog.exec() != QDialog::Accepted || !dialog.chosen()) return;
    doc.setBuild(begunFrom(*dialog.chosen()), {});
    log->say(QString("new, begun from \"%1\": Ctrl+E lists every value to change")
                 .arg(QString::fromStdString(dialog.chosen()->build.name)),
             true);
    go("stages");
}

bool MainWindow::openFile(const QString& f) {
    const auto done = doc.open(f);
    if (!done) {
        log->say(QString::fromStdString(done.problem().text()), false);
        return false;
    }
    remember(f);
    return true;
}

bool MainWindow::save() {
    if (doc.file().isEmpty()) return saveAs();
    const auto done = doc.save(doc.file());
    log->say(done ? "saved: " + doc.file() : QString::fromStdString(done.problem().text()), done.ok());
    if (done) remember(doc.file());
    return done.ok();
}

bool MainWindow::saveAs() {
    QString f = QFileDialog::getSaveFileName(this, "Save the build",
                                             QString::fromStdString(doc.build().name).toLower() + ".ember.json",
                                             "Builds (*.ember.json)");
    if (f.isEmpty()) return false;
    if (!f.endsWith(".ember.json")) f += ".ember.json";
    const auto done = doc.save(f);
    log->say(done ? "saved: " + f : QString::fromStdString(done.problem().text()), done.ok());
    if (done) remember(f);
    return done.ok();
}

void MainWindow::remember(const QString& f) {
    QSettings settings;
    QStringList all = settings.value("recent").toStringList();
    all.removeAll(f);
    all.prepend(f);
    while (all.size() > 8) all.removeLast();
    settings.setValue("recent", all);
    fillRecent();
}

void MainWindow::fillRecent() {
    recent->clear();
    for (const QString& f : QSettings().value("recent").toStringList())
        connect(recent->addAction(f), &QAction::triggered, this, [this, f] {
            if (mayClose()) openFile(f);
        });
    recent->setEnabled(!recent->isEmpty());
}

bool MainWindow::mayClose() {
    if (!doc.modified()) return true;
    QMessageBox box(QMessageBox::NoIcon, "Unsaved changes",
                    QString("%1 has changes that are not saved.").arg(QString::fromStdString(doc.build().name)),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setDefaultButton(QMessageBox::Save);
    const int answer = box.exec();
    if (answer == QMessageBox::Save) return save();
    return answer == QMessageBox::Discard;
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!mayClose()) return e->ignore();
    QSettings().setValue("window/geometry", saveGeometry());
    doc.discardJournal();
    e->accept();
}

void MainWindow::offerRecovery() {
    for (const Recovered& left : doc.leftBehind()) {
        QString words =
            QString("%1 was not closed properly. %2 change(s) are kept, the last: \"%3\". Open it as it was?")
                .arg(QString::fromStdString(left.build.name))
                .arg(left.edits)
                .arg(QString::fromStdString(left.lastEdit));
        if (left.unread > 0) words += QString("\n%1 line(s) of its journal could not be read.").arg(left.unread);
        QMessageBox box(QMessageBox::NoIcon, "Unsaved work was found", words, QMessageBox::Yes | QMessageBox::No, this);
        if (box.exec() != QMessageBox::Yes) {
            doc.decline(left);
            continue;
        }
        doc.restore(left);
        return log->say("recovered; save it when you have looked it over",
                        true); // others are offered at the next start
    }
}

void MainWindow::showSafetyWordsOnce() {
    QSettings settings;
    if (settings.value("safetyShown").toBool()) return;
    QMessageBox box(QMessageBox::NoIcon, "Before you start",
                    "The voltages in these amplifiers kill, and capacitors keep them after the plug is out.\n\n"
                    "Unplug, wait, measure. One hand. Never alone. Follow your local electrical code. If you are "
                    "unsure about the mains side, have a licensed electrician do it.\n\n"
                    "Dim Ember predicts and records. It cannot see your amplifier: what the meter says, counts.",
                    QMessageBox::Ok, this);
    box.exec();
    settings.setValue("safetyShown", true);
}

void MainWindow::showValues(const QString& words) {
    if (!values) values = new ValuesSheet(doc, this);
    values->show();
    values->raise();
    values->activateWindow();
    values->search(words);
}

void MainWindow::showShortcuts() {
    QMessageBox box(QMessageBox::NoIcon, "Keys", shortcutsTable(), QMessageBox::Close, this);
    box.exec();
}

} // namespace ember::app
