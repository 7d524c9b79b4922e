#include "first_power_station.h"

#include "app/stations/underside/clips_view.h"
#include "app/stations/underside/underside_picture.h"
#include "app/theme/theme.h"
#include "app/widgets/band_scale.h"
#include "app/widgets/lamp_view.h"
#include "app/widgets/share_bars.h"
#include "app/widgets/words.h"
#include "discharge_clock.h"
#include "reading_table.h"

#include "core/procedure/changes.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QShortcut>

#include <algorithm>
#include <cmath>

namespace ember::app {

using procedure::Expectation;
using procedure::Verdict;
using theme::Role;
using theme::Size;

FirstPowerStation::FirstPowerStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 12, 12, 8);
    auto* head = new QHBoxLayout;
    head->addWidget(label("First Power", Size::Title, true));
    head->addSpacing(12);
    for (int k = 0; k < procedure::stageCount; ++k) {
        auto* b = new QPushButton(QString::fromUtf8(procedure::stageName(k).data()));
        b->setProperty("tab", true);
        b->setCheckable(true);
        b->setFont(theme::text(Size::Small));
        b->setStyleSheet("margin-right:4px");
        connect(b, &QPushButton::clicked, this, [this, k] { showStage(k); });
        dots.push_back(b);
        head->addWidget(b);
    }
    head->addStretch();
    layout->addLayout(head);

    layout->addWidget(title = label("", static_cast<Size>(15), true));
    layout->addWidget(instruction = label("", Size::Text, false, "dim"));
    instruction->setTextFormat(Qt::RichText);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(12);
    middle->addWidget(clips = new ClipsView(document, QBoxLayout::LeftToRight), 1);
    auto* column = new QWidget;
    column->setFixedWidth(288);
    auto* right = new QVBoxLayout(column);
    right->setContentsMargins(0, 0, 0, 0);
    right->setSpacing(4);
    right->addWidget(pointLabel = label("", Size::Text, true));
    right->addWidget(probe = label("", Size::Small, false, "dim"));
    auto* big = new QHBoxLayout;
    reading = new QLineEdit;
    reading->setObjectName("reading");
    reading->setAccessibleName("Reading");
    reading->setFont(theme::figures(static_cast<Size>(38), true)); // to be read from two metres
    reading->setAlignment(Qt::AlignRight);
    reading->setFixedHeight(62);
    big->addWidget(reading, 1);
    unit = new QLabel;
    unit->setFont(theme::figures(static_cast<Size>(22)));
    unit->setFixedWidth(30);
    big->addWidget(unit);
    right->addLayout(big);
    right->addWidget(scale = new BandScale);
    right->addWidget(verdict = label("", Size::Text, true));
    right->addWidget(stop = label("", Size::Text, false));
    stop->setTextFormat(Qt::RichText);
    right->addStretch();
    right->addWidget(lamp = new LampView);
    middle->addWidget(column);
    layout->addLayout(middle, 5);

    rows = new ReadingTable;
    rows->setMinimumHeight(104);
    layout->addWidget(rows, 2);
    connect(rows, &QTableWidget::currentCellChanged, this, [this](int r) {
        if (r >= 0 && r != row) {
            row = r;
            showPoint();
        }
    });

    auto* foot = new QHBoxLayout;
    auto* mainsWord = label("Mains as read", Size::Small, false, "dim");
    mainsWord->setWordWrap(false);
    foot->addWidget(mainsWord);
    mainsField = new QLineEdit;
    mainsField->setAccessibleName("Mains as read");
    mainsField->setFixedWidth(86);
    mainsField->setFont(theme::figures(Size::Text));
    connect(mainsField, &QLineEdit::editingFinished, this, [this] {
        const Mains& m = document.build().mains;
        const auto v = parseWithin(mainsField->text().toStdString(), Unit::Volt, {0.7 * m.volts, 1.2 * m.volts});
        if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
        document.setMainsRead(*v);
    });
    connect(&document, &Document::mainsReadChanged, this, &FirstPowerStation::refresh);
    foot->addWidget(mainsField);
    fromPractice = new QPushButton("Read practice");
    fromPractice->setObjectName("fromPractice");
    fromPractice->setToolTip("F5");
    connect(fromPractice, &QPushButton::clicked, this, [this] {
        const Expectation* e = expectation();
        if (!e) return;
        // Filed under what was asked, whatever is looked at when the answer comes.
        document.readPractice(index, document.mainsRead(), text(e->point.id),
                              [this, asked = e->point, at = index](Expected<double> v) {
                                  if (v)
                                      take(asked, at, *v, "practice");
                                  else
                                      Q_EMIT said(text(v.problem().sentence), false);
                              });
    });
    foot->addWidget(fromPractice);
    foot->addStretch();
    auto* words = new QPushButton("Explain…");
    words->setToolTip("F2");
    connect(words, &QPushButton::clicked, this, &FirstPowerStation::explain);
    foot->addWidget(words);
    off = new QPushButton("I have switched off");
    off->setObjectName("switchedOff");
    off->setToolTip("F8: starts the discharge clock");
    connect(off, &QPushButton::clicked, this, &FirstPowerStation::switchedOff);
    foot->addWidget(off);
    next = new QPushButton("Mark step as passed");
    next->setObjectName("stagePassed");
    next->setProperty("main", true);
    connect(next, &QPushButton::clicked, this, &FirstPowerStation::passStage);
    foot->addWidget(next);
    again = new QPushButton("Begin the step again");
    again->setObjectName("beginAgain");
    again->setProperty("main", true);
    connect(again, &QPushButton::clicked, this, [this] { document.beginAgain(index); });
    again->hide(); // one of the two at a time: a row of both would widen the window
    foot->addWidget(again);
    layout->addLayout(foot);

    connect(reading, &QLineEdit::returnPressed, this, &FirstPowerStation::takeTyped);
    const auto key = [this](const QKeySequence& k, auto f) {
        auto* s = new QShortcut(k, this);
        s->setContext(Qt::WidgetWithChildrenShortcut);
        connect(s, &QShortcut::activated, this, f);
    };
    key(Qt::Key_F2, [this] { explain(); });
    key(Qt::Key_F5, [this] { fromPractice->click(); });
    key(QKeySequence("Ctrl+0"), [this] { clips->picture->showAll(); });
    key(Qt::Key_PageDown, [this] { rows->selectRow(std::min(row + 1, rows->rowCount() - 1)); });
    key(Qt::Key_PageUp, [this] { rows->selectRow(std::max(row - 1, 0)); });
    buildSide();
    connect(&document, &Document::stageReady, this, [this](int k) {
        if (k == index) refresh();
    });
    connect(&document, &Document::suspected, this, [this](int k) {
        if (k == index) showCauses();
    });
    connect(&document, &Document::logChanged, this, &FirstPowerStation::refreshDots);
    connect(&document, &Document::logChanged, this, &FirstPowerStation::fillRows);
    connect(&document, &Document::figuresChanged, this, &FirstPowerStation::showObstacles);
    connect(&document, &Document::practiceChanged, this, [this] {
        fromPractice->setVisible(document.practising());
        whenSeen([this] { refresh(); });
    });
    connect(&document, &Document::buildChanged, this, [this] { whenSeen([this] { refresh(); }); });
    fromPractice->setVisible(document.practising());
}

void FirstPowerStation::buildSide() {
    side = new QWidget(this);
    side->hide(); // until the findings take it in
    auto* layout = new QVBoxLayout(side);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(danger = label("", Size::Text, false));
    danger->setObjectName("danger");
    danger->setTextFormat(Qt::RichText);
    suspects = new QWidget;
    suspects->setObjectName("suspects");
    auto* what = new QVBoxLayout(suspects);
    what->setContentsMargins(0, 0, 0, 0);
    what->addWidget(label("What would explain the readings", static_cast<Size>(15), true));
    what->addWidget(shares = new ShareBars);
    what->addWidget(label("Best next reading", static_cast<Size>(15), true));
    what->addWidget(nextBest = label("", Size::Text, false));
    nextBest->setObjectName("nextBest");
    nextBest->setTextFormat(Qt::RichText);
    suspects->hide();
    layout->addWidget(suspects);
    layout->addWidget(before = label("", Size::Text, false));
    before->setObjectName("obstacles");
    before->setTextFormat(Qt::RichText);
    layout->addWidget(exchange = new QPushButton);
    exchange->setObjectName("exchanged");
    connect(exchange, &QPushButton::clicked, this, [this] {
        if (const auto all = procedure::openChanges(document.build()); !all.empty()) document.exchanged(all[0].part);
    });
    layout->addSpacing(8);
    layout->addWidget(causes = label("", Size::Text, false));
    causes->setObjectName("causes");
    causes->setTextFormat(Qt::RichText);
    layout->addSpacing(8);
    layout->addWidget(label("Before working inside", static_cast<Size>(15), true));
    layout->addWidget(clock = new DischargeClock(document.dischargeWatch()));
    layout->addWidget(
        label("Follow your local electrical code. If you are unsure about the mains side, have a licensed electrician "
              "do it.",
              Size::Small, false, "faint"));
}

double FirstPowerStation::shareDone() const {
    // Of the amplifier: practice proves nothing of it.
    return static_cast<double>(procedure::currentStage(document.build())) / procedure::stageCount;
}

void FirstPowerStation::arrive() {
    if (!stage())
        showStage(std::min(procedure::currentStage(document.build(), document.strand()), procedure::stageCount - 1));
    reading->setFocus();
}

const procedure::PowerStage* FirstPowerStation::stage() const {
    return document.stage(index, document.mainsRead());
}

const Expectation* FirstPowerStation::expectation() const {
    const auto* s = stage();
    return s && row < static_cast<int>(s->expectations.size()) ? &s->expectations[static_cast<std::size_t>(row)]
                                                               : nullptr;
}

void FirstPowerStation::showStage(int k) {
    index = k;
    row = 0;
    if (const auto* s = stage()) { // where the work goes on
        const auto unread = std::find_if(s->expectations.begin(), s->expectations.end(), [&](const Expectation& e) {
            return !procedure::shownReading(document.build(), index, e.point, document.strand());
        });
        if (unread != s->expectations.end()) row = static_cast<int>(unread - s->expectations.begin());
    }
    refresh();
}

void FirstPowerStation::refreshDots() {
    const int current = procedure::currentStage(document.build(), document.strand());
    for (std::size_t k = 0; k < dots.size(); ++k) {
        dots[k]->setChecked(static_cast<int>(k) == index);
        const QString name = QString::fromUtf8(procedure::stageName(static_cast<int>(k)).data());
        dots[k]->setText((static_cast<int>(k) < current ? "✓ " : "") + name);
        dots[k]->setAccessibleName(name + (static_cast<int>(k) < current ? ", passed" : ""));
    }
}

/// Why the step cannot be passed, beside what was changed in the plan alone.
void FirstPowerStation::showObstacles() {
    const auto* s = stage();
    const auto against = s ? document.obstaclesTo(*s) : std::vector<std::string>{};
    const auto changed = procedure::openChanges(document.build());
    exchange->setVisible(!changed.empty() && !document.practising());
    if (!changed.empty()) exchange->setText("Confirm: " + tag(changed[0].part) + " is exchanged");
    next->setEnabled(s && against.empty());
    QString words;
    if (!against.empty()) words = "<b>" + coloured(Role::Ember, "Before this step is passed") + "</b>";
    constexpr std::size_t most = 6;
    for (std::size_t k = 0; k < std::min(most, against.size()); ++k) words += "<br>" + text(against[k]).toHtmlEscaped();
    if (against.size() > most) words += QString("<br>and %1 more").arg(against.size() - most);
    before->setText(words);
    before->setVisible(!words.isEmpty());
    next->setToolTip(against.empty() ? QString() : text(against[0]));
}

void FirstPowerStation::refresh() {
    mainsField->setText(text(document.mainsRead(), Unit::Volt, 4));
    refreshDots();
    const auto* s = stage();
    showObstacles();
    if (!s) {
        title->setText("Computing what the meter will read …");
        rows->setRowCount(0);
        return;
    }
    title->setText(QString::fromStdString(s->title));
    QString words;
    for (const std::string& refusal : s->refusals)
        words += "<b>" + coloured(Role::Stop, text(refusal).toHtmlEscaped()) + "</b><br>";
    instruction->setText(words + text(s->instruction).toHtmlEscaped());
    stop->setText("<b>" + coloured(Role::Stop, "Stop if ") + "</b>" + text(s->stopIf).toHtmlEscaped());
    words = s->cautions.empty() ? QString() : "<b>" + coloured(Role::Ember, "Danger now") + "</b>";
    for (std::size_t k = 0; k < s->cautions.size(); ++k)
        words += k == 0 ? "<br>" + coloured(Role::Ember, text(s->cautions[k]).toHtmlEscaped())
                        : "<br>" + text(s->cautions[k]).toHtmlEscaped();
    danger->setText(words);
    danger->setVisible(!words.isEmpty());
    if (s->conditions.limiter) {
        const double watts = document.build().limiter.watts;
        QString through;
        if (const auto& c = s->lampCurve; c.flashKelvin > 1.08 * s->lamp.kelvin)
            through = QString("First %1, at %2; as drawn after %3")
                          .arg(text(procedure::glow(c.flashKelvin)), text(c.flashSeconds, Unit::Second, 2),
                               text(c.settledSeconds, Unit::Second, 2));
        lamp->show(
            s->lamp.kelvin, text(procedure::glow(s->lamp.kelvin)),
            QString("%1 lamp: %2, %3")
                .arg(text(watts, Unit::Watt), text(s->lamp.volts, Unit::Volt), text(s->lamp.kelvin, Unit::Kelvin)),
            through, true);
    } else {
        lamp->show(293, s->powered ? "lamp taken out" : "unplugged", s->powered ? "full mains" : "no power", {}, false);
    }
    if (!s->failure.empty()) Q_EMIT said(QString::fromStdString(s->failure), false);
    fillRows();
    // Before the first power too: what an amplifier that ran before may hold.
    clock->show(s->discharge.seconds.empty() ? document.figures().discharge : s->discharge, s->dischargeHot);
    if (isVisible()) document.showMoment(s->steady);
}

void FirstPowerStation::showEvent(QShowEvent* e) {
    Station::showEvent(e);
    const auto* s = stage();
    document.showMoment(s ? s->steady : std::nullopt);
}

void FirstPowerStation::hideEvent(QHideEvent*) {
    document.showMoment(std::nullopt);
}

void FirstPowerStation::fillRows() {
    const auto* s = stage();
    if (!s) return;
    const QSignalBlocker quiet(rows);
    rows->fill(*s, document.build(), document.strand());
    const bool ended = procedure::stageEnded(document.build(), index, document.strand());
    showObstacles();
    next->setVisible(!ended);
    again->setVisible(ended);
    reading->setEnabled(!ended);

    row = std::min(row, std::max(0, rows->rowCount() - 1));
    if (rows->rowCount()) rows->selectRow(row);
    showPoint();
}

void FirstPowerStation::passStage() {
    if (!document.passStage(index)) return showObstacles();
    if (index + 1 < procedure::stageCount)
        showStage(index + 1);
    else
        refresh();
}

void FirstPowerStation::switchedOff() {
    document.switchedOff(index);
    showStage(index); // its capacitors are read again before power
}

} // namespace ember::app
