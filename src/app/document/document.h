#pragma once
// The open build: the only owner of a Build in the program. Edits, undo, recovery, background solving.

#include "core/bench/virtual_amplifier.h"
#include "core/build/edit.h"
#include "core/build/storage.h"
#include "core/plan/solve.h"
#include "core/procedure/first_power.h"
#include "core/quantity/quantity.h"
#include "core/rules/findings.h"

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <QUndoStack>

#include <map>
#include <memory>
#include <optional>

namespace ember::app {

class Document : public QObject {
    Q_OBJECT
  public:
    /// `stateFolder`: where the recovery journal lives.
    explicit Document(QString stateFolder, QObject* parent = nullptr);
    ~Document() override;

    [[nodiscard]] const Build& build() const { return current; }
    [[nodiscard]] const plan::Figures& figures() const { return solved; }
    [[nodiscard]] const std::vector<rules::Finding>& findings() const { return found; }
    [[nodiscard]] bool solving() const { return busy; } ///< the figures are of an older build
    [[nodiscard]] QUndoStack& undoStack() { return stack; }
    [[nodiscard]] QString file() const { return path; }
    [[nodiscard]] bool modified() const { return !stack.isClean() || logModified; }

    void setBuild(const Build& build, const QString& file);
    Expected<Done> open(const QString& file);
    Expected<Done> save(const QString& file);
    /// What a program that was killed left behind.
    [[nodiscard]] std::optional<Recovered> leftBehind();
    void restore(const Recovered& recovered);
    void discardJournal();

    /// An undoable change. A Problem leaves everything as it was.
    Expected<Done> edit(const Edit& edit);
    /// History is not undone: it is struck out.
    void log(LogEntry entry);
    void strike(std::size_t index, const QString& why);

    /// First Power's stage at `mains`, if it is there; otherwise it is computed and stageReady() comes.
    const procedure::Stage* stage(int index, double mains);
    /// The practice amplifier, or nullptr. Solved readings come through `practiceRead`.
    void startPractice(quint64 seed, const QString& fault);
    void stopPractice();
    [[nodiscard]] bool practising() const { return practice != nullptr; }
    void readPractice(int stage, double mains, const QString& point, std::function<void(Expected<double>)> then);
    void capturePractice(std::size_t channel, double volts, double hertz, double seconds,
                         std::function<void(Expected<bench::Capture>)> then);

    /// The steady state that is being looked at where it is not the plan's nominal one, such as a stage of First Power.
    void showMoment(std::optional<plan::Steady> steady);
    [[nodiscard]] const std::optional<plan::Steady>& moment() const { return present; }

    void waitForFigures(); ///< for tests: until the steady figures are those of the present build
    void waitForSolve();   ///< for tests and pictures: until nothing is under way

  Q_SIGNALS:
    void opened();         ///< another build took the place of the last
    void buildChanged();   ///< another build, or a part of it
    void figuresChanged(); ///< figures and findings, or solving() moved
    void logChanged();
    void stageReady(int index);
    void fileChanged();
    void trouble(const QString& sentence);
    void practiceChanged();
    void momentChanged();

  private:
    friend class SnapshotCommand;
    void place(const Build& build, const QString& name); ///< from undo and redo: everything but the log
    void afterChange(const QString& name);
    void solve();
    void startJournal();
    void writeJournal(); ///< the edit of this turn, if it is not there yet
    template <typename Work>
    void inBackground(QThreadPool& pool, Work work);

    Build current;
    plan::Figures solved;
    std::optional<plan::Steady> present;
    std::vector<rules::Finding> found;
    QUndoStack stack;
    std::string solvedCircuit; ///< flatCircuit() of the build that all of `solved` is of; empty: not all is there
    QString path, stateFolder, unwritten; ///< the last: name of the edit that the journal does not have yet
    QTimer settling;
    bool logModified = false, busy = false, stale = false;
    std::optional<Journal> journal;
    std::shared_ptr<plan::WarmStart> warm;
    std::stop_source stopSolve;
    quint64 generation = 0;
    std::map<int, std::pair<double, procedure::Stage>> stages;
    std::map<int, double> stagesUnderWay;
    std::shared_ptr<bench::VirtualAmplifier> practice;
    QThreadPool solver, practiceBench;
    int jobs = 0;
};

} // namespace ember::app
