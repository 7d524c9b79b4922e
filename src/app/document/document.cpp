#include "document.h"

#include "background.h"
#include "last_computed.h"

#include "core/build/build_json.h"
#include "core/build/flat.h"
#include "core/build/own_types.h"
#include "core/chassis/layout_figures.h"
#include "core/schematic/stage_edits.h"
#include "core/wires/hum.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QEventLoop>
#include <QTimer>
#include <QUndoCommand>

#include <mutex>

namespace ember::app {

/// Undo keeps whole builds: small, and nothing can be forgotten.
class SnapshotCommand : public QUndoCommand {
  public:
    SnapshotCommand(Document& owner, const QString& name, Build from, Build to)
        : QUndoCommand(name),
          document(owner),
          before(std::move(from)),
          after(std::move(to)) {}
    void undo() override { document.place(before, "undo: " + text()); }
    void redo() override { document.place(after, text()); }

  private:
    Document& document;
    Build before, after;
};

Document::Document(QString folder, QObject* parent)
    : QObject(parent),
      switchedOffWatch(folder),
      stateFolder(std::move(folder)) {
    solver.setMaxThreadCount(1);
    settling.setSingleShot(true);
    connect(&settling, &QTimer::timeout, this, [this] {
        writeJournal();
        solve();
    });
    practiceBench.setMaxThreadCount(1);
    soundDevice.setMaxThreadCount(1);
    connect(&stack, &QUndoStack::cleanChanged, this, &Document::fileChanged);
}

Document::~Document() {
    writeJournal();
    stopSolve.request_stop();
    stopStages.request_stop();
    stopTake.request_stop();
    if (asked) asked->stop.request_stop();
    solver.clear();
    practiceBench.clear();
    solver.waitForDone();
    practiceBench.waitForDone();
    soundDevice.waitForDone();
}

void Document::setBuild(const Build& build, const QString& file) {
    current = build;
    path = file;
    held = true;
    mains = build.mains.volts;
    waiting.clear();
    stack.clear();
    logModified = false;
    practice.reset();
    published = std::make_shared<const Solved>(Solved{current, {}, {}});
    warm.reset();
    startJournal();
    Q_EMIT figuresChanged(); // who looks at the old ones must let go of them now
    Q_EMIT opened();
    Q_EMIT fileChanged();
    Q_EMIT practiceChanged();
    Q_EMIT logChanged();
    afterChange({});
}

Expected<Done> Document::open(const QString& file) {
    auto b = loadBuild(file.toStdString());
    if (!b) return b.problem();
    setBuild(*b, QFileInfo(file).absoluteFilePath());
    return Done{};
}

Expected<Done> Document::save(const QString& file) {
    if (auto done = saveBuild(current, file.toStdString()); !done) return done;
    const auto captures = capturesFolder();
    path = QFileInfo(file).absoluteFilePath();
    if (auto moved = moveCaptures(captures); !moved) Q_EMIT trouble(QString::fromStdString(moved.problem().text()));
    logModified = false;
    stack.setClean();
    startJournal();
    Q_EMIT fileChanged();
    return Done{};
}

void Document::startJournal() {
    unwritten.clear(); // it begins with the build as it is
    QDir().mkpath(stateFolder);
    auto j = Journal::startIn(stateFolder.toStdString(), current, path.toStdString());
    if (!j) return Q_EMIT trouble(QString::fromStdString(j.problem().text()));
    if (journal) journal->discard(); // the new one holds all of it
    journal = std::move(*j);
}

std::vector<Recovered> Document::leftBehind() {
    writeJournal();
    std::vector<Recovered> out;
    for (const auto& file : journalsLeft(stateFolder.toStdString())) {
        auto r = recover(file);
        if (!r) {
            const auto aside = keepAside(file);
            Q_EMIT trouble(QString::fromStdString(r.problem().sentence + "; it is kept as " + aside.string()));
        } else if (*r) {
            out.push_back(std::move(**r));
        } else {
            std::error_code error; // nothing in it
            std::filesystem::remove(file, error);
        }
    }
    return out;
}

void Document::restore(const Recovered& r) {
    setBuild(r.build, QString::fromStdString(r.buildFile));
    logModified = true; // not on the disk yet
    if (journal && journal->append("recovered", current)) {
        std::error_code error;
        std::filesystem::remove(r.journal, error);
    }
    Q_EMIT fileChanged();
}

void Document::decline(const Recovered& r) {
    (void)keepAside(r.journal);
}

void Document::discardJournal() {
    unwritten.clear();
    if (journal) journal->discard();
    journal.reset();
}

Expected<Done> Document::edit(const Edit& e) {
    auto next = apply(current, schematic::followed(current, e));
    if (!next) return next.problem();
    if (flat(*next) == flat(current)) return Done{};
    stack.push(new SnapshotCommand(*this, QString::fromStdString(e.name), current, std::move(*next)));
    return Done{};
}

void Document::place(const Build& build, const QString& name) {
    writeJournal(); // while `current` is what it names
    const Build before = std::exchange(current, build);
    current.log = before.log;
    logChanges(before);
    afterChange(name);
}

void Document::log(LogEntry entry) {
    if (entry.time.empty()) entry.time = QDateTime::currentDateTime().toString(Qt::ISODate).toStdString();
    if (current.log.size() >= fields::mostLogEntries)
        return Q_EMIT trouble(QString("the log is full with %1 entries: nothing was added. Begin a new build for what "
                                      "follows")
                                  .arg(current.log.size()));
    writeJournal();
    current.log.push_back(std::move(entry));
    record("log");
}

void Document::record(const char* what) {
    logModified = true;
    if (journal)
        if (auto done = journal->append(what, current); !done)
            Q_EMIT trouble(QString::fromStdString(done.problem().text()));
    Q_EMIT logChanged();
    Q_EMIT fileChanged();
}

void Document::strike(std::size_t index, const QString& why) {
    if (index >= current.log.size()) return;
    writeJournal();
    current.log[index].struck = true;
    current.log[index].struckWhy = why.toStdString();
    record("strike");
}

void Document::afterChange(const QString& name) {
    unwritten = name;
    if (practice) {
        // Adjusters turned in the build are turned on the practice bench too.
        auto bench = practice;
        practiceBench.start([bench, positions = current] { bench->adjust(positions); });
    }
    ++revision; // what is still being computed is of another build
    stages.clear();
    stagesUnderWay.clear();
    stopStages.request_stop();
    stopStages = std::stop_source();
    if (asked) asked->stop.request_stop();
    asked.reset();
    busy = stale = true;
    ++generation;
    stopSolve.request_stop();
    for (const Waiting& w : waiting) stage(w.at.first, w.at.second);
    Q_EMIT buildChanged();
    judgeWaiting();   // a stage that is known has no answer to wait for
    settling.start(); // the rest in a turn of its own: the interface answers in between
}

void Document::writeJournal() {
    if (unwritten.isEmpty()) return;
    const std::string name = std::exchange(unwritten, {}).toStdString();
    if (!journal) return;
    if (auto done = journal->append(name, current); !done)
        Q_EMIT trouble(QString::fromStdString(done.problem().text()));
}

namespace {

/// All figures of the circuits that were open last, by flatCircuit().
LastComputed<std::string, plan::Figures, 8>& knownFigures() {
    static LastComputed<std::string, plan::Figures, 8> known;
    return known;
}

} // namespace

namespace {

/// rules::tryMends(), remembered for the builds that were open last: ids of the findings whose mend mends. From any
/// thread.
void offerMends(const Build& b, std::vector<rules::Finding>& findings, const std::stop_token& stop) {
    static LastComputed<std::string, std::set<std::string>, 24> known;
    static std::mutex mutex;
    Build bare = b;
    bare.log.clear();
    const std::string key = flat(bare);
    {
        const std::lock_guard lock(mutex);
        if (const auto* good = known.find(key)) {
            for (rules::Finding& x : findings)
                if (!good->contains(x.id)) x.fix.reset();
            return;
        }
    }
    rules::tryMends(b, catalogueOf(b), findings, stop);
    if (stop.stop_requested()) return;
    std::set<std::string> good;
    for (const rules::Finding& x : findings)
        if (x.fix) good.insert(x.id);
    const std::lock_guard lock(mutex);
    known.keep(key, std::move(good));
}

} // namespace

/// A newer edit stops the older solve; steady figures come first, then the slow ones.
void Document::solve() {
    stopSolve.request_stop();
    stopSolve = std::stop_source();
    const quint64 mine = ++generation;
    const std::string circuit = flatCircuit(current);
    busy = stale = true;
    Q_EMIT figuresChanged();
    if (const plan::Figures* known = knownFigures().find(circuit)) { // parts were moved, or a value taken back
        inBackground(solver, [this, mine, b = current, f = *known]() mutable {
            chassis::LayoutSolver layout;
            f.layout = std::make_shared<const chassis::LayoutFigures>(layout.solve(b, catalogueOf(b), f));
            plan::addWarm(b, catalogueOf(b), f);
            wires::addWires(b, catalogueOf(b), f);
            auto findings = rules::inspect(b, catalogueOf(b), f);
            offerMends(b, findings, {});
            auto next = std::make_shared<const Solved>(Solved{std::move(b), std::move(f), std::move(findings)});
            QMetaObject::invokeMethod(
                this,
                [this, mine, next = std::move(next)]() mutable {
                    if (mine != generation) return;
                    published = std::move(next);
                    busy = stale = false;
                    switchedOffWatch.adopt(QString::fromStdString(current.name), published->figures.discharge);
                    Q_EMIT figuresChanged();
                },
                Qt::QueuedConnection);
        });
        return;
    }
    inBackground(solver, [this, mine, circuit, b = current, stop = stopSolve.get_token(), start = warm] {
        const Catalogue& catalogue = catalogueOf(b);
        auto w = std::make_shared<plan::WarmStart>(start ? *start : plan::WarmStart{});
        plan::Figures f = plan::solveFigures(b, catalogue, stop, w.get());
        const auto deliver = [this, mine, w, circuit, stop](plan::Figures figures, const Build& of, bool last) {
            auto findings = rules::inspect(of, catalogueOf(of), figures);
            if (last)
                offerMends(of, findings, stop);
            else // a mend is offered once it was tried; until then the words are there
                for (rules::Finding& x : findings) x.fix.reset();
            auto next = std::make_shared<const Solved>(Solved{of, std::move(figures), std::move(findings)});
            QMetaObject::invokeMethod(
                this,
                [this, mine, w, circuit, next = std::move(next), last]() mutable {
                    if (mine != generation) return;
                    if (last) knownFigures().keep(circuit, next->figures);
                    published = std::move(next);
                    warm = w;
                    busy = !last;
                    stale = false;
                    switchedOffWatch.adopt(QString::fromStdString(current.name), published->figures.discharge);
                    Q_EMIT figuresChanged();
                },
                Qt::QueuedConnection);
        };
        if (stop.stop_requested()) return;
        wires::addWires(b, catalogue, f);
        deliver(f, b, false);
        plan::completeFigures(b, catalogue, f, stop);
        wires::completeWires(b, f);
        if (stop.stop_requested()) return;
        deliver(f, b, false); // curves and power are shown before the mends have been tried
        deliver(std::move(f), b, true);
    });
}

void Document::showMoment(std::optional<plan::Steady> steady) {
    present = std::move(steady);
    Q_EMIT momentChanged();
}

namespace {

/// Processes events for a moment and sleeps in between: waiting must not take processor time from the solver.
void passTime() {
    QEventLoop loop;
    QTimer::singleShot(4, &loop, &QEventLoop::quit);
    loop.exec();
}

} // namespace

void Document::waitForSolve() {
    while (!atRest()) passTime();
    QCoreApplication::processEvents();
}

} // namespace ember::app
