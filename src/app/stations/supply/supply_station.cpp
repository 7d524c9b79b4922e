#include "supply_station.h"

#include "source_dialog.h"
#include "supply_panel.h"

#include "app/stations/find_value_dialog.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/build/storage.h"
#include "core/plan/amplifier_netlist.h"

#include <QButtonGroup>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using theme::Size;

SupplyStation::SupplyStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    layout->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(label("Supply", Size::Title, true));
    head->addWidget(subtitle = label("", Size::Text, false, "dim"));
    subtitle->setWordWrap(false);
    head->addStretch();
    head->addWidget(label("mains", Size::Text, false, "dim"));
    const auto tabs = [this](std::vector<QPushButton*>& to, QHBoxLayout* in, const QStringList& names, int checked,
                             auto chosenOne) {
        auto* group = new QButtonGroup(this);
        for (int k = 0; k < names.size(); ++k) {
            auto* b = new QPushButton(names[k]);
            b->setProperty("tab", true);
            b->setCheckable(true);
            b->setChecked(k == checked);
            group->addButton(b, k);
            in->addWidget(b);
            to.push_back(b);
        }
        connect(group, &QButtonGroup::idClicked, this, chosenOne);
    };
    tabs(mainsTabs, head, {"low", "nominal", "high"}, mainsChoice, [this](int k) {
        mainsChoice = k;
        refresh();
    });
    layout->addLayout(head);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(fall = new FallView(document));
    scroll->setMinimumHeight(340);
    connect(fall, &FallView::said, this, &Station::said);
    connect(fall, &FallView::valueWanted, this, [this](std::size_t section) {
        const std::string at = fmt::format("/supply/sections/{}", section);
        findValue()->askFor(at + "/" + mainKeyAt(document.build(), at));
    });
    layout->addWidget(scroll, 5);
    auto* row = new QHBoxLayout;
    row->setSpacing(0); // nine of them beside two buttons
    tabs(curveTabs, row,
         {"cycle", "switch-on", "switch-off", "off, cold", "bass note", "dip", "impedance", "ripple", "bias"}, curve,
         [this](int k) { showCurve(k); });
    row->addStretch();
    auto* find = new QPushButton("Find a value");
    find->setObjectName("findValue");
    connect(find, &QPushButton::clicked, this, [this] { findValue(); });
    row->addWidget(find);
    row->addSpacing(6);
    auto* write = new QPushButton("Export");
    write->setObjectName("exportSupply");
    auto* menu = new QMenu(write);
    for (const auto& [words, ending] : {std::pair{"This curve, PNG...", ".png"},
                                        {"This curve, SVG...", ".svg"},
                                        {"This curve's figures, CSV...", ".csv"},
                                        {"The circuit as text for simulators...", ".cir"}})
        connect(menu->addAction(words), &QAction::triggered, this, [this, ending = ending] {
            const QString f = QFileDialog::getSaveFileName(this, "Export",
                                                           text(document.build().name).toLower() + "-supply" + ending);
            if (f.isEmpty()) return;
            const auto done = exportTo(f);
            Q_EMIT said(done ? "written: " + f : text(done.problem().text()), done.ok());
        });
    write->setMenu(menu);
    row->addWidget(write);
    layout->addLayout(row);
    below = new QStackedWidget;
    below->addWidget(curves = new SupplyCurves);
    below->addWidget(bias = new BiasFall(document));
    connect(bias, &BiasFall::said, this, &Station::said);
    layout->addWidget(below, 3);
    panel = new SupplyPanel(document, this);
    panel->hide(); // until the findings take it in
    connect(panel, &SupplyPanel::said, this, &Station::said);
    connect(panel, &SupplyPanel::sourceWanted, this, &SupplyStation::showSource);
    connect(panel, &SupplyPanel::comparedChanged, this, [this] {
        fall->showPinned(panel->compared() && panel->compared()->nominal ? &*panel->compared()->nominal : nullptr);
        drawCurve();
    });
    // The curve in a turn of its own, after the panel's: the interface answers in between.
    drawing.setSingleShot(true);
    drawing.setInterval(30);
    connect(&drawing, &Timer::timeout, this, &SupplyStation::drawCurve);
    connect(&document, &Document::figuresChanged, this, &SupplyStation::refresh);
    refresh();
}

QWidget* SupplyStation::sidePanel() {
    return panel;
}

const plan::Steady* SupplyStation::chosen() const {
    const plan::Figures& f = document.figures();
    const auto& s = mainsChoice == 0 ? f.low : mainsChoice == 1 ? f.nominal : f.high;
    return s ? &*s : nullptr;
}

double SupplyStation::shareDone() const {
    if (!document.figures().nominal) return 0;
    double share = 1;
    for (const auto& f : document.findings())
        if (f.station == "supply" && !f.waived) share -= 0.2;
    return std::max(0.1, share);
}

void SupplyStation::refresh() {
    const Build& b = document.build();
    const double mains[3] = {b.mains.low, b.mains.volts, b.mains.high};
    for (std::size_t k = 0; k < 3; ++k) mainsTabs[k]->setText(text(mains[k], Unit::Volt));
    bool choke = false;
    for (const Section& s : b.supply.sections) choke = choke || s.kind == SectionKind::Choke;
    subtitle->setText(QString("%1 rectifier, %2, %3 nodes")
                          .arg(text(b.supply.rectifier.type), choke ? "choke" : "resistors")
                          .arg(supplyNodes(b.supply)));
    fall->showSteady(chosen(), document.figures().cold ? &*document.figures().cold : nullptr);
    panel->showSteady(chosen());
    drawing.start();
}

void SupplyStation::showCurve(int which) {
    curve = which;
    curveTabs[static_cast<std::size_t>(which)]->setChecked(true);
    below->setCurrentIndex(which == biasPicture ? 1 : 0);
    drawCurve();
}

void SupplyStation::drawCurve() {
    if (curve == biasPicture) return;
    curves->show(static_cast<SupplyCurves::Kind>(curve), document.figures(), chosen(), panel->compared(),
                 document.solving(), document.build().mains.frequency);
}

FindValueDialog* SupplyStation::findValue() {
    if (!finder) finder = new FindValueDialog(document, this);
    finder->show();
    finder->raise();
    finder->activateWindow();
    return finder;
}

SourceDialog* SupplyStation::showSource() {
    if (!source) source = new SourceDialog(document, this);
    source->show();
    source->raise();
    source->activateWindow();
    return source;
}

Expected<Done> SupplyStation::exportTo(const QString& file) {
    if (!file.endsWith(".cir")) {
        if (curve == biasPicture)
            return Problem{file.toStdString(), "the bias supply is not a curve: choose one, then write it"};
        drawCurve(); // of these figures, if they arrived this very moment
        return curves->exportTo(file);
    }
    const auto& nominal = document.figures().nominal;
    if (!nominal) return Problem{file.toStdString(), "the supply is not solved yet"};
    std::vector<double> amps;
    for (const plan::NodeFigures& n : nominal->nodes) amps.push_back(n.load);
    return saveText(plan::supplyNetlistText(document.build(), catalogueOf(document.build()), amps), file.toStdString());
}

} // namespace ember::app
