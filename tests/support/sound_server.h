#pragma once
// A sound server of the test's own: one player without a device, and a recorder that hears what it plays.

#include "wait.h"

#include <QDeadlineTimer>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>

#include <memory>

class SoundServer {
  public:
    static constexpr const char* player = "loop";
    static constexpr const char* recorder = "loop.monitor";

    SoundServer() {
        const QString socket = home.filePath("socket");
        QProcessEnvironment env = QProcessEnvironment::systemEnvironment();
        for (const char* folder : {"HOME", "XDG_RUNTIME_DIR", "XDG_CONFIG_HOME"}) env.insert(folder, home.path());
        env.remove("LD_PRELOAD");
        server.setProcessEnvironment(env);
        server.start("pulseaudio", {"-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", "-L",
                                    "module-native-protocol-unix auth-anonymous=1 socket=" + socket, "-L",
                                    "module-null-sink sink_name=loop rate=48000 format=float32le"});
        // Until it listens, or has ended because it could not.
        const QDeadlineTimer end(ember::tests::watchdog());
        if (server.waitForStarted(ember::tests::longest()))
            while (!QFile::exists(socket) && !server.waitForFinished(20) && !end.hasExpired()) {
            }
        before = qgetenv("PULSE_SERVER");
        qputenv("PULSE_SERVER", ("unix:" + socket).toUtf8());
    }
    ~SoundServer() {
        if (before.isEmpty())
            qunsetenv("PULSE_SERVER");
        else
            qputenv("PULSE_SERVER", before);
        server.kill();
        server.waitForFinished(ember::tests::longest());
    }
    [[nodiscard]] bool runs() const {
        return server.state() == QProcess::Running && QFile::exists(home.filePath("socket"));
    }
    /// A command of the mixer, such as "set-sink-volume loop 50%".
    bool mixer(const QString& command) const {
        QProcess p;
        p.start("pactl", command.split(' '));
        return p.waitForFinished(ember::tests::longest()) && p.exitCode() == 0;
    }

  private:
    QTemporaryDir home;
    QProcess server;
    QByteArray before;
};
