#include "stages_station.h"

#include "path_picture.h"
#include "stage_strip.h"
#include "voltage_chart.h"

#include "app/stations/find_value_dialog.h"
#include "app/widgets/words.h"
#include "core/plan/power_words.h"
#include "core/schematic/path_schematic.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <fmt/format.h>

#include <algorithm>

namespace ember::app {

using namespace schematic;

StagesStation::StagesStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(18, 12, 6, 6);
    layout->setSpacing(8);
    auto* head = new QHBoxLayout;
    head->addWidget(label("Stages", theme::Size::Title));
    channel = new QComboBox;
    channel->setObjectName("stagesChannel");
    channel->setAccessibleName("Channel");
    head->addWidget(channel);
    const auto button = [&](const QString& words2, const char* name, const QString& tip) {
        auto* b = new QPushButton(words2);
        b->setObjectName(name);
        b->setToolTip(tip);
        head->addWidget(b);
        return b;
    };
    follow = button("", "follow", "Whether this channel takes over the other's edits");
    head->addStretch();
    insert = button("Insert", "insertStage", "Insert: a stage behind the selected one");
    change = button("Stage", "changeStage", "Exchange, move, take away, forms, supply node");
    part = button("Part", "changePart", "Add a part to the selected stage, or take one away");
    valve = button("Valve", "changeValve", "V: another valve in the selected stage");
    find =
        button("Find a value", "findStageValue", "Which value gives the volts, current, gain or corner that is wanted");
    asChart = button("Voltage chart", "asChart", "Every pin of every valve");
    asChart->setCheckable(true);
    layout->addLayout(head);
    words = label("", theme::Size::Text, false, "dim");
    words->setWordWrap(true);
    layout->addWidget(words);
    views = new QStackedWidget;
    scroll = new QScrollArea;
    scroll->setObjectName("pathScroll");
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidgetResizable(true);
    path = new PathPicture(document);
    scroll->setWidget(path);
    auto* drawing = new QWidget;
    auto* column = new QVBoxLayout(drawing);
    column->setContentsMargins({});
    column->setSpacing(2);
    column->addWidget(scroll, 1);
    column->addWidget(new StageStrip(*path, *scroll));
    views->addWidget(drawing);
    chart = new VoltageChart(document);
    views->addWidget(chart);
    layout->addWidget(views, 1);
    power = label("", theme::Size::Text);
    power->setObjectName("stagesPower");
    layout->addWidget(power);

    connect(path, &PathPicture::said, this, &StagesStation::said);
    connect(path, &PathPicture::stageChosen, this, [this](int k) {
        const QRect at = path->stageRect(k);
        const bool strip = at.top() <= 0; // as high as the picture: what is in sight of it is enough
        const int y = strip ? scroll->verticalScrollBar()->value() + scroll->viewport()->height() / 2 : at.center().y();
        scroll->ensureVisible(at.center().x(), y, at.width() / 2, strip ? 0 : at.height() / 2);
        refresh();
    });
    connect(path, &PathPicture::moved, this, [this](const QPoint& by) {
        scroll->horizontalScrollBar()->setValue(scroll->horizontalScrollBar()->value() - by.x());
        scroll->verticalScrollBar()->setValue(scroll->verticalScrollBar()->value() - by.y());
    });
    connect(path, &PathPicture::menuWanted, this, [this](int, const QPoint& at) {
        QMenu menu(this);
        fillStage(menu);
        menu.exec(at);
    });
    connect(path, &PathPicture::valveWanted, this, [this](int, int v) { chooseValve(v); });
    connect(channel, &QComboBox::currentIndexChanged, this, [this](int k) {
        if (k >= 0) path->setChannel(static_cast<std::size_t>(k));
        refresh();
    });
    connect(asChart, &QPushButton::toggled, this, &StagesStation::showChart);
    connect(insert, &QPushButton::clicked, this, [this] {
        QMenu menu(this);
        fillInsert(menu, static_cast<std::size_t>(path->selected() + 1));
        menu.exec(insert->mapToGlobal(QPoint(0, insert->height())));
    });
    connect(change, &QPushButton::clicked, this, [this] { popUp(change, &StagesStation::fillStage); });
    connect(part, &QPushButton::clicked, this, [this] { popUp(part, &StagesStation::fillParts); });
    connect(valve, &QPushButton::clicked, this, [this] { chooseValve(0); });
    find->setFocusPolicy(Qt::TabFocus); // a click leaves the keyboard with the value that is asked about
    connect(find, &QPushButton::clicked, this, &StagesStation::findValue);
    connect(follow, &QPushButton::clicked, this, [this] {
        const Build& b = document.build();
        const std::size_t k = path->channel();
        if (k >= b.channels.size()) return;
        const std::string leader = b.channels[k].follows.empty() ? b.channels[k == 0 ? 1 : 0].id : "";
        edit(setFollows(b, k, leader));
    });
    connect(&document, &Document::buildChanged, this, &StagesStation::refresh);
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
    refresh();
}

/// Of the value that has the keyboard, else of the selected stage's first part.
FindValueDialog* StagesStation::findValue() {
    if (!finder) finder = new FindValueDialog(document, this);
    std::string at = path->focusedValue();
    if (const Stage* s = stage(); at.empty() && s && !s->parts.empty())
        at = fmt::format("/channels/{}/stages/{}/parts/0/{}", path->channel(), path->selected(),
                         mainKey(s->parts[0].part));
    finder->show();
    finder->raise();
    finder->activateWindow();
    finder->askFor(at);
    return finder;
}

void StagesStation::arrive() {
    path->setFocus();
}

double StagesStation::shareDone() const {
    const Build& b = document.build();
    if (b.channels.empty()) return 0;
    // A path that is whole and rests is planned; what stops it is not.
    const auto& findings = document.findings();
    const bool stopped = std::any_of(findings.begin(), findings.end(), [](const rules::Finding& f) {
        return f.station == "stages" && f.level == rules::Level::Stop;
    });
    return b.channels[0].stages.size() < 2 ? 0.1 : stopped ? 0.5 : 1;
}

void StagesStation::popUp(QPushButton* under, void (StagesStation::*fill)(QMenu&)) {
    QMenu menu(this);
    (this->*fill)(menu);
    menu.exec(under->mapToGlobal(QPoint(0, under->height())));
}

void StagesStation::showChart(bool on) {
    views->setCurrentIndex(on ? 1 : 0);
    asChart->setChecked(on);
    refresh();
}

const Stage* StagesStation::stage() const {
    const Build& b = document.build();
    const int k = path->selected();
    if (path->channel() >= b.channels.size() || k < 0) return nullptr;
    const auto& all = b.channels[path->channel()].stages;
    return k < static_cast<int>(all.size()) ? &all[static_cast<std::size_t>(k)] : nullptr;
}

void StagesStation::edit(const Edit& e) {
    const auto done = document.edit(e);
    if (!done)
        Q_EMIT said(text(done.problem().text()), false);
    else
        Q_EMIT said(text(e.name), true);
}

void StagesStation::refresh() {
    const Build& b = document.build();
    const QSignalBlocker quiet(channel);
    if (channel->count() != static_cast<int>(b.channels.size())) {
        channel->clear();
        for (const Channel& c : b.channels) channel->addItem(text(c.name));
        channel->setCurrentIndex(static_cast<int>(path->channel()));
    }
    for (int k = 0; k < channel->count(); ++k)
        channel->setItemText(k, text(b.channels[static_cast<std::size_t>(k)].name));
    const Channel* ch = path->channel() < b.channels.size() ? &b.channels[path->channel()] : nullptr;
    follow->setVisible(ch && b.channels.size() > 1);
    if (ch) {
        const bool leads =
            std::any_of(b.channels.begin(), b.channels.end(), [&](const Channel& c) { return c.follows == ch->id; });
        follow->setText(!ch->follows.empty() ? "Set apart" : "Follow");
        follow->setEnabled(!leads);
        follow->setToolTip(leads                  ? "Another channel follows this one"
                           : !ch->follows.empty() ? "It takes over the other channel's edits; set it apart"
                                                  : "Take over the other channel's edits from now on");
    }
    const Stage* s = stage();
    const StageKind* kind = s ? stageKind(s->kind) : nullptr;
    for (QPushButton* p : {change, part}) p->setEnabled(s != nullptr && !asChart->isChecked());
    insert->setEnabled(ch != nullptr && !asChart->isChecked());
    valve->setEnabled(s && !s->valves.empty() && !asChart->isChecked());
    words->setText(
        asChart->isChecked()
            ? "Black clipped on ground with the plug out; one hand. Lethal: plates and screens stand at these volts."
        : !ch  ? "This build has no channel."
        : !s   ? "No stage yet: Insert adds one."
        : kind ? QString("%1: %2%3")
                     .arg(text(s->id), text(std::string(kind->about)), s->note.empty() ? "" : "  " + text(s->note))
               : QString("%1: this version knows no \"%2\"; it is left out").arg(text(s->id), text(s->kind)));
    const auto& f = document.figures();
    const std::size_t k = path->channel();
    QString line;
    if (k < f.power.size() && ch) {
        const plan::PowerFigures& p = f.power[k];
        if (const std::string said = plan::powerWords(p); !said.empty())
            line = QString("%1;  gain %2 dB;  %3 % THD at %4;  output %5%6;  input %7")
                       .arg(text(said))
                       .arg(20 * std::log10(p.gain), 0, 'f', 1)
                       .arg(text(p.thdAtReference, Unit::None, 2), p.reference(), text(p.outputOhms, Unit::Ohm),
                            p.line() ? "" : QString(", damping %1").arg(text(p.damping(), Unit::None, 2)),
                            text(p.inputOhms, Unit::Ohm));
        else
            line = QString("gain %1 dB").arg(20 * std::log10(p.gain), 0, 'f', 1);
        for (const plan::Oscillation& o : f.oscillations)
            if (o.channel == k) line += coloured(theme::Role::Stop, QString(";  oscillates %1").arg(o.how));
    }
    power->setText(line);
}

void StagesStation::keyPressEvent(QKeyEvent* e) {
    const int k = path->selected();
    const bool control = e->modifiers() & Qt::ControlModifier;
    // Keys that a value's field leaves to others still belong to the value, but for those that take something away.
    if (qobject_cast<QLineEdit*>(focusWidget()) && e->key() != Qt::Key_Delete) return Station::keyPressEvent(e);
    if (asChart->isChecked() || document.build().channels.empty()) return Station::keyPressEvent(e);
    if (e->key() == Qt::Key_Insert || (e->key() == Qt::Key_I && !control)) return insert->click();
    if (control && (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Equal)) return path->setZoom(path->zoom() * 1.15);
    if (control && e->key() == Qt::Key_Minus) return path->setZoom(path->zoom() / 1.15);
    if (control && e->key() == Qt::Key_0) return path->fit(scroll->viewport()->size());
    if (k < 0) return Station::keyPressEvent(e);
    if (control && e->key() == Qt::Key_Delete)
        return edit(removeStage(document.build(), path->channel(), static_cast<std::size_t>(k)));
    if (e->key() == Qt::Key_Delete && path->focusedPart() >= 0)
        return edit(removePart(document.build(), path->channel(), static_cast<std::size_t>(k),
                               static_cast<std::size_t>(path->focusedPart())));
    for (const auto& [key, by] : {std::pair{Qt::Key_Left, -1}, std::pair{Qt::Key_Right, 1}})
        if (e->key() == key) {
            const int to = k + by;
            if (to < 0 || to >= static_cast<int>(document.build().channels[path->channel()].stages.size())) return;
            if (control) edit(moveStage(document.build(), path->channel(), static_cast<std::size_t>(k), by));
            return path->select(to);
        }
    if (e->key() == Qt::Key_V) return e->modifiers() & Qt::ShiftModifier ? readValves() : chooseValve(0);
    if (e->key() == Qt::Key_Menu || e->key() == Qt::Key_Return) return popUp(change, &StagesStation::fillStage);
    Station::keyPressEvent(e);
}

} // namespace ember::app
