// The program as its users start it: what it says without a display, and pictures of any build.
#include "../support/suite.h"
#include "../support/wait.h"

#include "app/stations/station.h"
#include "app/window/main_window.h"

#include <QDir>
#include <QImage>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

using namespace ember::app;

namespace {

struct Outcome {
    int code;
    QString out, err;
};

Outcome program(const QStringList& arguments, const QString& platform, const QString& home) {
    QProcess p;
    QProcessEnvironment e = QProcessEnvironment::systemEnvironment();
    e.remove("DISPLAY");
    e.remove("WAYLAND_DISPLAY");
    e.insert("QT_QPA_PLATFORM", platform);
    e.insert("XDG_CONFIG_HOME", home);
    e.insert("XDG_STATE_HOME", home);
    p.setProcessEnvironment(e);
    p.start(BIN_DIR "/dim-ember", arguments);
    p.waitForFinished(ember::tests::longest());
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
            QString::fromUtf8(p.readAllStandardError())};
}

} // namespace

class TestProgram : public QObject {
    Q_OBJECT
    QTemporaryDir home;

  private Q_SLOTS:
    void itsHelpNeedsNoDisplay() {
        const Outcome help = program({"--help"}, "xcb", home.path());
        QVERIFY2(help.code == 0, qPrintable(help.err));
        QVERIFY(help.out.contains("--pictures") && help.out.contains("BUILD"));
        QCOMPARE(program({"--version"}, "xcb", home.path()).code, 0);
    }
    /// Every station of a build, in the size that was asked for, and all of them small on one sheet.
    void everyStationIsPictured() {
        const QString folder = home.filePath("pictures");
        const Outcome r = program({"--pictures", folder, "--theme", "day", "--size", "1280x800",
                                   PROJECT_DIR "/data/starts/line-stage.ember.json"},
                                  "offscreen", home.path());
        QVERIFY2(r.code == 0, qPrintable(r.err));
        MainWindow window(home.filePath("state"));
        for (int k = 0; k < window.stationCount(); ++k) {
            const QImage picture(folder + "/line-stage-" + window.stationId(k) + ".png");
            QVERIFY2(picture.size() == QSize(1280, 800), qPrintable(window.stationId(k)));
            QVERIFY2(picture.pixelColor(4, 700).lightness() > 180, "by daylight");
        }
        QVERIFY(!QImage(folder + "/sheet.png").isNull());
    }
    void whatItDoesNotUnderstandIsSaid() {
        const Outcome size = program({"--pictures", home.filePath("no"), "--size", "large"}, "offscreen", home.path());
        QVERIFY(size.code == 2 && size.err.contains("1280x800"));
        const Outcome file =
            program({"--pictures", home.filePath("no"), home.filePath("none.ember.json")}, "offscreen", home.path());
        QVERIFY(file.code == 1 && file.err.contains("none.ember.json"));
    }
};

EMBER_TESTS(TestProgram)
#include "test_program.moc"
