#include "stages_station.h"

#include "path_picture.h"
#include "valve_dialog.h"
#include "voltage_chart.h"

#include "app/widgets/words.h"
#include "core/build/path.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/path_schematic.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
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
    views->addWidget(scroll);
    chart = new VoltageChart(document);
    views->addWidget(chart);
    layout->addWidget(views, 1);
    power = label("", theme::Size::Text);
    power->setObjectName("stagesPower");
    layout->addWidget(power);

    connect(path, &PathPicture::said, this, &StagesStation::said);
    connect(path, &PathPicture::stageChosen, this, [this](int k) {
        scroll->ensureVisible(path->stageRect(k).center().x(), path->height() / 2, path->stageRect(k).width() / 2, 0);
        refresh();
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
    for (int k = 0; k < channel->count(); ++k) channel->setItemText(k, text(b.channels[static_cast<std::size_t>(k)].name));
    const Channel* ch = path->channel() < b.channels.size() ? &b.channels[path->channel()] : nullptr;
    follow->setVisible(ch && b.channels.size() > 1);
    if (ch) {
        const bool leads = std::any_of(b.channels.begin(), b.channels.end(), [&](const Channel& c) { return c.follows == ch->id; });
        follow->setText(!ch->follows.empty() ? "Set apart" : "Follow");
        follow->setEnabled(!leads);
        follow->setToolTip(leads ? "Another channel follows this one" : !ch->follows.empty() ? "It takes over the other channel's edits; set it apart" : "Take over the other channel's edits from now on");
    }
    const Stage* s = stage();
    const StageKind* kind = s ? stageKind(s->kind) : nullptr;
    for (QPushButton* p : {change, part}) p->setEnabled(s != nullptr && !asChart->isChecked());
    insert->setEnabled(ch != nullptr && !asChart->isChecked());
    valve->setEnabled(s && !s->valves.empty() && !asChart->isChecked());
    words->setText(asChart->isChecked() ? "Common clipped on the star with the plug out; one hand. Lethal: plates and screens stand at these volts."
                   : !ch              ? "This build has no channel."
                   : !s               ? "No stage yet: Insert adds one."
                   : kind             ? QString("%1: %2%3").arg(text(s->id), text(std::string(kind->about)), s->note.empty() ? "" : "  " + text(s->note))
                                      : QString("%1: this version knows no \"%2\"; it is left out").arg(text(s->id), text(s->kind)));
    const auto& f = document.figures();
    const std::size_t k = path->channel();
    QString line;
    if (k < f.power.size() && ch) {
        const plan::PowerFigures& p = f.power[k];
        if (std::isfinite(p.clipWatts))
            line = QString("%1 at 3 % THD for %2 in;  gain %3 dB;  %4 % THD at %5;  output %6%7;  input %8")
                       .arg(p.line() ? text(p.clipOutput, Unit::Volt) : text(p.clipWatts, Unit::Watt), text(p.clipInput, Unit::Volt))
                       .arg(20 * std::log10(p.gain), 0, 'f', 1)
                       .arg(text(p.thdAtReference, Unit::None, 2), p.reference(), text(p.outputOhms, Unit::Ohm),
                            p.line() ? "" : QString(", damping %1").arg(text(p.damping(), Unit::None, 2)), text(p.inputOhms, Unit::Ohm));
        else
            line = QString("gain %1 dB").arg(20 * std::log10(p.gain), 0, 'f', 1);
        for (const plan::Oscillation& o : f.oscillations)
            if (o.channel == k) line += coloured(theme::Role::Stop, QString(";  oscillates %1").arg(o.how));
    }
    power->setText(line);
}

/// Every kind, in the order of a path, in groups of what it is for.
void StagesStation::fillInsert(QMenu& menu, std::size_t at) {
    static constexpr std::pair<Duty, const char*> groups[] = {{Duty::Input, "Input"},       {Duty::Control, "Controls"}, {Duty::Gain, "Gain"},
                                                              {Duty::Splitter, "Two phases"}, {Duty::Output, "Output"},  {Duty::LineOut, "Line output"}};
    for (const auto& [duty, title] : groups) {
        QMenu* group = menu.addMenu(title);
        for (const StageKind* k : stageKinds()) {
            if (k->duty != duty) continue;
            connect(group->addAction(text(std::string(k->title))), &QAction::triggered, this, [this, k, at] {
                edit(insertStage(document.build(), Catalogue::shipped(), path->channel(), at, *k));
                path->select(static_cast<int>(at));
            });
        }
    }
    menu.addSeparator();
    connect(menu.addAction("Feedback..."), &QAction::triggered, this, &StagesStation::insertFeedback);
    connect(menu.addAction("Loose part between two nets..."), &QAction::triggered, this, &StagesStation::addLoosePart);
}

void StagesStation::fillStage(QMenu& menu) {
    const Stage* s = stage();
    if (!s) return;
    const auto at = static_cast<std::size_t>(path->selected());
    const std::size_t c = path->channel();
    const StageKind* now = stageKind(s->kind);
    QMenu* other = menu.addMenu("Make it a");
    for (const StageKind* k : stageKinds())
        if (now && k->duty == now->duty && k != now)
            connect(other->addAction(text(std::string(k->title))), &QAction::triggered, this,
                    [this, k, at, c] { edit(exchangeStage(document.build(), Catalogue::shipped(), c, at, *k)); });
    other->setEnabled(!other->isEmpty());
    fillForms(menu);
    fillNodes(menu);
    if (now && now->duty == Duty::Output) {
        connect(menu.addAction("One more valve a side"), &QAction::triggered, this, [this, at, c] { edit(addOutputValves(document.build(), c, at)); });
        connect(menu.addAction("One valve a side less"), &QAction::triggered, this, [this, at, c] { edit(removeOutputValves(document.build(), c, at)); });
    }
    menu.addSeparator();
    const auto move = [&](const char* name, int by, const QKeySequence& key) {
        QAction* a = menu.addAction(name);
        a->setShortcut(key);
        const auto to = static_cast<int>(at) + by;
        a->setEnabled(to >= 0 && to < static_cast<int>(document.build().channels[c].stages.size()));
        connect(a, &QAction::triggered, this, [this, at, c, by, to] {
            edit(moveStage(document.build(), c, at, by));
            path->select(to);
        });
    };
    move("Move towards the jack", -1, QKeySequence("Ctrl+Left"));
    move("Move towards the load", 1, QKeySequence("Ctrl+Right"));
    connect(menu.addAction("Note..."), &QAction::triggered, this, [this, at, c] {
        bool ok = false;
        const QString note = QInputDialog::getText(this, "Note", "Why this stage differs from the drawing that you follow:", QLineEdit::Normal,
                                                   text(document.build().channels[c].stages[at].note), &ok);
        if (ok) edit(setText("a note", fmt::format("/channels/{}/stages/{}/note", c, at), note.toStdString()));
    });
    QAction* gone = menu.addAction("Take it away");
    gone->setShortcut(QKeySequence("Ctrl+Del"));
    connect(gone, &QAction::triggered, this, [this, at, c] { edit(removeStage(document.build(), c, at)); });
}

void StagesStation::fillForms(QMenu& menu) {
    const Stage* s = stage();
    const StageKind* kind = s ? stageKind(s->kind) : nullptr;
    if (!kind) return;
    const auto at = static_cast<std::size_t>(path->selected());
    const std::size_t c = path->channel();
    for (const Form& form : kind->forms) {
        QMenu* group = menu.addMenu(text(std::string(form.name)));
        const std::string now = s->option(form.name, form.choices.front());
        for (const std::string_view choice : form.choices) {
            QAction* a = group->addAction(text(std::string(choice)));
            a->setCheckable(true);
            a->setChecked(choice == now);
            connect(a, &QAction::triggered, this, [this, at, c, name = std::string(form.name), to = std::string(choice)] {
                const Stage& of = document.build().channels[c].stages[at];
                for (std::size_t k = 0; k < of.options.size(); ++k)
                    if (of.options[k].name == name)
                        return edit(setText(name + ": " + to, fmt::format("/channels/{}/stages/{}/options/{}/choice", c, at, k), to));
                edit(insertAt(name + ": " + to, fmt::format("/channels/{}/stages/{}/options/-", c, at), StageOption{{}, name, to}));
            });
        }
    }
}

void StagesStation::fillNodes(QMenu& menu) {
    const Stage* s = stage();
    const StageKind* kind = s ? stageKind(s->kind) : nullptr;
    if (!kind || kind->valves.empty()) return;
    const auto at = static_cast<std::size_t>(path->selected());
    const std::size_t c = path->channel();
    const auto add = [&](const char* title, const char* key, int now) {
        QMenu* group = menu.addMenu(title);
        for (int n = 1; n <= supplyNodes(document.build().supply); ++n) {
            QAction* a = group->addAction(QString("B+%1").arg(n));
            a->setCheckable(true);
            a->setChecked(n == now);
            connect(a, &QAction::triggered, this, [this, at, c, n, key] {
                edit(setWhole(fmt::format("B+{}", n), fmt::format("/channels/{}/stages/{}/{}", c, at, key), n));
            });
        }
    };
    add("Supply node", "node", s->node);
    if (kind->duty == Duty::Output || kind->id == "pentode") add("Screens' node", "screenNode", s->screensNode());
}

void StagesStation::fillParts(QMenu& menu) {
    const Stage* s = stage();
    if (!s) return;
    const auto at = static_cast<std::size_t>(path->selected());
    const std::size_t c = path->channel();
    static constexpr const char* fills[] = {"resistor", "capacitor", "choke", "potentiometer", "transformer", "current source", "diode", "zener string", "adjuster"};
    for (const EmptySlot& e : emptySlots(*s))
        for (const Fill fill : e.slot->fills) {
            const QString name = QString("Add %1%2%3").arg(text(std::string(e.slot->name)), e.at.empty() ? "" : " " + text(e.at),
                                                           e.slot->fills.size() > 1 ? QString(": %1").arg(fills[static_cast<std::size_t>(fill)]) : "");
            connect(menu.addAction(name), &QAction::triggered, this, [this, c, at, slot = e.slot, place = e.at, fill] {
                edit(addPart(document.build(), c, at, *slot, place, fill));
            });
        }
    if (s->parts.empty()) return;
    QMenu* gone = menu.addMenu("Take away");
    for (std::size_t p = 0; p < s->parts.size(); ++p)
        connect(gone->addAction(QString("%1  %2 %3").arg(tag(idOf(s->parts[p].part)), text(s->parts[p].slot), text(s->parts[p].at))), &QAction::triggered,
                this, [this, c, at, p] { edit(removePart(document.build(), c, at, p)); });
}

void StagesStation::chooseValve(int which) {
    const Stage* s = stage();
    if (!s || s->valves.empty()) return;
    const StageValve& v = s->valves[static_cast<std::size_t>(std::clamp(which, 0, static_cast<int>(s->valves.size()) - 1))];
    const Valve* bottle = bottleOf(document.build(), v.bottle);
    ValveDialog dialog(bottle ? bottle->type : "", this);
    if (dialog.exec() != QDialog::Accepted || dialog.type().empty() || !bottle) return;
    // All valves of an output stage, and of channels that follow, are of one type.
    std::vector<std::string> ids{v.bottle};
    if (isOutput(*s))
        for (const StageValve& other : s->valves) ids.push_back(other.bottle);
    const Build& b = document.build();
    for (const Channel& ch : b.channels)
        if (!ch.follows.empty() && ch.follows == b.channels[path->channel()].id && path->selected() < static_cast<int>(ch.stages.size()))
            for (const StageValve& other : ch.stages[static_cast<std::size_t>(path->selected())].valves)
                if (isOutput(*s) || other.at == v.at) ids.push_back(other.bottle);
    std::sort(ids.begin(), ids.end());
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
    std::vector<Edit> all;
    for (const std::string& other : ids) all.push_back(changeType(b, other, dialog.type()));
    edit(together(fmt::format("{} to {}", upper(v.bottle), dialog.type()), all));
}

void StagesStation::insertFeedback() {
    const Build& b = document.build();
    const ChannelSchematic c = channelSchematic(b, Catalogue::shipped(), path->channel());
    QStringList points;
    for (const auto& [name, net] : c.points) points << text(name);
    if (points.size() < 2) return Q_EMIT said("Feedback needs two points of the path: a stage that gives, and one that takes.", false);
    bool ok = false;
    const auto usual = [&](const char* end) {
        for (int k = 0; k < points.size(); ++k)
            if (points[k].endsWith(end)) return k;
        return 0;
    };
    const QString from = QInputDialog::getItem(this, "Feedback", "from", points, usual("secondary"), false, &ok);
    if (!ok) return;
    const QString to = QInputDialog::getItem(this, "Feedback", "to", points, std::max(usual("foot"), 0), false, &ok);
    if (!ok) return;
    const std::size_t end = b.channels[path->channel()].stages.size();
    Edit inserted = schematic::insertStage(b, Catalogue::shipped(), path->channel(), end, *stageKind("feedback"));
    std::vector<Edit> steps{inserted};
    steps.push_back(setText("", fmt::format("/channels/{}/stages/{}/from", path->channel(), end), from.toStdString()));
    steps.push_back(setText("", fmt::format("/channels/{}/stages/{}/to", path->channel(), end), to.toStdString()));
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        if (!b.channels[k].follows.empty() && b.channels[k].follows == b.channels[path->channel()].id) {
            const std::size_t own = b.channels[k].stages.size();
            steps.push_back(setText("", fmt::format("/channels/{}/stages/{}/from", k, own), from.toStdString()));
            steps.push_back(setText("", fmt::format("/channels/{}/stages/{}/to", k, own), to.toStdString()));
        }
    edit(together("feedback", steps));
}

void StagesStation::addLoosePart() {
    const ChannelSchematic c = channelSchematic(document.build(), Catalogue::shipped(), path->channel());
    QStringList nets;
    for (const Net& n : c.schematic.nets())
        if (n.name.find("screens") == std::string::npos) nets << text(n.name);
    nets.sort();
    static constexpr std::pair<const char*, Fill> kinds[] = {{"resistor 100 kΩ", Fill::Resistor}, {"capacitor 100 nF", Fill::Capacitor},
                                                             {"choke 10 H", Fill::Choke}, {"diode", Fill::Diode}, {"zener string 100 V", Fill::Zener}};
    QStringList names;
    for (const auto& [name, fill] : kinds) names << name;
    bool ok = false;
    const QString what = QInputDialog::getItem(this, "Loose part", "part", names, 0, false, &ok);
    if (!ok) return;
    const QString from = QInputDialog::getItem(this, "Loose part", "from net", nets, 0, false, &ok);
    if (!ok) return;
    const QString to = QInputDialog::getItem(this, "Loose part", "to net", nets, static_cast<int>(std::max<qsizetype>(0, nets.indexOf("ground"))), false, &ok);
    if (!ok) return;
    const Fill fill = kinds[names.indexOf(what)].second;
    const double value = fill == Fill::Resistor ? 100e3 : fill == Fill::Capacitor ? 100e-9 : fill == Fill::Zener ? 100 : 10;
    edit(addLoose(document.build(), fill, value, from.toStdString(), to.toStdString()));
}

void StagesStation::keyPressEvent(QKeyEvent* e) {
    const int k = path->selected();
    const bool control = e->modifiers() & Qt::ControlModifier;
    if (asChart->isChecked() || document.build().channels.empty()) return Station::keyPressEvent(e);
    if (e->key() == Qt::Key_Insert || (e->key() == Qt::Key_I && !control)) return insert->click();
    if (control && (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Equal)) return path->setZoom(path->zoom() * 1.15);
    if (control && e->key() == Qt::Key_Minus) return path->setZoom(path->zoom() / 1.15);
    if (k < 0) return Station::keyPressEvent(e);
    if (control && e->key() == Qt::Key_Delete) return edit(removeStage(document.build(), path->channel(), static_cast<std::size_t>(k)));
    if (e->key() == Qt::Key_Delete && path->focusedPart() >= 0)
        return edit(removePart(document.build(), path->channel(), static_cast<std::size_t>(k), static_cast<std::size_t>(path->focusedPart())));
    for (const auto& [key, by] : {std::pair{Qt::Key_Left, -1}, std::pair{Qt::Key_Right, 1}})
        if (e->key() == key) {
            const int to = k + by;
            if (to < 0 || to >= static_cast<int>(document.build().channels[path->channel()].stages.size())) return;
            if (control) edit(moveStage(document.build(), path->channel(), static_cast<std::size_t>(k), by));
            return path->select(to);
        }
    if (e->key() == Qt::Key_V) return chooseValve(0);
    if (e->key() == Qt::Key_Menu || e->key() == Qt::Key_Return) return popUp(change, &StagesStation::fillStage);
    Station::keyPressEvent(e);
}

} // namespace ember::app
