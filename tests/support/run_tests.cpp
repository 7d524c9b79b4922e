// Runs the classes of tests of all programs: run-tests [--workers N] [--first] [CLASS...]. Each worker is a process
// that serves one class after another, the long ones first; what a failed class said is printed. A worker that ends on
// its own (a crash, a sanitizer's report) fails the class that it ran, and another takes its place. Ends with "N
// passed, N failed".

#include "suite.h"

#include <QCommandLineParser>
#include <QCoreApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTextStream>

#include <algorithm>
#include <chrono>
#include <deque>
#include <memory>
#include <vector>

namespace {

using namespace std::chrono_literals;

struct Class {
    QString name, program;
    QStringList arguments = {};   ///< of a program of its own; empty: it is served by a worker
    QStringList environment = {}; ///< "NAME=value", beside everybody's
};

QTextStream& out() {
    static QTextStream stream(stdout);
    return stream;
}

QString beside(const QString& program) {
    return QCoreApplication::applicationDirPath() + "/" + program;
}

/// Names of the long ones, the longest first: a machine with two cores is not left with one of them at the end.
QStringList longOnes() {
    QFile f(TESTS_FOLDER "/support/long_ones.txt");
    if (!f.open(QIODevice::ReadOnly)) return {};
    return QString::fromUtf8(f.readAll()).split('\n', Qt::SkipEmptyParts);
}

QProcessEnvironment environmentOf(int worker) {
    auto e = QProcessEnvironment::systemEnvironment();
    const QString home =
        QDir::tempPath() + QString("/ember-tests-%1-%2").arg(QCoreApplication::applicationPid()).arg(worker);
    QDir().mkpath(home);
    for (const char* folder : {"XDG_CONFIG_HOME", "XDG_STATE_HOME"}) e.insert(folder, home);
    e.insert("QT_QPA_PLATFORM", "offscreen");
    e.insert("QTEST_DISABLE_STACK_DUMP", "1");     // by a debugger, which takes longer than the test
    e.insert("QTEST_FUNCTION_TIMEOUT", "7200000"); // a wait has its own watchdog
    // A small quarantine of freed memory keeps it in the processor's cache: a tenth of the time. Three callers of each
    // allocation are kept: what an error needs more of, run that class without this.
    e.insert("ASAN_OPTIONS",
             "quarantine_size_mb=16:malloc_context_size=3:max_malloc_fill_size=64:release_to_os_interval_ms=-1");
    // What Qt and the drivers keep until the program ends is theirs, and named in leaks.supp.
    e.insert("LSAN_OPTIONS", "suppressions=" TESTS_FOLDER "/support/leaks.supp:print_suppressions=0");
    e.insert("UBSAN_OPTIONS", "print_stacktrace=1");
    e.insert("TSAN_OPTIONS", "suppressions=" TESTS_FOLDER "/support/threads.supp:second_deadlock_stack=1");
    return e;
}

std::vector<Class> allClasses() {
    std::vector<Class> all;
    for (const char* program : {"app-tests", "core-tests"}) {
        if (!QFile::exists(beside(program))) continue;
        QProcess p;
        p.setProcessEnvironment(environmentOf(0));
        p.start(beside(program), {"--list"});
        p.waitForFinished(-1);
        for (const QString& name : QString::fromUtf8(p.readAllStandardOutput()).split('\n', Qt::SkipEmptyParts))
            all.push_back({name, beside(program)});
    }
    const QString xvfb = QStandardPaths::findExecutable("xvfb-run");
    if (!xvfb.isEmpty() && QFile::exists(beside("app-tests")))
        all.push_back(
            {"RealWindow",
             xvfb,
             {"-a", "-s", "-screen 0 1400x900x24", beside("app-tests"), "TestWindow", "theDemoOpensAndPaints"},
             {"QT_QPA_PLATFORM=xcb"}});
    const QStringList first = longOnes();
    const auto place = [&](const Class& c) {
        const auto at = first.indexOf(c.name);
        return at < 0 ? first.size() : at;
    };
    std::stable_sort(all.begin(), all.end(), [&](const Class& a, const Class& b) { return place(a) < place(b); });
    return all;
}

/// All that is to be run, and what came of it.
struct Work {
    std::deque<Class> waiting;
    int passed = 0, failed = 0, classes = 0, processes = 0;
    std::vector<std::pair<double, QString>> times; ///< [s]
    QStringList failures;
    bool firstAlone = false; ///< nothing is begun after a failure

    void done(const Class& c, const QString& said, double seconds, bool good) {
        ++classes;
        times.emplace_back(seconds, c.name);
        static const QRegularExpression totals("Totals: (\\d+) passed, (\\d+) failed");
        const auto m = totals.match(said);
        if (m.hasMatch()) passed += m.captured(1).toInt(), failed += m.captured(2).toInt();
        if (!good && (!m.hasMatch() || m.captured(2).toInt() == 0)) ++failed;
        if (!good) {
            failures << c.name;
            out() << said << "\n";
            if (firstAlone) waiting.clear();
        }
        out() << QString("%1 %2 %3 s%4\n")
                     .arg(classes, 4)
                     .arg(c.name, -28)
                     .arg(seconds, 7, 'f', 1)
                     .arg(good ? "" : "   FAILED");
        out().flush();
    }
};

/// A process that serves classes of one program, started anew for another program and where it ended on its own.
class Worker : public QObject {
  public:
    Worker(int number, Work& everybodys) : environment(environmentOf(number)), work(everybodys) { next(); }

  private:
    void next() {
        if (work.waiting.empty()) return end();
        // Of the program that runs already, if there is one: it has computed what others need.
        auto at = work.waiting.begin();
        if (process && process->state() == QProcess::Running)
            at = std::find_if(at, work.waiting.end(),
                              [&](const Class& c) { return c.arguments.isEmpty() && c.program == process->program(); });
        if (at == work.waiting.end()) {
            end(); // and come again when it has ended
            return;
        }
        now = *at;
        work.waiting.erase(at);
        said.clear();
        busy = true;
        since.start();
        if (!now.arguments.isEmpty()) {
            end();
            start(now.arguments);
        } else {
            if (!process || process->state() != QProcess::Running) start({"--serve"});
            process->write((now.name + "\n").toUtf8());
        }
    }
    void start(const QStringList& arguments) {
        process = std::make_unique<QProcess>();
        auto e = environment;
        for (const QString& each : now.environment) e.insert(each.section('=', 0, 0), each.section('=', 1));
        process->setProcessEnvironment(e);
        process->setProcessChannelMode(QProcess::MergedChannels);
        connect(process.get(), &QProcess::readyRead, this, &Worker::hear);
        connect(process.get(), &QProcess::finished, this,
                [this](int code, QProcess::ExitStatus how) { ended(code, how); });
        ++work.processes;
        process->start(now.program, arguments);
        if (!process->waitForStarted(-1)) {
            said = now.program + " does not start\n";
            ended(1, QProcess::CrashExit);
        }
    }
    void hear() {
        said += QString::fromUtf8(process->readAll());
        if (!busy) return;
        const auto mark = said.indexOf(QString("\n") + ember::tests::servedMark);
        if (mark < 0 || said.indexOf('\n', mark + 1) < 0) return;
        const int failed =
            said.mid(mark + 1 + static_cast<int>(sizeof ember::tests::servedMark) - 1).section('\n', 0, 0).toInt();
        busy = false;
        work.done(now, said.left(mark + 1), seconds(), failed == 0);
        said = said.mid(said.indexOf('\n', mark + 1) + 1);
        next();
    }
    void ended(int code, QProcess::ExitStatus how) {
        said += QString::fromUtf8(process->readAll());
        const bool good = code == 0 && how == QProcess::NormalExit;
        if (busy) { // it had a class to run: a program of its own, or a crash
            busy = false;
            work.done(now, said, seconds(), good && !now.arguments.isEmpty());
        } else if (!good && !reported(code)) {
            ++work.failed; // a sanitizer's report at the very end
            work.failures << "a worker's end";
            out() << said << "\n";
        }
        process.release()->deleteLater();
        --work.processes;
        next();
    }
    /// 1 is what it ends with after a failed test, which is told already.
    [[nodiscard]] bool reported(int code) const { return code == 1 && !said.contains("Sanitizer"); }
    void end() {
        if (process) {
            process->closeWriteChannel();
            return;
        }
        if (work.processes == 0) QCoreApplication::quit();
    }
    [[nodiscard]] double seconds() const { return static_cast<double>(since.elapsed()) / 1000; }

    QProcessEnvironment environment;
    Work& work;
    std::unique_ptr<QProcess> process;
    Class now;
    QString said;
    bool busy = false;
    QElapsedTimer since;
};

} // namespace

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    QCommandLineParser parser;
    parser.addHelpOption();
    parser.addOption({"workers", "Processes beside each other.", "N", "3"}); // some wait for sounds and screens
    parser.addOption({"first", "Ends after the first class that fails."});
    parser.addOption({"list", "Names all classes."});
    parser.addPositionalArgument(
        "CLASS", "Classes of tests, such as TestLimits or test_limits; all where none is named.", "[CLASS...]");
    parser.process(app);
    const auto plain = [](QString name) { return name.remove('_').remove(QRegularExpression("\\.cpp$")).toLower(); };
    QStringList wanted;
    for (const QString& name : parser.positionalArguments()) wanted << plain(name.section('/', -1));
    const bool all = wanted.isEmpty();
    Work work;
    work.firstAlone = parser.isSet("first");
    const std::vector<Class> classes = allClasses();
    for (const Class& c : classes) {
        if (parser.isSet("list")) out() << c.name << "\n";
        if (all) work.waiting.push_back(c);
    }
    QStringList unknown; // those that are named, in that order
    for (const QString& name : wanted) {
        const auto at =
            std::find_if(classes.begin(), classes.end(), [&](const Class& c) { return plain(c.name) == name; });
        if (at != classes.end())
            work.waiting.push_back(*at);
        else
            unknown << name;
    }
    if (parser.isSet("list")) return 0;
    if (!unknown.isEmpty()) {
        out() << "No class of tests is called " << unknown.join(" or ") << ". run-tests --list names them.\n";
        return 1;
    }
    QElapsedTimer whole;
    whole.start();
    std::vector<std::unique_ptr<Worker>> workers;
    const int count = std::clamp(parser.value("workers").toInt(), 1, 64);
    for (int k = 0; k < count && !work.waiting.empty(); ++k) workers.push_back(std::make_unique<Worker>(k, work));
    app.exec();
    std::sort(work.times.rbegin(), work.times.rend());
    out() << "\nThe longest:";
    for (std::size_t k = 0; k < std::min<std::size_t>(10, work.times.size()); ++k)
        out() << QString(" %1 %2 s;").arg(work.times[k].second).arg(work.times[k].first, 0, 'f', 0);
    out() << QString("\n%1 classes in %2 s with %3 at once\n").arg(work.classes).arg(whole.elapsed() / 1000).arg(count);
    if (!work.failures.isEmpty()) out() << "Failed: " << work.failures.join(", ") << "\n";
    out() << QString("%1 passed, %2 failed\n").arg(work.passed).arg(work.failed);
    return work.failed > 0 ? 1 : 0;
}
