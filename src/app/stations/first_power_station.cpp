#include "first_power_station.h"

#include "app/theme/theme.h"
#include "app/widgets/band_scale.h"
#include "app/widgets/lamp_view.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QShortcut>
#include <QTableWidget>
#include <QTimer>

#include <cmath>

namespace ember::app {

using procedure::Expectation;
using procedure::Verdict;
using theme::Role;
using theme::Size;

namespace {

QString text(double v, Unit u, int digits = 3) {
    return QString::fromStdString(format(v, u, digits));
}
QString rich(Role role, const QString& s) {
    return QString("<span style='color:%1'>%2</span>").arg(theme::color(role).name(), s.toHtmlEscaped());
}
QString range(const Expectation& e) {
    const Unit u = e.point.unit();
    return std::isinf(e.band.high) ? text(e.band.low, u) + " or more"
                                   : text(e.band.low, u) + " to " + text(e.band.high, u);
}
QLabel* label(const QString& s, Size size, bool bold, const char* property = nullptr) {
    auto* l = new QLabel(s);
    l->setFont(theme::text(size, bold));
    l->setWordWrap(true);
    if (property) l->setProperty(property, true);
    return l;
}

} // namespace

FirstPowerStation::FirstPowerStation(Document& d, QWidget* parent)
    : Station(d, "first-power", "First Power", "PROVE", parent) {
    mainsVolts = document.build().mains.volts;
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

    auto* middle = new QHBoxLayout;
    lamp = new LampView;
    lamp->setFixedWidth(210);
    middle->addWidget(lamp);
    middle->addSpacing(14);
    auto* right = new QVBoxLayout;
    right->setSpacing(5);
    right->addWidget(title = label("", static_cast<Size>(15), true));
    right->addWidget(instruction = label("", Size::Text, false, "dim"));
    right->addWidget(stop = label("", Size::Text, false));
    stop->setTextFormat(Qt::RichText);
    auto* big = new QHBoxLayout;
    auto* where = new QVBoxLayout;
    where->addWidget(pointLabel = label("", Size::Text, true));
    where->addWidget(probe = label("", Size::Small, false, "dim"));
    where->addStretch();
    big->addLayout(where, 3);
    reading = new QLineEdit;
    reading->setObjectName("reading");
    reading->setAccessibleName("Reading");
    reading->setFont(theme::figures(Size::Big, true));
    reading->setAlignment(Qt::AlignRight);
    reading->setFixedHeight(58);
    reading->setMinimumWidth(190);
    big->addWidget(reading, 3);
    unit = new QLabel;
    unit->setFont(theme::figures(static_cast<Size>(22)));
    unit->setFixedWidth(34);
    big->addWidget(unit);
    right->addLayout(big);
    right->addWidget(scale = new BandScale);
    right->addWidget(verdict = label("", Size::Text, true));
    right->addStretch();
    middle->addLayout(right, 1);
    layout->addLayout(middle);

    rows = new QTableWidget(0, 4);
    rows->setObjectName("readings");
    rows->setHorizontalHeaderLabels({"readings of this stage", "expected", "read", "verdict"});
    rows->setAccessibleName("Readings of this stage");
    rows->verticalHeader()->hide();
    rows->verticalHeader()->setDefaultSectionSize(24);
    rows->setShowGrid(false);
    rows->setEditTriggers(QAbstractItemView::NoEditTriggers);
    rows->setSelectionBehavior(QAbstractItemView::SelectRows);
    rows->setSelectionMode(QAbstractItemView::SingleSelection);
    rows->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    rows->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    rows->setTabKeyNavigation(false);
    layout->addWidget(rows, 1);
    connect(rows, &QTableWidget::currentCellChanged, this, [this](int r) {
        if (r >= 0 && r != row) {
            row = r;
            showPoint();
        }
    });

    auto* foot = new QHBoxLayout;
    foot->addWidget(label("mains as read", Size::Small, false, "dim"));
    mainsField = new QLineEdit;
    mainsField->setAccessibleName("Mains as read");
    mainsField->setFixedWidth(86);
    mainsField->setFont(theme::figures(Size::Text));
    connect(mainsField, &QLineEdit::editingFinished, this, [this] {
        const Mains& m = document.build().mains;
        const auto v = parseWithin(mainsField->text().toStdString(), Unit::Volt, {0.7 * m.volts, 1.2 * m.volts});
        if (!v) return Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
        if (*v == mainsVolts) return;
        mainsVolts = *v;
        refresh();
    });
    foot->addWidget(mainsField);
    fromPractice = new QPushButton("Read from practice bench");
    fromPractice->setObjectName("fromPractice");
    fromPractice->setToolTip("F5");
    connect(fromPractice, &QPushButton::clicked, this, [this] {
        const auto* s = stage();
        if (!s || row >= static_cast<int>(s->expectations.size())) return;
        document.readPractice(index, mains(),
                              QString::fromStdString(s->expectations[static_cast<std::size_t>(row)].point.id),
                              [this](Expected<double> v) {
                                  if (v)
                                      take(*v, "practice");
                                  else
                                      Q_EMIT said(QString::fromStdString(v.problem().sentence), false);
                              });
    });
    foot->addWidget(fromPractice);
    foot->addStretch();
    auto* words = new QPushButton("Explain in words");
    words->setToolTip("F2");
    connect(words, &QPushButton::clicked, this, &FirstPowerStation::explain);
    foot->addWidget(words);
    off = new QPushButton("Switched off");
    off->setObjectName("switchedOff");
    off->setToolTip("F8: starts the discharge clock");
    connect(off, &QPushButton::clicked, this, &FirstPowerStation::switchedOff);
    foot->addWidget(off);
    next = new QPushButton("Stage passed");
    next->setObjectName("stagePassed");
    next->setProperty("main", true);
    connect(next, &QPushButton::clicked, this, &FirstPowerStation::passStage);
    foot->addWidget(next);
    layout->addLayout(foot);

    connect(reading, &QLineEdit::returnPressed, this, &FirstPowerStation::takeTyped);
    const auto key = [this](const QKeySequence& k, auto f) {
        auto* s = new QShortcut(k, this);
        s->setContext(Qt::WidgetWithChildrenShortcut);
        connect(s, &QShortcut::activated, this, f);
    };
    key(Qt::Key_F2, [this] { explain(); });
    key(Qt::Key_F5, [this] { fromPractice->click(); });
    key(Qt::Key_F8, [this] { switchedOff(); });
    key(Qt::Key_PageDown, [this] { rows->selectRow(std::min(row + 1, rows->rowCount() - 1)); });
    key(Qt::Key_PageUp, [this] { rows->selectRow(std::max(row - 1, 0)); });
    buildSide();
    timer = new QTimer(this);
    connect(timer, &QTimer::timeout, this, &FirstPowerStation::tick);
    connect(&document, &Document::stageReady, this, [this](int k) {
        if (k == index) refresh();
    });
    connect(&document, &Document::logChanged, this, &FirstPowerStation::fillRows);
    connect(&document, &Document::practiceChanged, this, [this] { fromPractice->setVisible(document.practising()); });
    connect(&document, &Document::buildChanged, this, [this] {
        if (isVisible()) refresh();
    });
    fromPractice->setVisible(document.practising());
}

void FirstPowerStation::buildSide() {
    side = new QWidget;
    auto* layout = new QVBoxLayout(side);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(label("If it is wrong", static_cast<Size>(15), true));
    layout->addWidget(causes = label("", Size::Text, false));
    causes->setTextFormat(Qt::RichText);
    layout->addSpacing(8);
    layout->addWidget(clockTitle = label("Before hands go in", static_cast<Size>(15), true));
    layout->addWidget(clock = label("", Size::Text, false));
    clock->setTextFormat(Qt::RichText);
    layout->addWidget(label("Follow the electrical code of your place. If unsure, ask a licensed person.", Size::Small,
                            false, "faint"));
}

double FirstPowerStation::shareDone() const {
    return static_cast<double>(procedure::currentStage(document.build())) / procedure::stageCount;
}

void FirstPowerStation::arrive() {
    if (!stage()) showStage(std::min(procedure::currentStage(document.build()), procedure::stageCount - 1));
    reading->setFocus();
}

const procedure::Stage* FirstPowerStation::stage() const {
    return document.stage(index, mainsVolts);
}

void FirstPowerStation::showStage(int k) {
    index = k;
    row = 0;
    timer->stop();
    refresh();
}

void FirstPowerStation::refresh() {
    mainsField->setText(text(mainsVolts, Unit::Volt, 4));
    const int current = procedure::currentStage(document.build());
    for (std::size_t k = 0; k < dots.size(); ++k) {
        dots[k]->setChecked(static_cast<int>(k) == index);
        const QString name = QString::fromUtf8(procedure::stageName(static_cast<int>(k)).data());
        dots[k]->setText((static_cast<int>(k) < current ? "✓ " : "") + name);
        dots[k]->setAccessibleName(name + (static_cast<int>(k) < current ? ", passed" : ""));
    }
    const auto* s = stage();
    if (!s) {
        title->setText("computing what the meter will read ...");
        rows->setRowCount(0);
        return;
    }
    title->setText(QString::fromStdString(s->title));
    instruction->setText(QString::fromStdString(s->instruction));
    stop->setText("<b>" + rich(Role::Stop, "Stop if ") + "</b>" + QString::fromStdString(s->stopIf).toHtmlEscaped() +
                  "<br>" + rich(Role::Ember, QString::fromStdString(s->caution)));
    if (s->conditions.limiter) {
        const Limiter& l = document.build().limiter;
        lamp->show(
            s->lamp.kelvin, QString::fromStdString(procedure::glow(s->lamp.kelvin)),
            QString("%1 lamp: %2, %3")
                .arg(text(l.watts, Unit::Watt), text(s->lamp.volts, Unit::Volt), text(s->lamp.kelvin, Unit::Kelvin, 3)),
            true);
    } else {
        lamp->show(293, s->powered ? "lamp taken out" : "unplugged", s->powered ? "full mains" : "no power", false);
    }
    if (!s->failure.empty()) Q_EMIT said(QString::fromStdString(s->failure), false);
    fillRows();
    if (!s->discharge.seconds.empty()) {
        const auto fall = [&](double v) {
            const double t = s->discharge.below(0, v);
            return std::isnan(t) ? QString("over %1").arg(text(s->discharge.seconds.back(), Unit::Second))
                                 : text(t, Unit::Second);
        };
        clock->setText(
            QString("B+1 holds %1 now. After switching off, computed:<br><b>50 V at %2<br>10 V at %3</b><br>Unplug, "
                    "wait, then measure every capacitor. The clock is not proof; the meter is.")
                .arg(text(s->discharge.nodes[0].front(), Unit::Volt), fall(50), fall(10)));
    } else {
        clock->setText("Unplug, then measure every capacitor before a hand goes in. The meter is the proof.");
    }
}

const LogEntry* FirstPowerStation::lastReading(const std::string& point) const {
    const auto& log = document.build().log;
    for (auto e = log.rbegin(); e != log.rend(); ++e)
        if (e->kind == "reading" && e->stage == index && e->point == point && !e->struck) return &*e;
    return nullptr;
}

void FirstPowerStation::fillRows() {
    const auto* s = stage();
    if (!s) return;
    const QSignalBlocker quiet(rows);
    rows->setRowCount(static_cast<int>(s->expectations.size()));
    bool all = !s->expectations.empty();
    for (int k = 0; k < rows->rowCount(); ++k) {
        const Expectation& e = s->expectations[static_cast<std::size_t>(k)];
        const LogEntry* have = lastReading(e.point.id);
        const bool explained = have && (have->verdict == "in range" || !have->text.empty());
        all = all && explained;
        const QString cells[4] = {
            QString::fromStdString(e.point.label), range(e), have ? text(have->value, e.point.unit(), 4) : QString("-"),
            have ? QString::fromStdString(have->verdict + (have->text.empty() ? "" : ", explained")) : QString()};
        for (int c = 0; c < 4; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            item->setFont(c == 1 || c == 2 ? theme::figures(Size::Text, c == 2) : theme::text(Size::Text));
            if (c == 1) item->setForeground(theme::color(Role::BoneDim));
            if (c == 3 && have)
                item->setForeground(theme::color(have->verdict == "in range" ? Role::Verdigris
                                                 : have->verdict == "stop"   ? Role::Stop
                                                                             : Role::Ember));
            rows->setItem(k, c, item);
        }
    }
    next->setEnabled(all);
    next->setText(index + 1 < procedure::stageCount ? "Stage passed" : "Done: to Bias");
    row = std::min(row, std::max(0, rows->rowCount() - 1));
    if (rows->rowCount()) rows->selectRow(row);
    showPoint();
}

void FirstPowerStation::showPoint() {
    const auto* s = stage();
    if (!s || row >= static_cast<int>(s->expectations.size())) return;
    const Expectation& e = s->expectations[static_cast<std::size_t>(row)];
    pointLabel->setText(QString::fromStdString(e.point.label));
    probe->setText(QString::fromStdString(e.point.probe));
    unit->setText(QString::fromUtf8(symbol(e.point.unit()).data()));
    const LogEntry* have = lastReading(e.point.id);
    reading->clear();
    reading->setPlaceholderText(have ? QString::number(have->value, 'g', 4) : QString());
    scale->show(e.band.low, e.band.high, e.stopAbove, have ? std::optional(have->value) : std::nullopt, unit->text());
    scale->setAccessibleDescription(range(e));
    verdict->setText(have ? QString::fromStdString(procedure::sentence(e, have->value)) : "expected " + range(e));
    verdict->setStyleSheet(QString("color:%1")
                               .arg(theme::color(!have                         ? Role::BoneDim
                                                 : have->verdict == "in range" ? Role::Verdigris
                                                 : have->verdict == "stop"     ? Role::Stop
                                                                               : Role::Ember)
                                        .name()));
    const auto list = [&](const QString& head, const std::vector<Expectation::Cause>& all) {
        QString out;
        for (std::size_t k = 0; k < std::min<std::size_t>(4, all.size()); ++k)
            out += QString("<br>%1 <span style='color:%3'>(%2)</span>")
                       .arg(QString::fromStdString(all[k].sentence).toHtmlEscaped(), text(all[k].value, e.point.unit()),
                            theme::color(Role::BoneDim).name());
        return out.isEmpty() ? QString() : "<p><b>" + rich(Role::Brass, head) + "</b>" + out + "</p>";
    };
    const QString both = list("Below the band", e.ifLow) + list("Above the band", e.ifHigh);
    causes->setText(both.isEmpty() ? "No single fault of those simulated moves this reading out of its band. Look at "
                                     "the meter, its range and its leads first."
                                   : both);
}

void FirstPowerStation::takeTyped() {
    const auto* s = stage();
    if (!s || row >= static_cast<int>(s->expectations.size())) return;
    const auto v = parseWithin(reading->text().toStdString(),
                               s->expectations[static_cast<std::size_t>(row)].point.unit(), {-1e6, 1e9});
    if (!v) {
        verdict->setText(QString::fromStdString(v.problem().sentence));
        verdict->setStyleSheet(QString("color:%1").arg(theme::color(Role::Ember).name()));
        return;
    }
    take(*v, "typed");
}

void FirstPowerStation::take(double value, const std::string& source) {
    const auto* s = stage();
    if (!s || row >= static_cast<int>(s->expectations.size())) return;
    const Expectation& e = s->expectations[static_cast<std::size_t>(row)];
    const Verdict v = procedure::judge(e, value);
    LogEntry entry;
    entry.kind = "reading";
    entry.point = e.point.id;
    entry.stage = index;
    entry.value = value;
    entry.low = e.band.low;
    entry.high = std::isinf(e.band.high) ? 1e12 : e.band.high;
    entry.unit = e.point.unit() == Unit::Ohm ? "ohm" : "V";
    entry.source = source;
    entry.verdict = procedure::word(v);
    const int here = row;
    document.log(entry);
    Q_EMIT said(QString::fromStdString(procedure::sentence(e, value)), v == Verdict::InRange);
    // Enter takes the reading and moves on; what is wrong stays in view.
    if (v == Verdict::InRange && here + 1 < rows->rowCount()) rows->selectRow(here + 1);
    reading->setFocus();
}

void FirstPowerStation::explain() {
    const auto* s = stage();
    const LogEntry* have = s && row < static_cast<int>(s->expectations.size())
                               ? lastReading(s->expectations[static_cast<std::size_t>(row)].point.id)
                               : nullptr;
    if (!have) return Q_EMIT said("Take a reading first, then explain it.", false);
    bool ok = false;
    const QString words = QInputDialog::getText(
        this, "Explain the reading",
        QString::fromStdString(procedure::sentence(s->expectations[static_cast<std::size_t>(row)], have->value)) +
            "\nWhy is it accepted as it is?",
        QLineEdit::Normal, {}, &ok);
    if (!ok || words.trimmed().isEmpty()) return;
    LogEntry again = *have;
    again.time.clear();
    again.text = words.trimmed().toStdString();
    document.log(again);
}

void FirstPowerStation::passStage() {
    LogEntry e;
    e.kind = "stage";
    e.stage = index;
    e.text = "passed: " + std::string(procedure::stageName(index));
    document.log(e);
    if (index + 1 < procedure::stageCount)
        showStage(index + 1);
    else
        refresh();
}

void FirstPowerStation::switchedOff() {
    offSince = QDateTime::currentMSecsSinceEpoch();
    LogEntry e;
    e.kind = "note";
    e.text = std::string("switched off at stage \"") + std::string(procedure::stageName(index)) + "\"";
    document.log(e);
    timer->start(200);
    tick();
}

void FirstPowerStation::tick() {
    const auto* s = stage();
    if (!s || s->discharge.seconds.empty()) return;
    const double t = static_cast<double>(QDateTime::currentMSecsSinceEpoch() - offSince) / 1000;
    const auto& c = s->discharge;
    std::size_t k = 0;
    while (k + 1 < c.seconds.size() && c.seconds[k] < t) ++k;
    const double v = c.nodes[0][k], fifty = c.below(0, 50);
    QString wait = fifty > t ? QString("wait %1 more, then measure").arg(text(fifty - t, Unit::Second, 2))
                             : QString("now measure every capacitor");
    if (std::isnan(fifty)) wait = "it will not fall by itself: discharge through a resistor, then measure";
    clock->setText(
        QString("Off for %1: B+1 should still hold <b>%2</b>;<br><b>%3</b>.<br>The clock is not proof; the meter is.")
            .arg(text(t, Unit::Second, 2), text(v, Unit::Volt), wait));
    if (t > c.seconds.back()) timer->stop();
}

} // namespace ember::app
