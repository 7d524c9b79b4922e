#include "sound_device_dialog.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QtConcurrent>

#include <cmath>
#include <numbers>

namespace ember::app {

namespace {

/// The volts that a field holds, as a meter reads them.
Expected<double> voltsIn(const QLineEdit* field) {
    return parseWithin(field->text().toStdString(), Unit::Volt, {1e-4, 500});
}

} // namespace

SoundDeviceDialog::SoundDeviceDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("Sound device");
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(20, 16, 20, 16);
    grid->setVerticalSpacing(8);
    int row = 0;
    const auto words = [&](const char* s) {
        auto* l = label(s, theme::Size::Text, false, "dim");
        l->setWordWrap(true);
        grid->addWidget(l, row++, 0, 1, 3);
        return l;
    };
    const auto combo = [&](const char* caption, const char* name) {
        auto* c = new QComboBox;
        c->setObjectName(name);
        c->setAccessibleName(caption);
        grid->addWidget(new QLabel(caption), row, 0);
        grid->addWidget(c, row++, 1, 1, 2);
        return c;
    };
    const auto field = [&](const char* caption, const char* name, QPushButton* beside) {
        auto* f = new QLineEdit;
        f->setObjectName(name);
        f->setAccessibleName(caption);
        f->setFont(theme::figures(theme::Size::Text));
        grid->addWidget(new QLabel(caption), row, 0);
        grid->addWidget(f, row, 1);
        if (beside) grid->addWidget(beside, row, 2);
        ++row;
        return f;
    };
    player = combo("plays", "soundPlayer");
    recorder = combo("records", "soundRecorder");
    input = combo("recorded channel", "soundInput");
    second = combo("second input", "soundSecond");
    second->setToolTip("Recorded beside it: the amplifier's input, or the other channel's load");
    words("Amplifier off or its volume down before a lead is moved. The device's ground is the mains earth of the "
          "computer: it joins the amplifier's input ground, and on the output the grounded terminal alone.");
    play = new QPushButton("Play 1 kHz");
    play->setObjectName("soundPlay");
    words("1. While 1 kHz plays for 8 s at -20 dB of full scale, read the AC volts at the amplifier's input, and where "
          "the recorder is connected (across the load, its divider in place).");
    played = field("read at the input, V RMS", "soundPlayed", play);
    playedWords = words("");
    recorded = field("read at the recorder, V RMS", "soundRecorded", nullptr);
    recordedWords = words("");
    secondRead = field("read at the second input, V RMS", "soundSecondRead", nullptr);
    secondWords = words("");
    check = new QPushButton("Check the device alone");
    check->setObjectName("soundCheck");
    aloneWords =
        words("2. The device's own distortion and noise: join its output to its input, without the amplifier.");
    grid->addWidget(check, row++, 2);
    state = words("");
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    keep = buttons->addButton("Keep", QDialogButtonBox::ActionRole);
    keep->setObjectName("soundKeep");
    keep->setProperty("main", true);
    grid->addWidget(buttons, row, 0, 1, 3);
    grid->setColumnStretch(1, 1);
    setMinimumWidth(620);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(keep, &QPushButton::clicked, this, &SoundDeviceDialog::save);
    connect(play, &QPushButton::clicked, this, &SoundDeviceDialog::playTone);
    connect(check, &QPushButton::clicked, this, &SoundDeviceDialog::checkAlone);
    for (QLineEdit* f : {played, recorded, secondRead})
        connect(f, &QLineEdit::textChanged, this, &SoundDeviceDialog::showFigures);
    connect(&working, &QFutureWatcherBase::finished, this, &SoundDeviceDialog::finished);
    setMinimumHeight(layout()->totalHeightForWidth(minimumWidth()));
    for (QPushButton* b : {play, check, keep}) b->setEnabled(false);
    state->setText("Asking the sound server what it has ...");
    connect(&listing, &QFutureWatcherBase::finished, this, &SoundDeviceDialog::showPorts);
    // A server that does not answer takes seconds to be given up; nothing of the dialog is needed for that.
    listing.setFuture(QtConcurrent::run([] { return std::make_shared<Ports>(bench::soundPorts()); }));
}

void SoundDeviceDialog::showPorts() {
    const auto answer = listing.result();
    const Ports& found = *answer;
    asking = false;
    if (!found) return state->setText(text(found.problem().sentence));
    for (QPushButton* b : {play, check}) b->setEnabled(true);
    state->setText({});
    ports = *found;
    for (const auto& [list, box] : {std::pair{&ports.players, player}, {&ports.recorders, recorder}})
        for (const bench::SoundPort& p : *list) {
            box->addItem(text(p.title), text(p.id));
            if (p.isDefault) box->setCurrentIndex(box->count() - 1);
        }
    if (const auto last = bench::lastCalibration(bench::calibrationFile())) {
        player->setCurrentIndex(std::max(0, player->findData(text(last->player))));
        recorder->setCurrentIndex(std::max(0, recorder->findData(text(last->recorder))));
    }
    for (QComboBox* c : {player, recorder})
        connect(c, &QComboBox::currentIndexChanged, this, &SoundDeviceDialog::choosePorts);
    connect(input, &QComboBox::currentIndexChanged, this, [this](int k) {
        if (k >= 0) now.input = k + 1;
        tone.reset();
        showFigures();
    });
    connect(second, &QComboBox::currentIndexChanged, this, [this](int k) {
        if (k < 0) return;
        now.secondInput = k;
        now.secondVolts = bench::SoundCalibration::unknown; // of another one
        tone.reset();
        showFigures();
    });
    choosePorts();
}

SoundDeviceDialog::~SoundDeviceDialog() {
    stop.request_stop();
    working.waitForFinished();
}

void SoundDeviceDialog::choosePorts() {
    const auto known = bench::readCalibration(bench::calibrationFile(), player->currentData().toString().toStdString(),
                                              recorder->currentData().toString().toStdString());
    now = known ? *known : bench::SoundCalibration{};
    if (!known) state->setText(text(known.problem().text()));
    tone.reset();
    const int channels =
        recorder->currentIndex() < 0 ? 0 : ports.recorders[static_cast<std::size_t>(recorder->currentIndex())].channels;
    const QSignalBlocker quiet(input), quietToo(second);
    input->clear();
    second->clear();
    second->addItem("none");
    for (int k = 0; k < channels; ++k)
        for (QComboBox* c : {input, second})
            c->addItem(channels == 2 ? (k ? "right" : "left") : QString::number(k + 1));
    input->setCurrentIndex(std::min(now.input, channels) - 1);
    second->setCurrentIndex(now.secondInput <= channels ? now.secondInput : 0);
    const QString stale = text(bench::staleness(now, ports));
    state->setText(stale.isEmpty()
                       ? QString("Calibrated: full scale is %1 at the input and %2 at the recorder (crest).")
                             .arg(text(now.playedVolts, Unit::Volt), text(now.recordedVolts, Unit::Volt))
                       : "Not calibrated: " + stale + ".");
    showFigures();
}

void SoundDeviceDialog::showFigures() {
    const auto v = voltsIn(played), r = voltsIn(recorded);
    playedWords->setText(v ? QString("A full-scale sample is %1 at the input (crest): tones up to %2 RMS.")
                                 .arg(text(bench::playedFullScale(*v), Unit::Volt),
                                      text(bench::playedFullScale(*v) / std::numbers::sqrt2, Unit::Volt))
                           : QString());
    QString said;
    if (tone) said = QString("Captured at %1 dB of full scale. ").arg(20 * std::log10(tone->crest), 0, 'f', 1);
    if (r && tone)
        said += QString("Full scale is %1 at the recorder (crest).")
                    .arg(text(bench::recordedFullScale(*r, tone->crest), Unit::Volt));
    recordedWords->setText(said);
    const bool twice = now.secondInput > 0 && now.secondInput == now.input;
    secondRead->setEnabled(now.secondInput > 0 && !twice);
    const auto s = secondRead->isEnabled() ? voltsIn(secondRead) : Expected<double>(Problem{"", ""});
    const auto secondSays = [&]() -> QString {
        if (now.secondInput == 0) return {};
        if (twice) return "That is the recorded channel: choose the other one.";
        const auto fullScale = [](double volts) {
            return QString("Its full scale is %1 (crest).").arg(text(volts, Unit::Volt));
        };
        if (!tone)
            return std::isfinite(now.secondVolts)
                       ? fullScale(now.secondVolts)
                       : "Read the volts there while the tone plays; they are kept with the rest.";
        if (!(tone->second > 0)) return "The tone was not found there: check its lead and its level.";
        if (s) return fullScale(bench::recordedFullScale(*s, tone->second));
        return QString("Captured at %1 dB of full scale.").arg(20 * std::log10(tone->second), 0, 'f', 1);
    };
    secondWords->setText(secondSays());
    if (std::isfinite(now.ownThdPercent))
        aloneWords->setText(QString("2. The device alone: THD %1, noise %2 dB of full scale. Less than that cannot "
                                    "be measured with it.")
                                .arg(text(now.ownThdPercent, Unit::Percent, 2))
                                .arg(20 * std::log10(std::max(1e-9, now.ownNoise)), 0, 'f', 0) +
                            (now.loop.empty()
                                 ? QString()
                                 : QString(" %1 dB at 20 Hz and %2 dB at 20 kHz of 1 kHz are taken off what "
                                           "is measured; it answers %3 late.")
                                       .arg(now.loopAt(20), 0, 'f', 2)
                                       .arg(now.loopAt(20e3), 0, 'f', 2)
                                       .arg(text(now.latency, Unit::Second))));
    keep->setEnabled(!working.isRunning() && v && r && tone);
    setMinimumHeight(layout()->totalHeightForWidth(std::max(width(), minimumWidth()))); // sentences have come
    keep->setToolTip(keep->isEnabled() ? QString() : "Play the tone and type both readings first");
}

void SoundDeviceDialog::run(std::function<Answer(std::stop_token)> work, const QString& meanwhile) {
    if (working.isRunning()) return;
    state->setText(meanwhile);
    for (QPushButton* b : {play, check, keep}) b->setEnabled(false);
    stop = std::stop_source();
    working.setFuture(QtConcurrent::run([work = std::move(work), token = stop.get_token()] { return work(token); }));
}

void SoundDeviceDialog::playTone() {
    run(
        [c = now](std::stop_token token) {
            Answer out;
            const auto captured = bench::captureCalibrationTone(c, {{}, std::move(token)});
            if (captured)
                out.tone = *captured;
            else
                out.problem = captured.problem().sentence;
            return out;
        },
        "Playing 1 kHz: read both voltages now.");
}

void SoundDeviceDialog::checkAlone() {
    QMessageBox box(QMessageBox::NoIcon, "Check the device alone",
                    "It plays up to 6 dB below full scale. An amplifier at its output would play as loud as it can.\n\n"
                    "Is the amplifier's lead off, and the device's output joined to its input?",
                    QMessageBox::Yes | QMessageBox::Cancel, this);
    box.setDefaultButton(QMessageBox::Cancel);
    box.button(QMessageBox::Yes)->setText("The lead is off");
    if (box.exec() != QMessageBox::Yes) return;
    run(
        [c = now](std::stop_token token) {
            Answer out;
            const auto found = bench::checkLoopback(c, {{}, std::move(token)});
            if (found)
                out.check = *found;
            else
                out.problem = found.problem().sentence;
            return out;
        },
        "Playing 1 kHz, then a sweep: 6 s in all ...");
}

void SoundDeviceDialog::finished() {
    const Answer answer = working.result();
    for (QPushButton* b : {play, check}) b->setEnabled(true);
    if (!answer.problem.empty()) {
        state->setText(text(answer.problem));
    } else if (answer.check) {
        bench::takeLoop(now, *answer.check);
        state->setText("Checked.");
    } else {
        tone = answer.tone;
        state->setText("Type the readings, then keep them.");
    }
    showFigures();
}

void SoundDeviceDialog::save() {
    const auto v = voltsIn(played), r = voltsIn(recorded);
    if (!v || !r || !tone) return;
    now.playedVolts = bench::playedFullScale(*v);
    now.recordedVolts = bench::recordedFullScale(*r, tone->crest);
    if (const auto s = voltsIn(secondRead); s && secondRead->isEnabled() && tone->second > 0)
        now.secondVolts = bench::recordedFullScale(*s, tone->second);
    const auto fresh = bench::soundPorts(); // the mixer as it stands now is what the readings belong to
    if (!fresh) return state->setText(text(fresh.problem().sentence));
    ports = *fresh;
    bench::takeMixer(now, ports);
    const auto done = bench::writeCalibration(bench::calibrationFile(), now);
    if (!done) return state->setText(text(done.problem().text()));
    const auto kept = tone;
    choosePorts();
    tone = kept;
    showFigures();
}

} // namespace ember::app
