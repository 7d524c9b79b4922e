#include "measure_controls.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/bench/second_input.h"

#include <QAbstractItemView>
#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QVBoxLayout>

#include <cmath>
#include <numbers>

namespace ember::app {

using theme::Size;

namespace {
constexpr int byTones = -1, firstSeries = 100, firstPage = 200; // of the menu's data; a take's kind below
} // namespace

MeasureControls::MeasureControls(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    const auto add = [&](QHBoxLayout* to, const char* caption, QWidget* field, const char* object,
                         const char* accessible) {
        auto* word = label(caption, Size::Text, false, "dim");
        to->addWidget(word);
        field->setObjectName(object);
        field->setAccessibleName(accessible);
        to->addWidget(field);
        fields.emplace_back(field, word);
    };
    const auto combo = [&](QHBoxLayout* to, const char* caption, const char* object, const char* accessible) {
        auto* c = new QComboBox;
        add(to, caption, c, object, accessible);
        return c;
    };
    const auto edit = [&](QHBoxLayout* to, const char* caption, const QString& text, const char* object,
                          const char* accessible, int width) {
        auto* e = new QLineEdit(text);
        e->setFixedWidth(width);
        e->setFont(theme::figures(Size::Text));
        add(to, caption, e, object, accessible);
        connect(e, &QLineEdit::returnPressed, this, &MeasureControls::takeAsked);
        connect(e, &QLineEdit::editingFinished, this, &MeasureControls::changed);
        return e;
    };
    auto* head = new QHBoxLayout;
    head->addWidget(label("Measure", Size::Title, true));
    head->addStretch();
    source = combo(head, "with", "takeWith", "What takes are made with");
    source->addItem("practice bench", static_cast<int>(Document::Bench::Practice));
    source->addItem("sound device", static_cast<int>(Document::Bench::SoundDevice));
    auto* device = new QPushButton("Sound device...");
    device->setObjectName("soundDevice");
    head->addWidget(device);
    fullScale = edit(head, "file's full scale", "20 V", "fullScale", "Volts of a full-scale sample in the file", 70);
    auto* file = new QPushButton("Open a capture...");
    file->setObjectName("openCapture");
    head->addWidget(file);
    layout->addLayout(head);
    auto* row = new QHBoxLayout;
    channels = combo(row, "channel", "takeChannel", "Channel");
    what = combo(row, "measure", "takeKind", "What is measured");
    for (const bench::TakeForm& form : bench::takeForms())
        if (form.alone) what->addItem(form.caption, static_cast<int>(form.kind));
    what->insertItem(2, "response by 31 tones", byTones);
    what->insertSeparator(what->count());
    for (const bench::SeriesForm& form : bench::seriesForms()) {
        what->addItem(form.caption, firstSeries + static_cast<int>(form.kind));
        what->setItemData(what->count() - 1, form.about, Qt::ToolTipRole);
    }
    what->insertSeparator(what->count());
    what->addItem("soak, for hours", firstPage + static_cast<int>(Page::Soak));
    what->addItem("select a part on test", firstPage + static_cast<int>(Page::Select));
    what->setMaxVisibleItems(24);
    what->setMaximumWidth(215);
    frequency = combo(row, "at", "toneHertz", "Frequency of tone or square wave");
    for (const double hz : {20.0, 100.0, 1e3, 10e3, 20e3}) frequency->addItem(text(formatExact(hz, Unit::Hertz)), hz);
    frequency->setCurrentIndex(2);
    input = edit(row, "input", "50 mV", "input", "Input level, volts RMS", 80);
    input->setToolTip("RMS of a tone; other signals get the same crest");
    watts = edit(row, "power", "1 W", "watts", "Power in the load", 60);
    list = edit(row, "at", "20 40 100 1k 10k 20k", "frequencies", "Frequencies, separated by spaces", 166);
    second = edit(row, "second load", "16", "secondLoad", "Second load, ohms", 60);
    beside = combo(row, "2nd input", "secondInput", "What the recorder's second input is across");
    // The row has to fit into the smallest window: what is chosen may be cut, the menus show it whole.
    for (QComboBox* c : {what, beside}) {
        c->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        c->setMinimumContentsLength(8);
        c->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        c->view()->setTextElideMode(Qt::ElideNone);
    }
    beside->setMaximumWidth(160);
    every = new QCheckBox("all channels");
    every->setObjectName("everyChannel");
    every->setToolTip("Every channel is driven alike, each into its load; else this one alone");
    row->addWidget(every);
    speaker = new QPushButton("Its impedance...");
    speaker->setObjectName("loudspeakerFile");
    speaker->setToolTip("A table of the loudspeaker's impedance, frequency and ohms; else a typical one is taken");
    row->addWidget(speaker);
    connect(speaker, &QPushButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getOpenFileName(this, "The loudspeaker's impedance", {},
                                                            "Tables (*.csv *.tsv *.txt *.zma);;All files (*)");
        if (!chosen.isEmpty()) openImpedance(chosen);
    });
    takeNow = new QPushButton("Take");
    takeNow->setObjectName("take");
    takeNow->setProperty("main", true);
    takeNow->setShortcut(QKeySequence("Ctrl+R"));
    row->addWidget(takeNow);
    cancel = new QPushButton("Cancel");
    cancel->setObjectName("cancelTake");
    cancel->setShortcut(QKeySequence("Ctrl+."));
    cancel->hide();
    row->addWidget(cancel);
    row->addStretch();
    layout->addLayout(row);
    connect(takeNow, &QPushButton::clicked, this, &MeasureControls::takeAsked);
    connect(cancel, &QPushButton::clicked, this, &MeasureControls::cancelAsked);
    connect(device, &QPushButton::clicked, this, &MeasureControls::deviceAsked);
    connect(file, &QPushButton::clicked, this, &MeasureControls::fileAsked);
    for (QComboBox* c : {source, channels, what, frequency, beside})
        connect(c, &QComboBox::currentIndexChanged, this, &MeasureControls::changed);
    connect(every, &QCheckBox::toggled, this, &MeasureControls::changed);
}

std::optional<bench::TakeKind> MeasureControls::take() const {
    const int kind = what->currentData().toInt();
    return kind < 0 || kind >= firstSeries ? std::nullopt : std::optional(static_cast<bench::TakeKind>(kind));
}

std::optional<bench::SeriesKind> MeasureControls::series() const {
    const int kind = what->currentData().toInt();
    return kind < firstSeries || kind >= firstPage ? std::nullopt
                                                   : std::optional(static_cast<bench::SeriesKind>(kind - firstSeries));
}

MeasureControls::Page MeasureControls::page() const {
    const int kind = what->currentData().toInt();
    return kind < firstPage ? Page::None : static_cast<Page>(kind - firstPage);
}

void MeasureControls::choosePage(Page page) {
    what->setCurrentIndex(what->findData(firstPage + static_cast<int>(page)));
}

void MeasureControls::choose(std::optional<bench::TakeKind> kind) {
    what->setCurrentIndex(what->findData(kind ? static_cast<int>(*kind) : byTones));
}

void MeasureControls::chooseSeries(bench::SeriesKind kind) {
    what->setCurrentIndex(what->findData(firstSeries + static_cast<int>(kind)));
}

Document::Bench MeasureControls::bench() const {
    return static_cast<Document::Bench>(source->currentData().toInt());
}

std::size_t MeasureControls::channel() const {
    return static_cast<std::size_t>(std::max(0, channels->currentIndex()));
}

QString MeasureControls::caption() const {
    return what->currentText();
}

Expected<double> MeasureControls::inputVolts() const {
    return parseWithin(input->text().toStdString(), Unit::Volt, {1e-5, 50});
}

Expected<double> MeasureControls::fileFullScale() const {
    return parseWithin(fullScale->text().toStdString(), Unit::Volt, {1e-3, 1e5});
}

bench::TakeRequest MeasureControls::asked(double volts) const {
    bench::TakeRequest r{take().value_or(bench::TakeKind::Tone), channel(), volts, frequency->currentData().toDouble()};
    if (const int chosen = beside->currentIndex(); chosen >= 0) r.setup = besides[static_cast<std::size_t>(chosen)];
    return r;
}

/// Its choices are those of the take that is chosen; where they end, nothing is recorded beside it.
void MeasureControls::listSecondInputs() {
    using enum bench::SecondInput;
    const auto& all = document.build().channels;
    const QSignalBlocker quiet(beside);
    const bench::Setup before = asked(0).setup;
    beside->clear();
    besides.clear();
    const auto add = [&](bench::SecondInput where, bool everyChannel, const QString& words) {
        if (!take() || !bench::secondInputFits(*take(), where)) return;
        bench::Setup& s = besides.emplace_back();
        s.second = where, s.everyChannel = everyChannel;
        beside->addItem(words);
        if (s == before) beside->setCurrentIndex(beside->count() - 1);
    };
    add(Nothing, false, "nothing");
    add(Input, false, "its input");
    if (all.size() > 1) {
        const QString next = text(all[bench::nextChannel(channel(), all.size())].name);
        add(NextChannel, false, next);
        if (take() != bench::TakeKind::Noise) add(NextChannel, true, next + ", driven");
    }
}

Expected<bench::SeriesRequest> MeasureControls::askedSeries() const {
    bench::SeriesRequest r;
    r.kind = series().value_or(bench::SeriesKind::Power);
    r.channel = channel();
    r.hertz = frequency->currentData().toDouble();
    const double line = lineOhms(); // of a line the volts are asked for
    const auto power = line > 0 ? parseWithin(watts->text().toStdString(), Unit::Volt, {1e-3, 1e3})
                                : parseWithin(watts->text().toStdString(), Unit::Watt, {1e-6, 1e4});
    if (!power) return power.problem();
    r.watts = line > 0 ? *power * *power / line : *power;
    r.loudspeaker = loudspeaker;
    r.everyChannel = every->isChecked() && every->isVisibleTo(this);
    if (r.kind == bench::SeriesKind::OutputImpedance) {
        const auto ohms = parseWithin(second->text().toStdString(), Unit::Ohm, {0.1, 1e6});
        if (!ohms) return ohms.problem();
        r.secondLoad = *ohms;
    }
    if (r.kind == bench::SeriesKind::Power) {
        r.frequencies.clear();
        for (const QString& part : list->text().split(' ', Qt::SkipEmptyParts)) {
            const auto hz = parseWithin(part.toStdString(), Unit::Hertz, {10, 20e3});
            if (!hz) return hz.problem();
            r.frequencies.push_back(*hz);
        }
        if (r.frequencies.empty() || r.frequencies.size() > 31)
            return Problem{"",
                           "frequencies: one to 31 of them are expected, separated by spaces, such as 20 100 1k 10k"};
    }
    return r;
}

void MeasureControls::openImpedance(const QString& file) {
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly) || in.size() > 4'000'000)
        return Q_EMIT said(file + ": cannot be read, or is no table of an impedance", false);
    std::vector<std::pair<double, double>> points;
    static const QRegularExpression separators("[,;\\s]+");
    while (!in.atEnd()) {
        const QStringList columns = QString::fromUtf8(in.readLine()).trimmed().split(separators, Qt::SkipEmptyParts);
        bool readHertz = false, readOhms = false;
        if (columns.size() < 2) continue;
        const double hz = columns[0].toDouble(&readHertz), ohms = columns[1].toDouble(&readOhms);
        if (readHertz && readOhms) points.emplace_back(hz, ohms); // else a heading
    }
    const auto l = bench::loudspeakerFrom(points);
    if (!l) return Q_EMIT said(file + ": " + text(l.problem().sentence), false);
    loudspeaker = *l;
    Q_EMIT said(QString("The loudspeaker: %1, resonance %2 at %3.")
                    .arg(text(l->ohms, Unit::Ohm), text(l->ohms + l->resonanceOhms, Unit::Ohm),
                         text(1 / (2 * std::numbers::pi * std::sqrt(l->farads * l->coil)), Unit::Hertz)),
                true);
    Q_EMIT changed();
}

void MeasureControls::refresh(bool ready) {
    const Build& b = document.build();
    if (channels->count() != static_cast<int>(b.channels.size())) {
        const QSignalBlocker quiet(channels);
        channels->clear();
        for (const Channel& c : b.channels) channels->addItem(QString::fromStdString(c.name));
    }
    const auto kind = take();
    const auto many = series();
    const bench::SeriesForm* form = many ? &bench::formOf(*many) : nullptr;
    const auto shown = [&](QWidget* field, bool visible) {
        for (const auto& [f, word] : fields)
            if (f == field) f->setVisible(visible), word->setVisible(visible);
    };
    const bool selecting = page() == Page::Select;
    shown(input, !form && !selecting);
    shown(frequency, !selecting && (!form || form->atFrequency));
    takeNow->setVisible(!selecting && !cancel->isVisibleTo(this));
    takeNow->setText(page() == Page::Soak ? "Begin" : "Take");
    shown(watts, form && form->atPower);
    shown(list, many == bench::SeriesKind::Power);
    shown(second, many == bench::SeriesKind::OutputImpedance);
    listSecondInputs();
    shown(beside, beside->count() > 1);
    speaker->setVisible(many == bench::SeriesKind::ResponseWithLoudspeaker);
    every->setVisible(b.channels.size() > 1 &&
                      (many == bench::SeriesKind::Power || many == bench::SeriesKind::DistortionByPower ||
                       many == bench::SeriesKind::DistortionByFrequency || many == bench::SeriesKind::DriveByControl));
    frequency->setEnabled(form ? form->atFrequency : kind ? bench::formOf(*kind).atFrequency : page() == Page::Soak);
    input->setEnabled(kind != bench::TakeKind::Noise);
    takeNow->setEnabled(ready && !document.taking());
    takeNow->setToolTip(
        ready ? "Takes what is chosen; Ctrl+R takes it again"
              : "Turn the practice bench on (Practice menu), choose the sound device, or open a capture.");
    proposeLevel();
}

void MeasureControls::showTaking(bool under) {
    // One in the other's place, the one that goes first: the row has no room for both.
    (under ? takeNow : cancel)->hide();
    (under ? cancel : takeNow)->show();
    if (under) takeNow->setEnabled(false);
}

/// Proposed, until the builder says another: the level for 1 W, or for 1 V of a line; a second load of twice the first.
void MeasureControls::proposeLevel() {
    const auto& f = document.figures();
    const auto at = channel();
    if (at >= f.power.size() || !(f.power[at].gain > 0)) return;
    if (input->text() != proposed || input->hasFocus()) return;
    proposed = text(f.power[at].referenceVolts() / f.power[at].gain, Unit::Volt, 2);
    input->setText(proposed);
    second->setText(text(formatExact(2 * f.power[at].load, Unit::Ohm)));
    const QString reference = f.power[at].reference(), other = f.power[at].line() ? "1 W" : "1 V";
    if (watts->text() == other) watts->setText(reference);
    watts->setAccessibleName(f.power[at].line() ? "Volts at the output" : "Power in the load");
}

double MeasureControls::lineOhms() const {
    const auto& f = document.figures();
    return channel() < f.power.size() && f.power[channel()].line() ? f.power[channel()].load : 0;
}

} // namespace ember::app
