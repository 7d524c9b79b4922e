#include "wiring_station.h"

#include "app/stations/underside/underside_picture.h"
#include "board_dialog.h"
#include "wire_table.h"
#include "wiring_pdf.h"

#include "app/widgets/words.h"
#include "core/build/storage.h"
#include "core/procedure/rewiring.h"
#include "core/wires/wire_edits.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::app {

using namespace wires;

namespace {

/// As a file has it; nothing for a joint that is not begun.
QString word(Joint j) {
    return j == Joint::Open ? QString() : text(nameIn(jointNames, j));
}

/// What bites while wires of a kind are laid.
const char* caution(RunKind kind) {
    switch (kind) {
    case RunKind::Mains:
        return "Mains: live goes to the fuse holder's far contact; every terminal sleeved; the cord relieved of "
               "strain; no tinned ends under screws. Leave it to "
               "someone licensed where your code says so.";
    case RunKind::Earth: return "Bare metal under the lug, a lock washer, a bolt of its own: first on, last off.";
    case RunKind::Heater: return "Twist the pair, keep it in the corner, and cross signal wires at right angles.";
    case RunKind::HighVoltage: return "Polarity of every electrolytic: + to B+. Eyes covered when leads are cut.";
    case RunKind::Bias: return "The bias capacitors' + ends go to ground.";
    case RunKind::Ground:
        return "Each return to its own place: the winding's to the first capacitor before anything else.";
    case RunKind::Winding: return "Measure which lead is which before soldering; sleeve what is not used.";
    case RunKind::Signal: return "Screened leads are grounded at one end.";
    case RunKind::Output: return "Load or loudspeaker stays connected whenever it plays.";
    }
    return "";
}

} // namespace

WiringStation::WiringStation(Document& d, QWidget* parent) : WireStation(d, called, parent) {
    kind = new QComboBox;
    kind->setObjectName("wireKind");
    kind->setAccessibleName("Kind of wires");
    kind->addItem("all wires, in order");
    for (int k = 0; k <= static_cast<int>(RunKind::Output); ++k) kind->addItem(nameOf(static_cast<RunKind>(k)));
    head->addWidget(kind);
    colours = new QComboBox;
    colours->setObjectName("mainsColours");
    colours->setAccessibleName("Mains colours");
    colours->setToolTip("Colours of the mains side, as your country's code has them");
    colours->addItems({"mains colours: choose", "IEC 60445: brown, blue", "NFPA 70: black, white"});
    head->addWidget(colours);
    secondLook = new QCheckBox("second look");
    secondLook->setObjectName("secondLook");
    secondLook->setToolTip("Days later, from the last wire to the first: soldered joints become checked");
    head->addWidget(secondLook);
    head->addStretch();
    auto* boards = new QPushButton("Boards");
    boards->setObjectName("openBoards");
    boards->setToolTip("What stands between which lugs of the boards and tag strips");
    connect(boards, &QPushButton::clicked, this, [this] { (new BoardDialog(document, this))->show(); });
    head->addWidget(boards);
    auto* list = new QPushButton("Print");
    list->setObjectName("printWiring");
    auto* menu = new QMenu(list);
    connect(menu->addAction("Cutting list, CSV..."), &QAction::triggered, this, [this] { exportList(); });
    connect(menu->addAction("Pictures and labels, PDF..."), &QAction::triggered, this, [this] { exportPictures(); });
    list->setMenu(menu);
    head->addWidget(list);
    finishHead("wiringWords");
    now = label("", theme::Size::Text);
    now->setObjectName("wiringNow");
    now->setWordWrap(true);
    column->addWidget(now);
    table = new WireTable("Wires in the order of work",
                          {"", "from", "to", "colour", "mm²", "cut, mm", "first joint", "second joint"}, {0, 4, 5});
    table->setObjectName("wireTable");
    table->installEventFilter(this);
    table->setMinimumHeight(92);
    column->addWidget(table, 1);
    connect(kind, &QComboBox::currentIndexChanged, this, [this] { refresh(); });
    connect(secondLook, &QCheckBox::toggled, this, [this] { refresh(); });
    connect(colours, &QComboBox::activated, this, [this](int k) {
        edit(setText("mains colours", "/wiring/colours", nameIn(mainsColourNames, static_cast<MainsColours>(k))));
    });
    connect(table, &WireTable::moved, this, [this] { light(); });
    connect(picture, &UndersidePicture::chosen, table, &WireTable::select);
    offerWireMenu(table);
    refresh();
}

void WiringStation::arrive() {
    if (table->currentRow() < 0 && table->rowCount() > 0) table->setCurrentCell(0, 0);
    table->setFocus();
}

bool WiringStation::eventFilter(QObject* watched, QEvent* event) {
    if (watched == table && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Return || key == Qt::Key_Enter) return advance(true), true;
        if (key == Qt::Key_Backspace) return advance(false), true;
    }
    return Station::eventFilter(watched, event);
}

/// Enter: the first of the wire's joints that is behind moves on; when both have come to the same, the next wire.
void WiringStation::advance(bool forward) {
    const Document::Solved& solved = document.solved();
    const Run* r =
        solved.figures.wires ? solved.figures.wires->harness.find(table->currentId().toStdString()) : nullptr;
    if (!r) return;
    // As the build has it now: its figures may still be on their way after the last key.
    const Wire* own = wireIn(document.build(), r->wire.id);
    const Joint a = own ? own->fromJoint : Joint::Open, z = own ? own->toJoint : Joint::Open,
                last = secondLook->isChecked() ? Joint::Checked : Joint::Soldered;
    const bool first = forward ? a <= z : a > z;
    const Joint is = first ? a : z;
    if (forward && is >= last) {
        Q_EMIT said(last == Joint::Soldered ? "Both joints are soldered; the second look checks them."
                                            : "Both joints are checked.",
                    true);
        if (table->currentRow() + 1 < table->rowCount()) table->setCurrentCell(table->currentRow() + 1, 0);
        return;
    }
    if (secondLook->isChecked() && forward && is < Joint::Soldered)
        return Q_EMIT said("Not soldered yet: only what is soldered can be checked.", false);
    const Joint to = forward ? next(is) : previous(is);
    const auto again = !forward && is >= Joint::Soldered && to < Joint::Soldered
                           ? procedure::reopenedBy(document.build(), *r)
                           : std::vector<LogEntry>{};
    const std::string wire = r->wire.id, end = first ? r->wire.from : r->wire.to;
    edit(changeWires(document.build(), fmt::format("{} {}", spoken(end), nameIn(jointNames, to)), {wire},
                     [first, to](Wire& w) { (first ? w.fromJoint : w.toJoint) = to; }));
    for (const LogEntry& e : again) document.log(e);
    if (!again.empty())
        Q_EMIT said(QString("First Power begins again at \"%1\": a wire was opened.")
                        .arg(QString::fromUtf8(procedure::stageName(again.front().stage).data())),
                    false);
    const bool both = forward && !first && to >= last; // the wire is done
    if (both && table->currentRow() + 1 < table->rowCount()) table->setCurrentCell(table->currentRow() + 1, 0);
}

double WiringStation::shareDone() const {
    const auto& f = document.figures();
    if (!f.wires || f.wires->harness.runs.empty()) return 0;
    double done = 0;
    for (const Run& r : f.wires->harness.runs)
        for (const Joint j : {r.wire.fromJoint, r.wire.toJoint}) done += j >= Joint::Soldered ? 1 : 0;
    return done / (2.0 * static_cast<double>(f.wires->harness.runs.size()));
}

void WiringStation::refresh() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires) return;
    const Harness& h = solved.figures.wires->harness;
    colours->setCurrentIndex(static_cast<int>(solved.build.wiring.colours));
    std::vector<WireRow> rows;
    int number = 0, soldered = 0, hooked = 0, checked = 0;
    std::set<RunKind> shown;
    for (const Run& r : h.runs) {
        ++number;
        for (const Joint j : {r.wire.fromJoint, r.wire.toJoint})
            soldered += j >= Joint::Soldered, hooked += j == Joint::Hooked, checked += j == Joint::Checked;
        if (kind->currentIndex() > 0 && static_cast<int>(r.kind) != kind->currentIndex() - 1) continue;
        shown.insert(r.kind);
        const bool half = r.state() < Joint::Soldered && std::max(r.wire.fromJoint, r.wire.toJoint) >= Joint::Hooked;
        rows.push_back({text(r.wire.id),
                        {QString::number(number), text(spoken(r.wire.from)), text(spoken(r.wire.to)),
                         text(r.wire.colour), QString::number(r.wire.area * 1e6, 'g', 3),
                         QString::number(r.length * 1e3, 'f', 0), word(r.wire.fromJoint), word(r.wire.toJoint)},
                        6,
                        !half});
    }
    if (secondLook->isChecked()) std::reverse(rows.begin(), rows.end());
    table->show(rows);
    if (table->currentRow() < 0 && table->rowCount() > 0) table->setCurrentCell(0, 0);
    const auto all = 2 * h.runs.size();
    QString sums;
    for (const WireMetres& w : wireToBuy(h))
        sums += QString("%1%2 mm² %3 %4 m")
                    .arg(sums.isEmpty() ? "" : ", ")
                    .arg(w.area * 1e6, 0, 'g', 3)
                    .arg(text(w.colour))
                    .arg(w.metres, 0, 'f', 1);
    words->setText(QString("%1 of %2 joints soldered, %3 checked%4.")
                       .arg(soldered)
                       .arg(all)
                       .arg(checked)
                       .arg(hooked ? QString(", <b>%1 only hooked</b>").arg(hooked) : QString()));
    words->setToolTip("Wire to buy: " + sums + ".");
    picture->setKinds(kind->currentIndex() > 0 ? shown : std::set<RunKind>{});
    light();
}

void WiringStation::light() {
    const Document::Solved& solved = document.solved();
    const Run* r =
        solved.figures.wires ? solved.figures.wires->harness.find(table->currentId().toStdString()) : nullptr;
    if (!r) {
        picture->setLit({});
        picture->pointAt({});
        now->setText({});
        return;
    }
    std::set<std::string> ids{r->wire.id};
    if (r->pair()) ids.insert(r->twistedWith);
    picture->setLit(std::move(ids));
    const Chassis& c = solved.build.chassis;
    const auto end = [&](const Vector& v, const std::string& name, Joint joint, std::size_t spot) {
        return UndersidePicture::Callout{{v.x(), v.y()},
                                         text(spoken(name)) + (joint == Joint::Open ? "" : ", " + word(joint)),
                                         joint >= Joint::Soldered ? theme::Role::Verdigris : theme::Role::Ember,
                                         spot < c.parts.size() && isLower(c.parts[spot].face)};
    };
    picture->pointAt({end(r->path.front(), r->wire.from, r->wire.fromJoint, r->fromSpot),
                      end(r->path.back(), r->wire.to, r->wire.toJoint, r->toSpot)});
    // To be read from a metre and a half: which, where, how long.
    QString s = QString("<span style='font-size:20px'><b>%1 → %2</b>&nbsp; %3, %4 mm², cut %5 mm</span><br>")
                    .arg(text(spoken(r->wire.from)), text(spoken(r->wire.to)), text(r->wire.colour))
                    .arg(r->wire.area * 1e6, 0, 'g', 3)
                    .arg(r->length * 1e3, 0, 'f', 0);
    s += QString("%1: strip %2 mm at both ends%3%4; %5 between its ends. Enter: next state of the joint; Backspace: "
                 "back. %6")
             .arg(text(r->net))
             .arg(strip * 1e3, 0, 'f', 0)
             .arg(r->pair() && !r->wire.straight
                      ? QString(", twisted %1 mm to a turn with its pair").arg(r->wire.pitch * 1e3, 0, 'f', 0)
                      : QString(),
                  r->screened ? ", screened" : "", text(r->ohms, Unit::Ohm), caution(r->kind));
    if (std::isfinite(r->amps) && r->amps > 1e-6)
        s += QString(" Carries %1: %2 lost, %3 in it.")
                 .arg(text(r->amps, Unit::Ampere), text(r->amps * r->ohms, Unit::Volt, 2),
                      text(r->amps * r->amps * r->ohms, Unit::Watt, 2));
    s += "<br>" + continuity(*r);
    if (!r->wire.note.empty()) s += " Note: " + text(r->wire.note).toHtmlEscaped() + ".";
    now->setText(s);
}

/// What the finished wiring shows here, and what another reading points to.
QString WiringStation::continuity(const Run& r) {
    const Document::Solved& solved = document.solved();
    if (networkOf != solved.figures.wires) {
        networkOf = solved.figures.wires;
        network = std::make_unique<ContinuityNetwork>(solved.build, networkOf->harness);
    }
    const Continuity c = network->of(r);
    const auto ohms = [](double value) { return std::isfinite(value) ? text(value, Unit::Ohm) : QString("open"); };
    QString s =
        QString(
            "Ohmmeter, when all is wired, plug and valves out, after reading 0 V there: %1 to the first capacitor's "
            "return <b>%2</b>")
            .arg(text(spoken(c.at)), ohms(c.ohms));
    if (!c.charging.empty()) s += QString(", reached slowly as %1 charges").arg(tag(c.charging));
    for (const WrongReading& w : c.wrong) s += QString("; %1: %2").arg(ohms(w.ohms), text(w.cause));
    return s + ".";
}

std::string WiringStation::cuttingList() const {
    std::string out = "number,kind,from,to,colour,mm2,cut_mm,strip_mm,twisted_with,screened\n";
    const auto& f = document.figures();
    int number = 0;
    for (const Run& r : f.wires ? f.wires->harness.runs : std::vector<Run>{})
        out += fmt::format("{},{},{},{},{},{:g},{:.0f},{:.0f},{},{}\n", ++number, nameOf(r.kind), r.wire.from,
                           r.wire.to, r.wire.colour, r.wire.area * 1e6, r.length * 1e3, strip * 1e3,
                           r.wire.straight ? "" : r.twistedWith, r.screened ? "yes" : "");
    return out;
}

void WiringStation::exportPictures() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires || solved.figures.wires->harness.runs.empty())
        return Q_EMIT said("Nothing is wired yet: place the parts first.", false);
    const QString file = QFileDialog::getSaveFileName(this, "Pictures and labels", "wiring.pdf", "PDF (*.pdf)");
    if (file.isEmpty()) return;
    const auto pages = writeWiringPdf(solved.build, solved.figures.wires->harness, file);
    if (!pages) return Q_EMIT said(text(pages.problem().text()), false);
    Q_EMIT said(QString("Written: %1, %2 pages").arg(file).arg(*pages), true);
}

void WiringStation::exportList() {
    const QString file = QFileDialog::getSaveFileName(this, "Cutting list", "wires.csv", "Table (*.csv)");
    if (file.isEmpty()) return;
    if (auto done = saveText(cuttingList(), file.toStdString()); !done)
        return Q_EMIT said(text(done.problem().text()), false);
    Q_EMIT said("Written: " + file, true);
}

} // namespace ember::app
