#pragma once
// The open build: the only owner of a Build in the program. Edits, undo, recovery, background solving.

#include "discharge_watch.h"

#include "core/bench/take.h"
#include "core/bench/take_records.h"
#include "core/bench/virtual_amplifier.h"
#include "core/build/edit.h"
#include "core/build/journal.h"
#include "core/build/storage.h"
#include "core/plan/solve.h"
#include "core/procedure/suspects.h"
#include "core/quantity/quantity.h"
#include "core/rules/findings.h"

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <QUndoStack>

#include <filesystem>
#include <future>
#include <map>
#include <memory>
#include <optional>
#include <set>

namespace ember::app {

class Document : public QObject {
    Q_OBJECT
  public:
    /// `stateFolder`: where the recovery journal lives.
    explicit Document(QString stateFolder, QObject* parent = nullptr);
    ~Document() override;

    [[nodiscard]] const Build& build() const { return current; }
    [[nodiscard]] bool holdsBuild() const { return held; } ///< one was opened, recovered or begun
    /// The newest figures with the build that they belong to; both are read together.
    struct Solved {
        Build build;
        plan::Figures figures;
        std::vector<rules::Finding> findings;
    };
    [[nodiscard]] const Solved& solved() const { return *published; }
    [[nodiscard]] const plan::Figures& figures() const { return published->figures; }
    [[nodiscard]] const std::vector<rules::Finding>& findings() const { return published->findings; }
    [[nodiscard]] bool solving() const { return busy; } ///< the figures are of an older build
    [[nodiscard]] QUndoStack& undoStack() { return stack; }
    [[nodiscard]] QString file() const { return path; }
    [[nodiscard]] bool modified() const { return !stack.isClean() || logModified; }

    void setBuild(const Build& build, const QString& file);
    Expected<Done> open(const QString& file);
    Expected<Done> save(const QString& file);
    /// What programs that were killed left behind, the newest first. Journals that cannot be used are kept aside with a
    /// sentence.
    [[nodiscard]] std::vector<Recovered> leftBehind();
    void restore(const Recovered& recovered);
    void decline(const Recovered& recovered); ///< kept aside, and not offered again
    void discardJournal();

    /// An undoable change. A Problem leaves everything as it was.
    Expected<Done> edit(const Edit& edit);
    /// History is not undone: it is struck out.
    void log(LogEntry entry);
    void strike(std::size_t index, const QString& why);

    /// First Power's stage at `mains`, if it is there; otherwise it is computed and stageReady() comes: first with
    /// rough bands, soon after with those that readings are judged by.
    const procedure::PowerStage* stage(int index, double mains);
    /// Amplifiers that a stage's bands are drawn from, for stages computed from now on.
    void setBandSamples(int samples) { bandSamples = samples; }
    [[nodiscard]] double mainsRead() const { return mains; } ///< as the builder last read it [V]
    void setMainsRead(double volts);
    /// Keeps a reading at once, under this point and stage; judged now, or when the stage is computed (judged() comes
    /// then). One past a stop limit ends the stage.
    struct Taken {
        QString sentence;
        bool good = false;
    };
    /// What would explain all readings of a stage together, once one of them is out of its band: if it is there;
    /// otherwise it is computed and suspected() comes. nullptr also where nothing is out of its band.
    const procedure::Suspicion* suspicion(int stage);
    /// Under power only once every capacitor was read with the plug out; while practising it is a practice reading,
    /// whoever took it.
    Taken takeReading(const procedure::TestPoint& point, int stage, double value, const std::string& source);
    /// Whose First Power it is now.
    [[nodiscard]] procedure::Strand strand() const {
        return practice ? procedure::Strand::Practice : procedure::Strand::Amplifier;
    }
    /// Why a step of First Power cannot be passed now, as sentences; empty: it can. See procedure::obstacles().
    [[nodiscard]] std::vector<std::string> obstaclesTo(const procedure::PowerStage& stage) const;
    /// Passes it, or does nothing where there is an obstacle.
    bool passStage(int index);
    void beginAgain(int index);
    /// "I have switched off": the clock runs from here, and every capacitor is to be read again.
    void switchedOff(int stage);
    /// A reading at the bias, kept and judged; one past its stop starts the discharge clock.
    void takeBias(const procedure::Expectation& expectation, int stage, double value, const std::string& source);
    /// That a part which was changed in the plan is in the amplifier now.
    void exchanged(const std::string& part);
    [[nodiscard]] DischargeWatch& dischargeWatch() { return switchedOffWatch; }
    /// The practice amplifier, or nullptr. Solved readings come through `practiceRead`.
    void startPractice(quint64 seed, const QString& fault);
    void stopPractice();
    [[nodiscard]] bool practising() const { return practice != nullptr; }
    void readPractice(int stage, double volts, const QString& point, std::function<void(Expected<double>)> then);
    /// What takes are made with.
    enum class Bench { Practice, SoundDevice };
    /// One take at a time; `then` gets the capture, or why there is none. takeMoved() tells how far it is.
    void take(Bench with, const bench::TakeRequest& request, std::function<void(Expected<signal::Capture>)> then);
    /// A series of takes (bench/series/series.h): `then` gets its result, and its captures to be kept, or why there is
    /// none. A bench that a person sets up asks by setupWanted() before the first take in another setup, and goes on
    /// with answerSetup().
    struct SeriesTaken {
        bench::SeriesResult result;
        bench::Measurement measurement;
        bench::KeptFiles files = {}; ///< of its captures
        std::string notKept = {};    ///< why there are none
    };
    void measure(Bench with, const bench::SeriesRequest& request, std::function<void(Expected<SeriesTaken>)> then);
    void answerSetup(bool done);
    /// Where captures are kept: beside the build; of one that was never saved, with the recovery journal until it is.
    [[nodiscard]] std::filesystem::path capturesFolder() const;
    /// Writes them there, called by time and title; from any thread.
    static Expected<bench::KeptFiles> keepCaptures(const std::filesystem::path& folder,
                                                   const bench::Measurement& measurement);
    void cancelTake();
    [[nodiscard]] bool taking() const { return takesUnderWay > 0; }

    /// The steady state that is being looked at where it is not the plan's nominal one, such as a stage of First Power.
    void showMoment(std::optional<plan::Steady> steady);
    [[nodiscard]] const std::optional<plan::Steady>& moment() const { return present; }

    /// Counts the build's changes: an answer to a question that was asked at another number comes too late.
    [[nodiscard]] quint64 revisionNow() const { return revision; }

    [[nodiscard]] bool steady() const { return !stale; }             ///< the steady figures are the present build's
    [[nodiscard]] bool atRest() const { return jobs == 0 && !busy; } ///< nothing is being computed
    void waitForSolve(); ///< for pictures: answers events until it is at rest, however long that takes

  Q_SIGNALS:
    void opened();         ///< another build took the place of the last
    void buildChanged();   ///< another build, or a part of it
    void figuresChanged(); ///< figures and findings, or solving() moved
    void logChanged();
    void stageReady(int index);
    void suspected(int stage);
    void mainsReadChanged();
    void judged(const QString& sentence, bool good); ///< a reading that waited for its band
    void fileChanged();
    void trouble(const QString& sentence);
    void practiceChanged();
    void takeMoved(double share);              ///< of the take under way, 0 .. 1
    void takeApproaches(double inputRms);      ///< on the way up to its level: a tone of these volts plays
    void setupWanted(const QString& sentence); ///< before a series goes on: what the builder does
    void momentChanged();

  private:
    friend class SnapshotCommand;
    [[nodiscard]] bench::TakeWatch takeWatch(); ///< tells takeMoved() and takeApproaches(), ends with stopTake
    [[nodiscard]] Expected<Done> moveCaptures(const std::filesystem::path& from) const;
    using StageAt = std::pair<int, double>;              ///< stage, mains [V]
    void place(const Build& build, const QString& name); ///< from undo and redo: everything but the log
    void afterChange(const QString& name);
    void solve();
    void startJournal();
    void writeJournal();           ///< the edit of this turn, if it is not there yet
    void record(const char* what); ///< the log as it is now, to the journal and to who shows it
    Taken judge(std::size_t entry, const procedure::PowerStage& stage);
    void judgeWaiting();
    void logChanges(const Build& before); ///< parts that an edit changed after they were proved
    void startWatch();
    [[nodiscard]] plan::Discharge worstDischarge() const;
    void keepStage(const StageAt& at, procedure::PowerStage stage, quint64 of);
    [[nodiscard]] std::string stageKey(const StageAt& at) const; ///< all that a stage is computed from
    template <typename Work>
    void inBackground(QThreadPool& pool, Work work);

    DischargeWatch switchedOffWatch;
    Build current;
    std::shared_ptr<const Solved> published = std::make_shared<const Solved>();
    std::optional<plan::Steady> present;
    QUndoStack stack;
    QString path, stateFolder, unwritten; ///< the last: name of the edit that the journal does not have yet
    QTimer settling;
    bool logModified = false, busy = false, stale = false, held = false;
    double mains = 230;
    int bandSamples = procedure::honestSamples;
    std::optional<Journal> journal;
    std::shared_ptr<plan::WarmStart> warm;
    std::stop_source stopSolve, stopStages, stopTake;
    int takesUnderWay = 0;
    std::shared_ptr<std::promise<bool>> setupAnswer; ///< of the series that waits for its setup
    quint64 generation = 0;                          ///< of solves
    quint64 revision = 0;                            ///< of the build
    std::map<StageAt, procedure::PowerStage> stages;
    std::set<StageAt> stagesUnderWay;
    struct Waiting {
        std::size_t entry; ///< in the log
        StageAt at;
    };
    std::vector<Waiting> waiting; ///< readings without a band yet
    /// What every fault would read at the step that was asked about last, once that is computed; and the readings that
    /// were ranked by it last.
    struct Asked {
        StageAt at;
        quint64 revision = 0;
        std::stop_source stop = {};
        std::shared_ptr<const procedure::FaultTable> table = {};
        std::vector<std::pair<std::string, double>> readings = {};
        std::optional<procedure::Suspicion> answer = {};
    };
    std::optional<Asked> asked;
    std::shared_ptr<bench::VirtualAmplifier> practice;
    QThreadPool solver, practiceBench, soundDevice;
    int jobs = 0;
};

} // namespace ember::app
