#include "bias_station.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/procedure/bias.h"

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {
constexpr int lastStage = procedure::stageCount - 1; // bias is set at the handover

const Valve& valveOf(const Build& b, std::size_t channel, int side) {
    return side == 0 ? b.channels[channel].pair.a : b.channels[channel].pair.b;
}
} // namespace

BiasStation::BiasStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    layout->setSpacing(12);
    auto* name = new QLabel("Bias");
    name->setFont(theme::text(Size::Title, true));
    layout->addWidget(name);
    auto* how = new QLabel("Start with every adjuster cold. Volts across each sense resistor, common clipped on the "
                           "star, one hand. Turn one a little, read its partner, "
                           "then go round again: they share one supply. Read again after 5, 10 and 20 minutes.");
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
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    connect(&document, &Document::logChanged, this, &BiasStation::refresh);
    connect(&document, &Document::practiceChanged, this, &BiasStation::refresh);
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

void BiasStation::rebuild() {
    const Build& b = document.build();
    std::string now;
    for (const Channel& c : b.channels) now += c.id + "/" + c.pair.a.id + "/" + c.pair.b.id + ";";
    if (now == shape) return;
    shape = now;
    rows.clear();
    qDeleteAll(table->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
    delete table->layout();
    auto* grid = new QGridLayout(table);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(11);
    grid->setVerticalSpacing(6);
    const char* heads[] = {"valve",  "sense resistor", "", "plate current", "plate, of its limit",
                           "screen", "adjuster, %"};
    for (int c = 0; c < 7; ++c) {
        auto* h = new QLabel(heads[c]);
        h->setProperty("dim", true);
        h->setFont(theme::text(Size::Small));
        grid->addWidget(h, 0, c);
    }
    for (std::size_t ch = 0; ch < b.channels.size(); ++ch)
        for (int side = 0; side < 2; ++side) {
            const std::size_t k = rows.size();
            const int at = 1 + 2 * static_cast<int>(k);
            const Valve& v = valveOf(b, ch, side);
            Row r{ch,         side,       new QLineEdit, new QLineEdit, new QLabel,
                  new QLabel, new QLabel, new QLabel,    new QLabel,    new QPushButton("practice")};
            const QString tag = QString::fromStdString(v.id).toUpper();
            r.name->setText(QString("%1  <span style='color:%2'>%3, %4</span>")
                                .arg(tag, theme::color(Role::BoneDim).name(), QString::fromStdString(v.type),
                                     QString::fromStdString(b.channels[ch].name).toLower()));
            r.name->setFont(theme::text(static_cast<Size>(15), true));
            r.sense->setObjectName(QString("sense-%1").arg(QString::fromStdString(v.id)));
            r.sense->setAccessibleName(tag + " volts across its sense resistor");
            r.sense->setFont(theme::figures(static_cast<Size>(28), true));
            r.sense->setAlignment(Qt::AlignRight);
            r.sense->setFixedWidth(142);
            r.adjuster->setObjectName(QString("adjuster-%1").arg(QString::fromStdString(v.id)));
            r.adjuster->setAccessibleName(tag + " adjuster position");
            r.adjuster->setFixedWidth(70);
            r.adjuster->setFont(theme::figures(Size::Text));
            for (QLabel* l : {r.current, r.plate, r.screen}) l->setFont(theme::figures(static_cast<Size>(14)));
            r.advice->setWordWrap(true);
            QWidget* cells[] = {r.name, r.sense, r.practice, r.current, r.plate, r.screen, r.adjuster};
            for (int c = 0; c < 7; ++c) grid->addWidget(cells[c], at, c);
            grid->addWidget(r.advice, at + 1, 0, 1, 7);
            grid->setRowMinimumHeight(at + 1, 30);
            connect(r.sense, &QLineEdit::returnPressed, this, [this, k] {
                const auto value = parseWithin(rows[k].sense->text().toStdString(), Unit::Volt, {-50, 50});
                if (!value) return Q_EMIT said(QString::fromStdString(value.problem().sentence), false);
                take(k, *value, "typed");
                if (k + 1 < rows.size()) rows[k + 1].sense->setFocus();
            });
            connect(r.practice, &QPushButton::clicked, this, [this, k] {
                const Row& row = rows[k];
                const std::string valve = valveOf(document.build(), row.channel, row.side).id;
                document.readPractice(
                    6, document.build().mains.volts, text("sense-" + valve), [this, valve](Expected<double> value) {
                        // Of the valve that was asked for, wherever its row is now.
                        for (std::size_t n = 0; value && n < rows.size(); ++n)
                            if (valveOf(document.build(), rows[n].channel, rows[n].side).id == valve)
                                return take(n, *value, "practice");
                        if (!value)
                            Q_EMIT said(QString::fromStdString(value.problem().sentence), false);
                    });
            });
            connect(r.adjuster, &QLineEdit::editingFinished, this, [this, k] { turn(k); });
            rows.push_back(r);
        }
}

void BiasStation::turn(std::size_t k) {
    const Row& r = rows[k];
    const auto percent = parseWithin(rows[k].adjuster->text().toStdString(), Unit::Percent, {0, 100});
    if (!percent) return Q_EMIT said(QString::fromStdString(percent.problem().sentence), false);
    const OutputPair& pair = document.build().channels[r.channel].pair;
    if (std::abs((r.side == 0 ? pair.adjusterA : pair.adjusterB) - *percent / 100) < 1e-6) return;
    const std::string tag = valveOf(document.build(), r.channel, r.side).id;
    const auto done = document.edit(
        setValue(fmt::format("{}'s adjuster to {:.0f} %", tag, *percent),
                 fmt::format("/channels/{}/pair/adjuster{}", r.channel, r.side == 0 ? "A" : "B"), *percent / 100));
    if (!done) Q_EMIT said(QString::fromStdString(done.problem().sentence), false);
}

double BiasStation::lastSense(const std::string& valve) const {
    const auto& log = document.build().log;
    for (auto e = log.rbegin(); e != log.rend(); ++e)
        if (e->kind == "reading" && e->stage >= lastStage && e->point == "sense-" + valve && !e->struck) return e->value;
    return plan::unknown;
}

void BiasStation::take(std::size_t k, double volts, const std::string& source) {
    const Row& r = rows[k];
    const Valve& v = valveOf(document.build(), r.channel, r.side);
    const auto points = procedure::testPoints(document.build());
    procedure::Expectation x;
    x.point = *procedure::findPoint(points, "sense-" + v.id);
    const auto state = stateOf(r, volts);
    QString advice = "no prediction: kept and not judged";
    if (state) {
        x.band = {(state->senseLow + state->senseHigh) / 2, state->senseLow, state->senseHigh};
        if (state->plateWatts > state->plateLimit) x.stopAbove = volts - 1e-9; // the plate is over its limit
        advice = text(state->advice);
    }
    document.log(procedure::readingEntry(x, lastStage, volts, source));
    Q_EMIT said(tag(v.id) + ": " + advice, procedure::judge(x, volts) == procedure::Verdict::InRange);
}

/// Of the newest figures, where they are of a build that has this valve.
std::optional<procedure::BiasState> BiasStation::stateOf(const Row& r, double volts) const {
    const auto& s = document.solved();
    if (!s.figures.nominal || r.channel >= s.figures.nominal->channels.size() || r.channel >= s.build.channels.size())
        return std::nullopt;
    const auto state =
        procedure::biasState(s.build, Catalogue::shipped(), *s.figures.nominal, r.channel, r.side, volts);
    return std::isfinite(state.senseLow) ? std::optional(state) : std::nullopt;
}

void BiasStation::refresh() {
    const auto& f = document.figures();
    for (const Row& r : rows) {
        r.practice->setVisible(document.practising());
        const OutputPair& pair = document.build().channels[r.channel].pair;
        if (!r.adjuster->hasFocus())
            r.adjuster->setText(QString::number(100 * (r.side == 0 ? pair.adjusterA : pair.adjusterB), 'f', 0));
        const double sense = lastSense(valveOf(document.build(), r.channel, r.side).id);
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
        r.screen->setText(any ? QString("%1 of %2")
                                    .arg(text(s.screenWatts, Unit::Watt, 2),
                                         QString::fromStdString(formatExact(s.screenLimit, Unit::Watt)))
                              : "-");
        r.advice->setText(any ? QString::fromStdString(s.advice)
                              : QString("not read yet: %1 to %2 is the band")
                                    .arg(text(s.senseLow, Unit::Volt), text(s.senseHigh, Unit::Volt)));
        const bool good = any && sense >= s.senseLow && sense <= s.senseHigh;
        r.advice->setStyleSheet(QString("color:%1")
                                    .arg(theme::color(good                                 ? Role::Verdigris
                                                      : any && s.plateWatts > s.plateLimit ? Role::Stop
                                                      : any                                ? Role::Ember
                                                                                           : Role::BoneDim)
                                             .name()));
    }
    if (!f.nominal) return;
    const Build& of = document.solved().build;
    target->setText(
        QString("Target: %1 to %2 % of the plate's limit, push-pull with fixed bias. Computed at B+ of %3, the "
                "screen's share taken off as the plan has it. "
                "<span style='color:%4'>Lethal: the plates stand at that voltage while you turn; a screwdriver insulated to "
                "its tip.</span>")
            .arg(100 * procedure::targetLow, 0, 'f', 0)
            .arg(100 * procedure::targetHigh, 0, 'f', 0)
            .arg(text(f.nominal->nodes[static_cast<std::size_t>(of.channels.empty() ? 0 : of.channels[0].plateNode - 1)]
                          .mean,
                      Unit::Volt),
                 theme::color(Role::Ember).name()));
    QString words;
    for (std::size_t k = 0; k + 1 < rows.size(); k += 2) {
        const double a = lastSense(valveOf(document.build(), rows[k].channel, 0).id),
                     b = lastSense(valveOf(document.build(), rows[k].channel, 1).id);
        if (std::isnan(a) || std::isnan(b)) continue;
        const double apart = 200 * std::abs(a - b) / std::max(1e-9, a + b);
        words += QString("%1: halves %2 % apart%3.  ")
                     .arg(QString::fromStdString(document.build().channels[rows[k].channel].name))
                     .arg(apart, 0, 'f', 1)
                     .arg(apart > 5 ? ", bring them within 5 %" : "");
    }
    balance->setText(words);
}

double BiasStation::shareDone() const {
    if (rows.empty() || !document.figures().nominal) return 0;
    double good = 0;
    for (const Row& r : rows) {
        const double sense = lastSense(valveOf(document.build(), r.channel, r.side).id);
        if (std::isnan(sense)) continue;
        const auto s = stateOf(r, sense);
        good += s && sense >= s->senseLow && sense <= s->senseHigh ? 1 : 0.3;
    }
    return good / static_cast<double>(rows.size());
}

} // namespace ember::app
