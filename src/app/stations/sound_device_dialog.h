#pragma once
#include "core/bench/sound_bench.h"

#include <QDialog>
#include <QFutureWatcher>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

/// Chooses what plays and what records, and calibrates both with one reading each of a voltmeter.
class SoundDeviceDialog : public QDialog {
    Q_OBJECT
  public:
    explicit SoundDeviceDialog(QWidget* parent = nullptr);
    ~SoundDeviceDialog() override;
    [[nodiscard]] const bench::SoundCalibration& calibration() const { return now; }
    /// It asks the server for its ports, or plays.
    [[nodiscard]] bool busy() const { return asking || working.isRunning(); }

  private:
    /// What the sound device did, in the background: the tone that was captured, or a check of the device alone.
    struct Answer {
        bench::CapturedTone tone;
        std::optional<bench::LoopbackCheck> check;
        std::string problem;
    };
    using Ports = Expected<bench::SoundPorts>;
    void showPorts();
    void choosePorts();
    void showFigures();
    void playTone();
    void checkAlone();
    void run(std::function<Answer(std::stop_token)> work, const QString& meanwhile);
    void finished();
    void save();
    bench::SoundPorts ports;
    bench::SoundCalibration now;
    std::optional<bench::CapturedTone> tone; ///< that was played last
    QComboBox *player, *recorder, *input, *second;
    QLineEdit *played, *recorded, *secondRead;
    QLabel *playedWords, *recordedWords, *secondWords, *aloneWords, *state;
    QPushButton *play, *check, *keep;
    QFutureWatcher<std::shared_ptr<Ports>> listing;
    QFutureWatcher<Answer> working;
    std::stop_source stop;
    bool asking = true; ///< the server has not answered yet
};

} // namespace ember::app
