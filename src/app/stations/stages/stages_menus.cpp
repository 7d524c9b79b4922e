// The Stages station's menus and questions.
#include "iron_dialog.h"
#include "path_picture.h"
#include "readings_dialog.h"
#include "stages_station.h"
#include "valve_dialog.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/path_schematic.h"

#include <QInputDialog>
#include <QMenu>
#include <fmt/format.h>

#include <algorithm>

namespace ember::app {

using namespace schematic;

/// Every kind, in the order of a path, in groups of what it is for.
void StagesStation::fillInsert(QMenu& menu, std::size_t at) {
    static constexpr std::pair<Duty, const char*> groups[] = {{Duty::Input, "Input"},   {Duty::Control, "Controls"},
                                                              {Duty::Gain, "Gain"},     {Duty::Splitter, "Two phases"},
                                                              {Duty::Output, "Output"}, {Duty::LineOut, "Line output"}};
    for (const auto& [duty, title] : groups) {
        QMenu* group = menu.addMenu(title);
        for (const StageKind* k : stageKinds()) {
            if (k->duty != duty) continue;
            connect(group->addAction(text(std::string(k->title))), &QAction::triggered, this, [this, k, at] {
                edit(insertStage(document.build(), catalogueOf(document.build()), path->channel(), at, *k));
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
            connect(other->addAction(text(std::string(k->title))), &QAction::triggered, this, [this, k, at, c] {
                edit(exchangeStage(document.build(), catalogueOf(document.build()), c, at, *k));
            });
    other->setEnabled(!other->isEmpty());
    fillForms(menu);
    fillNodes(menu);
    if (now && now->duty == Duty::Output) {
        connect(menu.addAction("One more valve a side"), &QAction::triggered, this,
                [this, at, c] { edit(addOutputValves(document.build(), c, at)); });
        connect(menu.addAction("One valve a side less"), &QAction::triggered, this,
                [this, at, c] { edit(removeOutputValves(document.build(), c, at)); });
    }
    if (!s->valves.empty()) {
        QAction* a = menu.addAction("Valves as they were read...");
        a->setShortcut(QKeySequence("Shift+V"));
        connect(a, &QAction::triggered, this, &StagesStation::readValves);
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
        const QString note = QInputDialog::getText(
            this, "Note", "Why this stage differs from the drawing that you follow:", QLineEdit::Normal,
            text(document.build().channels[c].stages[at].note), &ok);
        if (ok) edit(setText("a note", fmt::format("/channels/{}/stages/{}/note", c, at), note.toStdString()));
    });
    connect(menu.addAction("Save the drawing..."), &QAction::triggered, this, &StagesStation::saveDrawing);
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
            connect(
                a, &QAction::triggered, this, [this, at, c, name = std::string(form.name), to = std::string(choice)] {
                    const Stage& of = document.build().channels[c].stages[at];
                    for (std::size_t k = 0; k < of.options.size(); ++k)
                        if (of.options[k].name == name)
                            return edit(setText(name + ": " + to,
                                                fmt::format("/channels/{}/stages/{}/options/{}/choice", c, at, k), to));
                    edit(insertAt(name + ": " + to, fmt::format("/channels/{}/stages/{}/options/-", c, at),
                                  StageOption{{}, name, to}));
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
    static constexpr const char* fills[] = {"resistor",      "capacitor",    "choke",
                                            "potentiometer", "transformer",  "current source",
                                            "diode",         "zener string", "adjuster"};
    for (const EmptySlot& e : emptySlots(*s))
        for (const Fill fill : e.slot->fills) {
            const QString name =
                QString("Add %1%2%3")
                    .arg(text(std::string(e.slot->name)), e.at.empty() ? "" : " " + text(e.at),
                         e.slot->fills.size() > 1 ? QString(": %1").arg(fills[static_cast<std::size_t>(fill)]) : "");
            connect(menu.addAction(name), &QAction::triggered, this, [this, c, at, slot = e.slot, place = e.at, fill] {
                edit(addPart(document.build(), c, at, *slot, place, fill));
            });
        }
    for (std::size_t p = 0; p < s->parts.size(); ++p)
        if (const auto* t = std::get_if<OutputTransformer>(&s->parts[p].part); t && isOutput(*s)) {
            fillTaps(menu, *t, p);
            connect(menu.addAction(tag(t->id) + " from readings..."), &QAction::triggered, this, [this, c, at, p, s] {
                const std::string pointer = fmt::format("/channels/{}/stages/{}/parts/{}", c, at, p);
                IronDialog(document, pointer, s->kind == "push-pull", this).exec();
            });
        }
    if (s->parts.empty()) return;
    QMenu* gone = menu.addMenu("Take away");
    for (std::size_t p = 0; p < s->parts.size(); ++p)
        connect(
            gone->addAction(
                QString("%1  %2 %3").arg(tag(idOf(s->parts[p].part)), text(s->parts[p].slot), text(s->parts[p].at))),
            &QAction::triggered, this, [this, c, at, p] { edit(removePart(document.build(), c, at, p)); });
}

/// Further taps of an output transformer's secondary, from which feedback may be taken.
void StagesStation::fillTaps(QMenu& menu, const OutputTransformer& t, std::size_t at) {
    const auto k = static_cast<std::size_t>(path->selected());
    std::vector<double> now;
    for (const SecondaryTap& tap : t.secondaryTaps) now.push_back(tap.loadImpedance);
    const auto set = [this, k, at](const std::vector<double>& ohms) {
        edit(setTaps(document.build(), path->channel(), k, at, ohms));
    };
    QMenu* taps = menu.addMenu(tag(t.id) + ", taps of the secondary");
    for (const double ohms : now)
        connect(taps->addAction("Take away " + text(ohms, Unit::Ohm, 2)), &QAction::triggered, this, [=] {
            std::vector<double> left = now;
            std::erase(left, ohms);
            set(left);
        });
    const auto add = [=](double ohms) {
        std::vector<double> more = now;
        more.push_back(ohms);
        set(more);
    };
    for (const double ohms : {4.0, 8.0, 16.0}) {
        const bool there =
            ohms == t.loadImpedance || std::any_of(t.secondaryTaps.begin(), t.secondaryTaps.end(),
                                                   [&](const SecondaryTap& tap) { return tap.loadImpedance == ohms; });
        if (!there)
            connect(taps->addAction("Add " + text(ohms, Unit::Ohm, 2)), &QAction::triggered, this,
                    [add, ohms] { add(ohms); });
    }
    connect(taps->addAction("Add another..."), &QAction::triggered, this, [this, add] {
        bool ok = false;
        const QString load =
            QInputDialog::getText(this, "Tap of the secondary", "for a load of", QLineEdit::Normal, "15 Ω", &ok);
        if (!ok) return;
        const auto ohms = parseWithin(load.toStdString(), Unit::Ohm, {0.5, 1e6});
        if (ohms)
            add(*ohms);
        else
            Q_EMIT said(text(ohms.problem().sentence), false);
    });
}

void StagesStation::chooseValve(int which) {
    const Stage* s = stage();
    if (!s || s->valves.empty()) return;
    const StageValve& v =
        s->valves[static_cast<std::size_t>(std::clamp(which, 0, static_cast<int>(s->valves.size()) - 1))];
    const Valve* bottle = bottleOf(document.build(), v.bottle);
    ValveDialog dialog(document, bottle ? bottle->type : "", this);
    if (dialog.exec() != QDialog::Accepted || dialog.type().empty() || !bottle) return;
    // All valves of an output stage, and of channels that follow, are of one type.
    std::vector<std::string> ids{v.bottle};
    if (isOutput(*s))
        for (const StageValve& other : s->valves) ids.push_back(other.bottle);
    const Build& b = document.build();
    for (const Channel& ch : b.channels)
        if (!ch.follows.empty() && ch.follows == b.channels[path->channel()].id &&
            path->selected() < static_cast<int>(ch.stages.size()))
            for (const StageValve& other : ch.stages[static_cast<std::size_t>(path->selected())].valves)
                if (isOutput(*s) || other.at == v.at) ids.push_back(other.bottle);
    std::sort(ids.begin(), ids.end());
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
    std::vector<Edit> all;
    for (const std::string& other : ids) all.push_back(changeType(b, catalogueOf(b), other, dialog.type()));
    edit(together(fmt::format("{} to {}", upper(v.bottle), dialog.type()), all));
}

void StagesStation::readValves() {
    if (const Stage* s = stage(); s && !s->valves.empty()) ReadingsDialog(document, s->valves[0].bottle, this).exec();
}

void StagesStation::insertFeedback() {
    const Build& b = document.build();
    const ChannelSchematic c = channelSchematic(b, catalogueOf(b), path->channel());
    QStringList points;
    for (const auto& [name, net] : c.points) points << text(name);
    if (points.size() < 2)
        return Q_EMIT said("Feedback needs two points of the path: a stage that gives, and one that takes.", false);
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
    Edit inserted = schematic::insertStage(b, catalogueOf(b), path->channel(), end, *stageKind("feedback"));
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
    const ChannelSchematic c = channelSchematic(document.build(), catalogueOf(document.build()), path->channel());
    QStringList nets;
    for (const Net& n : c.schematic.nets())
        if (n.name.find("screens") == std::string::npos) nets << text(n.name);
    nets.sort();
    static constexpr std::pair<const char*, Fill> kinds[] = {{"resistor 100 kΩ", Fill::Resistor},
                                                             {"capacitor 100 nF", Fill::Capacitor},
                                                             {"choke 10 H", Fill::Choke},
                                                             {"diode", Fill::Diode},
                                                             {"zener string 100 V", Fill::Zener}};
    QStringList names;
    for (const auto& [name, fill] : kinds) names << name;
    bool ok = false;
    const QString what = QInputDialog::getItem(this, "Loose part", "part", names, 0, false, &ok);
    if (!ok) return;
    const QString from = QInputDialog::getItem(this, "Loose part", "from net", nets, 0, false, &ok);
    if (!ok) return;
    const QString to =
        QInputDialog::getItem(this, "Loose part", "to net", nets,
                              static_cast<int>(std::max<qsizetype>(0, nets.indexOf("ground"))), false, &ok);
    if (!ok) return;
    const Fill fill = kinds[names.indexOf(what)].second;
    const double value = fill == Fill::Resistor    ? 100e3
                         : fill == Fill::Capacitor ? 100e-9
                         : fill == Fill::Zener     ? 100
                                                   : 10;
    edit(addLoose(document.build(), fill, value, from.toStdString(), to.toStdString()));
}

} // namespace ember::app
