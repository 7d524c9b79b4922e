#include "bias_station.h"

#include "app/stations/stages/readings_dialog.h"
#include "app/stations/underside/clips_view.h"
#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/procedure/bias.h"
#include "core/schematic/stages/stage_kind.h"

#include <QEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {
constexpr int lastStage = procedure::stageCount - 1; // bias is set at the handover

bool rowsCrowded(std::size_t valves) {
    return valves > 6;
}
} // namespace

BiasStation::BiasStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    layout->setSpacing(12);
    auto* name = new QLabel("Bias");
    name->setFont(theme::text(Size::Title, true));
    auto* head = new QHBoxLayout;
    head->addWidget(name);
    head->addStretch();
    auto* read = new QPushButton("Valves as read...");
    read->setObjectName("readValves");
    read->setToolTip("A tester's readings of each valve, and which of them go together");
    head->addWidget(read);
    layout->addLayout(head);
    connect(read, &QPushButton::clicked, this, [this] {
        for (const Channel& ch : document.build().channels)
            for (const Stage& s : ch.stages)
                if (schematic::isOutput(s) && !s.valves.empty())
                    return static_cast<void>(ReadingsDialog(document, s.valves[0].bottle, this).exec());
        Q_EMIT said("No output valve yet: choose one in Stages.", false);
    });
    how = new QLabel;
    how->setWordWrap(true);
    how->setProperty("dim", true);
    layout->addWidget(how);
    target = new QLabel;
    target->setWordWrap(true);
    layout->addWidget(target);
    table = new QWidget;
    layout->addWidget(table);
    balance = new QLabel;
    balance->setWordWrap(true);
    layout->addWidget(balance);
    layout->addStretch();
    side = new QWidget(this);
    side->hide(); // until the findings take it in
    auto* leads = new QVBoxLayout(side);
    leads->setContentsMargins(0, 0, 0, 0);
    leads->addWidget(label("Where the leads go", static_cast<Size>(15), true));
    leads->addWidget(clips = new ClipsView(document, QBoxLayout::TopToBottom));
    leads->addWidget(label("Both clips on with the plug out.", Size::Small, false, "dim"));
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    connect(&document, &Document::logChanged, this, &BiasStation::refresh);
    connect(&document, &Document::practiceChanged, this, &BiasStation::refresh);
    connect(&document, &Document::stageReady, this, &BiasStation::refresh);
    connect(&document, &Document::buildChanged, this, [this] {
        rebuild();
        refresh();
    });
    rebuild();
    refresh();
}

void BiasStation::arrive() {
    if (!rows.empty()) rows[0].sense->setFocus();
}

bool BiasStation::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::FocusIn)
        for (const Row& r : rows)
            if (r.sense == watched) clips->show(r.place.point);
    return Station::eventFilter(watched, event);
}

void BiasStation::rebuild() {
    const Build& b = document.build();
    std::string now;
    const auto places = procedure::biasPlaces(b, catalogueOf(b));
    for (const procedure::BiasPlace& p : places)
        now += fmt::format("{}/{}/{}/{}/{}/{};", p.channelName, p.point, p.type, p.adjuster, p.ohms, p.sharing);
    if (now == shape) return;
    shape = now;
    rows.clear();
    qDeleteAll(table->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
    delete table->layout();
    auto* grid = new QGridLayout(table);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(11);
    grid->setVerticalSpacing(6);
    const bool pots = std::any_of(places.begin(), places.end(), [](const auto& p) { return p.adjuster >= 0; });
    const char* heads[] = {"Valve",  "Volts in its cathode's lead", "", "Plate current", "Plate, of its limit",
                           "Screen", pots ? "Bias pot, %" : ""};
    for (int c = 0; c < 7; ++c) {
        auto* h = new QLabel(heads[c]);
        h->setProperty("dim", true);
        h->setFont(theme::text(Size::Small));
        grid->addWidget(h, 0, c);
    }
    for (const procedure::BiasPlace& place : places) {
        const std::size_t k = rows.size();
        const int at = 1 + 2 * static_cast<int>(k);
        Row r{place,      new QLineEdit, new QLineEdit,
              new QLabel, new QLabel,    new QLabel,
              new QLabel, new QLabel,    new QPushButton("practice")};
        const QString tag = QString::fromStdString(place.bottle).toUpper();
        r.name->setText(QString("%1  <span style='color:%2'>%3, %4</span>")
                            .arg(tag, theme::color(Role::BoneDim).name(), QString::fromStdString(place.type),
                                 QString::fromStdString(place.channelName).toLower()));
        r.name->setFont(theme::text(static_cast<Size>(15), true));
        r.sense->setObjectName(QString::fromStdString(place.point));
        r.sense->setAccessibleName(
            tag + (place.adjuster >= 0 || place.sharing == 1 ? " volts across its " : " volts across the shared ") +
            QString::fromStdString(formatExact(place.ohms, Unit::Ohm)) + " in the cathode's lead");
        r.sense->setToolTip(QString("across %1%2")
                                .arg(QString::fromStdString(formatExact(place.ohms, Unit::Ohm)),
                                     place.sharing > 1 ? QString(", which %1 valves share").arg(place.sharing) : ""));
        r.sense->setFont(theme::figures(static_cast<Size>(rowsCrowded(places.size()) ? 20 : 28), true));
        r.sense->setAlignment(Qt::AlignRight);
        r.sense->setFixedWidth(142);
        r.adjuster->setObjectName(QString("adjuster-%1").arg(QString::fromStdString(place.bottle)));
        r.adjuster->setAccessibleName(tag + " bias pot position");
        r.adjuster->setFixedWidth(70);
        r.adjuster->setFont(theme::figures(Size::Text));
        for (QLabel* l : {r.current, r.plate, r.screen}) l->setFont(theme::figures(static_cast<Size>(14)));
        r.advice->setWordWrap(true);
        QWidget* cells[] = {r.name, r.sense, r.practice, r.current, r.plate, r.screen, r.adjuster};
        for (int c = 0; c < 7; ++c) grid->addWidget(cells[c], at, c);
        if (place.adjuster < 0) r.adjuster->hide();
        grid->addWidget(r.advice, at + 1, 0, 1, 7);
        grid->setRowMinimumHeight(at + 1, rowsCrowded(places.size()) ? 18 : 30);
        r.sense->installEventFilter(this);
        connect(r.sense, &QLineEdit::returnPressed, this, [this, k] {
            const auto value = parseWithin(rows[k].sense->text().toStdString(), Unit::Volt, {-500, 500});
            if (!value) return Q_EMIT said(QString::fromStdString(value.problem().sentence), false);
            take(k, *value, "typed");
            if (k + 1 < rows.size()) rows[k + 1].sense->setFocus();
        });
        connect(r.practice, &QPushButton::clicked, this, [this, k] {
            const std::string point = rows[k].place.point;
            document.readPractice(6, document.build().mains.volts, text(point), [this, point](Expected<double> value) {
                // Of the point that was asked for, wherever its row is now.
                for (std::size_t n = 0; value && n < rows.size(); ++n)
                    if (rows[n].place.point == point) return take(n, *value, "practice");
                if (!value) Q_EMIT said(QString::fromStdString(value.problem().sentence), false);
            });
        });
        connect(r.adjuster, &QLineEdit::editingFinished, this, [this, k] { turn(k); });
        rows.push_back(r);
    }
    clips->show(rows.empty() ? std::string() : rows[0].place.point);
    if (rows.empty()) {
        auto* none = new QLabel(
            "No output valve of this build has a resistor in its cathode's lead to read its current across: add a "
            "sense resistor, 10 Ω, at the Stages station.");
        none->setWordWrap(true);
        grid->addWidget(none, 1, 0, 1, 7);
    }
}

void BiasStation::turn(std::size_t k) {
    const Row& r = rows[k];
    const auto percent = parseWithin(rows[k].adjuster->text().toStdString(), Unit::Percent, {0, 100});
    if (!percent) return Q_EMIT said(QString::fromStdString(percent.problem().sentence), false);
    const auto adjusters = adjustersOf(document.build());
    const auto at = static_cast<std::size_t>(r.place.adjuster);
    if (r.place.adjuster < 0 || at >= adjusters.size() || std::abs(adjusters[at].position - *percent / 100) < 1e-6)
        return;
    const auto done = document.edit(setValue(fmt::format("{}'s adjuster to {:.0f} %", r.place.bottle, *percent),
                                             adjusters[at].pointer(), *percent / 100));
    if (!done) Q_EMIT said(QString::fromStdString(done.problem().sentence), false);
}

double BiasStation::lastRead(const std::string& point) const {
    const auto& log = document.build().log;
    for (auto e = log.rbegin(); e != log.rend(); ++e)
        if (e->kind == "reading" && e->stage >= lastStage && e->point == point && !e->struck &&
            procedure::strandOf(*e) == document.strand())
            return e->value;
    return plan::unknown;
}

void BiasStation::take(std::size_t k, double volts, const std::string& source) {
    const Row& r = rows[k];
    const auto points = procedure::testPoints(document.build());
    procedure::Expectation x;
    const auto* point = procedure::findPoint(points, r.place.point);
    if (!point) return;
    x.point = *point;
    const auto state = stateOf(r, volts);
    QString advice = "no prediction: kept and not judged";
    if (state) {
        x.band = {(state->senseLow + state->senseHigh) / 2, state->senseLow, state->senseHigh};
        if (std::isfinite(state->stopVolts)) x.stopAbove = state->stopVolts;
        x.ifStopped =
            "Switch off at the outlet, unplug, measure every capacitor; turn it to less current before it is on again.";
        advice = text(state->advice);
    }
    document.takeBias(x, lastStage, volts, source);
    Q_EMIT said(tag(r.place.bottle) + ": " + advice, procedure::judge(x, volts) == procedure::Verdict::InRange);
}

/// Of the newest figures, where they are of a build that has this valve.
std::optional<procedure::BiasState> BiasStation::stateOf(const Row& r, double volts) const {
    const auto& s = document.solved();
    if (!s.figures.nominal) return std::nullopt;
    const auto places = procedure::biasPlaces(s.build, catalogueOf(s.build));
    const auto at = std::find_if(places.begin(), places.end(),
                                 [&](const procedure::BiasPlace& p) { return p.point == r.place.point; });
    if (at == places.end()) return std::nullopt;
    const double plate = lastRead("output-plate-" + at->bottle);
    // At the mains as they were read, once that is solved.
    const plan::Steady* now = &*s.figures.nominal;
    if (document.mainsRead() != s.build.mains.volts)
        if (const auto* step = document.stage(lastStage, document.mainsRead()); step && step->steady)
            now = &*step->steady;
    const auto state = procedure::biasState(s.build, catalogueOf(s.build), *now, *at, volts, plate);
    return std::isfinite(state.senseLow) ? std::optional(state) : std::nullopt;
}

void BiasStation::refresh() {
    const auto& f = document.figures();
    const auto adjusters = adjustersOf(document.build());
    for (const Row& r : rows) {
        r.practice->setVisible(document.practising());
        const auto adjuster = static_cast<std::size_t>(r.place.adjuster);
        if (r.place.adjuster >= 0 && adjuster < adjusters.size() && !r.adjuster->hasFocus())
            r.adjuster->setText(QString::number(100 * adjusters[adjuster].position, 'f', 0));
        const double sense = lastRead(r.place.point);
        const auto found = stateOf(r, sense);
        if (!found) continue;
        const procedure::BiasState& s = *found;
        r.sense->setPlaceholderText(std::isnan(sense) ? "- V" : text(sense, Unit::Volt));
        if (!r.sense->hasFocus()) r.sense->clear();
        if (r.sense->text().isEmpty()) r.sense->setModified(false);
        const bool any = !std::isnan(sense);
        r.current->setText(any ? text(s.plateAmps, Unit::Ampere) : "-");
        r.plate->setText(any ? QString("%1, %2 %")
                                   .arg(text(s.plateWatts, Unit::Watt))
                                   .arg(100 * s.plateWatts / s.plateLimit, 0, 'f', 0)
                             : "-");
        r.screen->setText(any && s.screenLimit > 0
                              ? QString("%1 of %2")
                                    .arg(text(s.screenWatts, Unit::Watt, 2),
                                         QString::fromStdString(formatExact(s.screenLimit, Unit::Watt)))
                              : "-");
        r.advice->setText(
            any ? QString::fromStdString(s.advice)
                : QString("not read yet: the range is %1 to %2%3")
                      .arg(text(s.senseLow, Unit::Volt), text(s.senseHigh, Unit::Volt),
                           std::isfinite(s.stopVolts)
                               ? QString(". Above %1 switch off at the outlet").arg(text(s.stopVolts, Unit::Volt))
                               : QString()));
        const bool good = any && sense >= s.senseLow && sense <= s.senseHigh;
        r.advice->setStyleSheet(QString("color:%1")
                                    .arg(theme::color(good                                 ? Role::Verdigris
                                                      : any && s.plateWatts > s.plateLimit ? Role::Stop
                                                      : any                                ? Role::Ember
                                                                                           : Role::BoneDim)
                                             .name()));
    }
    if (!f.nominal || rows.empty()) {
        target->setText({});
        return;
    }
    const procedure::BiasPlace& first = rows[0].place;
    double plates = plan::unknown;
    if (first.channel < f.nominal->channels.size() && first.valve < f.nominal->channels[first.channel].valves.size())
        plates = f.nominal->channels[first.channel].valves[first.valve].plate;
    how->setText(
        first.adjuster < 0
            ? "Read the volts across each cathode resistor, black clipped on ground, one hand. Read again after "
              "5, 10 and 20 minutes."
            : QString("Start with every bias pot at its most negative end. Read the volts across each sense "
                      "resistor, black clipped on ground, one hand. Turn one a little%1, then go round again: "
                      "they share one supply. Read again after 5, 10 and 20 minutes.")
                  .arg(first.pushPull ? ", read its partner" : ""));
    const QString lethal = QString("<span style='color:%1'>Lethal: %2 at the plates while you %3</span>")
                               .arg(theme::color(Role::Ember).name(), text(plates, Unit::Volt),
                                    first.adjuster >= 0 ? "turn. Use a screwdriver insulated to its tip."
                                                        : "read. Change parts with the plug out.");
    target->setText(
        first.adjuster < 0
            ? "Cathode bias: nothing is set here. The range is what the plan predicts of each valve. " + lethal
            : QString(
                  "Target: %1 to %2 % of the plate's limit, %3 with fixed bias. Computed with the plate volts as read, "
                  "else with %4; the screen's share is taken off. %5")
                  .arg(100 * (first.pushPull ? procedure::targetLow : procedure::classALow), 0, 'f', 0)
                  .arg(100 * (first.pushPull ? procedure::targetHigh : procedure::classAHigh), 0, 'f', 0)
                  .arg(first.pushPull ? "push-pull" : "single-ended", text(plates, Unit::Volt), lethal));
    // The two sides of each channel that has two.
    QString words;
    for (const Channel& ch : document.build().channels) {
        double half[2] = {0, 0};
        bool read = true, two = false;
        for (const Row& r : rows) {
            if (r.place.channelName != ch.name || r.place.sharing > 1) continue;
            const double volts = lastRead(r.place.point);
            read = read && std::isfinite(volts);
            half[r.place.side == 'b'] += volts / r.place.ohms;
            two = two || r.place.side == 'b';
        }
        if (!read || !two) continue;
        const double apart = 200 * std::abs(half[0] - half[1]) / std::max(1e-9, half[0] + half[1]);
        words += QString("%1: halves %2 % apart%3.  ")
                     .arg(QString::fromStdString(ch.name))
                     .arg(apart, 0, 'f', 1)
                     .arg(apart > 5 ? ", bring them within 5 %" : "");
    }
    balance->setText(words);
}

double BiasStation::shareDone() const {
    if (rows.empty() || !document.figures().nominal) return 0;
    double good = 0;
    for (const Row& r : rows) {
        const double sense = lastRead(r.place.point);
        if (std::isnan(sense)) continue;
        const auto s = stateOf(r, sense);
        good += s && sense >= s->senseLow && sense <= s->senseHigh ? 1 : 0.3;
    }
    return good / static_cast<double>(rows.size());
}

} // namespace ember::app
