#include "chassis_station.h"

#include "layouts_dialog.h"
#include "place_all_button.h"
#include "side_view.h"
#include "solid_view.h"

#include "app/theme/theme.h"
#include "app/widgets/figure_list.h"
#include "app/widgets/quantity_field.h"
#include "app/widgets/words.h"
#include "core/chassis/bodies.h"
#include "core/chassis/handling.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/metal.h"

#include <QActionGroup>
#include <QCompleter>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>
#include <fmt/format.h>

#include <cmath>

namespace ember::app {

using namespace chassis;
using theme::Role;
using theme::Size;

QPushButton* ChassisStation::tab(const QString& words, const QString& name) {
    auto* b = new QPushButton(words);
    b->setProperty("tab", true);
    b->setCheckable(true);
    b->setObjectName(name);
    return b;
}

ChassisStation::ChassisStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    layout->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->addWidget(label("Chassis", Size::Title, true));
    subtitle = new QLabel;
    subtitle->setProperty("dim", true);
    subtitle->setMinimumWidth(1); // gives way before the window widens
    head->addWidget(subtitle);
    auto* inches = tab("inch", "inches");
    head->addWidget(inches);
    head->addStretch();
    plate = new PlateView(document);
    connect(inches, &QPushButton::toggled, this, [this](bool on) {
        plate->setInches(on);
        plate->setGrid(on ? 25.4e-3 / 16 : 1e-3);
    });
    const std::pair<QString, PlateSide> looks[] = {{"above", {Face::Top, false}},   {"underside", {Face::Top, true}},
                                                   {"front", {Face::Front, false}}, {"back", {Face::Back, false}},
                                                   {"left", {Face::Left, false}},   {"right", {Face::Right, false}}};
    for (const auto& [words, look] : looks) {
        auto* b = tab(words, "face-" + words);
        connect(b, &QPushButton::clicked, this, [this, look = look] {
            showSolid(false);
            lookAt(look);
        });
        faces.push_back(b);
        head->addWidget(b);
    }
    lower = tab("lower", "lowerChassis");
    lower->setToolTip("The same side of the tower's lower chassis");
    connect(lower, &QPushButton::clicked, this, [this] {
        showSolid(false);
        lookAt(plate->side());
    });
    head->addWidget(lower);
    asSolid = tab("solid", "solid");
    connect(asSolid, &QPushButton::clicked, this, [this] { showSolid(true); });
    head->addWidget(asSolid);
    layout->addLayout(head);
    layout->addWidget(pages = new QStackedWidget, 1);
    auto* flat = new QWidget;
    pages->addWidget(flat);
    pages->addWidget(solid = new SolidPanel(document));
    connect(solid, &SolidPanel::said, this, &Station::said);
    auto* rows = new QVBoxLayout(flat);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(6);
    rows->addWidget(plate, 1);
    rows->addWidget(side = new SideView(*plate));

    auto* foot = new QHBoxLayout;
    tray = new QLineEdit;
    tray->setObjectName("tray");
    tray->setAccessibleName("Place a part: type what it is");
    tray->setPlaceholderText("place: octal, film ...");
    tray->setFixedWidth(150);
    QStringList names;
    for (const BodyKind& k : bodyKinds()) names << text(k.label);
    auto* completer = new QCompleter(names, tray);
    completer->setFilterMode(Qt::MatchContains);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    tray->setCompleter(completer);
    connect(tray, &QLineEdit::returnPressed, this, &ChassisStation::placeTyped);
    foot->addWidget(tray);
    const std::pair<QString, Layer> layers[] = {
        {"signal", Layer::Signal},        {"field", Layer::Field},   {"heat", Layer::Heat},  {"sag", Layer::Sag},
        {"clearances", Layer::Clearance}, {"wiring", Layer::Wiring}, {"holes", Layer::Holes}};
    for (const auto& [words, layer] : layers) {
        auto* b = tab(words, "layer-" + words);
        b->setChecked(layer == Layer::Signal);
        connect(b, &QPushButton::toggled, this, [this, layer = layer](bool on) { plate->setLayer(layer, on); });
        foot->addWidget(b);
    }
    foot->addStretch();
    auto* others = new QPushButton("Layouts");
    others->setObjectName("showLayouts");
    connect(others, &QPushButton::clicked, this, &ChassisStation::showLayouts);
    foot->addWidget(others);
    auto* files = new QPushButton("Templates");
    files->setObjectName("templates");
    auto* menu = new QMenu(files);
    const auto ask = [this, menu](const QString& words, const QString& ending) {
        connect(menu->addAction(words), &QAction::triggered, this, [this, ending] {
            const QString name =
                text(document.build().name).toLower() + "-" + text(std::string(faceName(plate->side().face))) + ending;
            const QString f = QFileDialog::getSaveFileName(this, "Write the template", name);
            if (f.isEmpty()) return;
            const auto done = exportTo(f);
            Q_EMIT said(done ? "written: " + f + ". " + text(handlingCaution(document.build().chassis))
                             : text(done.problem().text()),
                        done.ok());
        });
    };
    ask("1:1 on paper, PDF...", ".pdf");
    ask("1:1 drawing, SVG...", ".svg");
    ask("Cut and drill, DXF...", ".dxf");
    ask("Hole list, CSV...", ".csv");
    ask("Positions of all parts, CSV...", "-positions.csv");
    ask("Picture for the record, SVG...", "-picture.svg");
    ask("Drilled together with the chosen board, SVG...", "-together.svg");
    QMenu* edges = menu->addMenu("The hole list measures from");
    auto* group = new QActionGroup(edges);
    for (const auto& [words, from] : {std::pair{"left and front, or below", Datum{false, false}},
                                      {"right and front, or below", Datum{true, false}},
                                      {"left and back, or above", Datum{false, true}},
                                      {"right and back, or above", Datum{true, true}}}) {
        QAction* a = group->addAction(edges->addAction(words));
        a->setCheckable(true);
        a->setChecked(!from.right && !from.far);
        connect(a, &QAction::triggered, this, [this, from = from] { datum = from; });
    }
    menu->addSeparator();
    connect(menu->addAction("Read positions (CSV) or an old chassis (DXF)..."), &QAction::triggered, this, [this] {
        const QString f =
            QFileDialog::getOpenFileName(this, "Read positions or holes", {}, "Tables and drawings (*.csv *.dxf)");
        if (f.isEmpty()) return;
        const auto done = importFrom(f);
        Q_EMIT said(done ? "read: " + f : text(done.problem().text()), done.ok());
    });
    files->setMenu(menu);
    foot->addWidget(files);
    rows->addLayout(foot);

    buildPanel();
    connect(plate, &PlateView::said, this, &Station::said);
    connect(plate, &PlateView::measureYours, this, &Station::valuesWanted);
    connect(plate, &PlateView::selectionChanged, this, &ChassisStation::showSelection);
    connect(plate, &PlateView::layoutChanged, this, [this] {
        showSelection();
        showFigures();
    });
    const auto showSide = [this] {
        const PlateSide s = plate->side();
        const std::size_t at = isPlate(s.face) ? (s.fromBelow ? 1 : 0) : 1 + indexOf(upperOf(s.face));
        const bool flatly = pages->currentIndex() == 0;
        lower->setChecked(flatly && isLower(s.face));
        for (std::size_t k = 0; k < faces.size(); ++k) faces[k]->setChecked(flatly && k == at);
        asSolid->setChecked(!flatly);
    };
    connect(plate, &PlateView::sideChanged, this, showSide);
    connect(pages, &QStackedWidget::currentChanged, this, showSide);
    showSide();
    showSelection();
    showFigures();
}

void ChassisStation::lookAt(PlateSide look) {
    look.face = lower->isChecked() ? lowerOf(look.face) : upperOf(look.face);
    plate->look(look);
}

void ChassisStation::showSolid(bool on) {
    pages->setCurrentIndex(on ? 1 : 0);
    asSolid->setChecked(on);
    if (on) solid->picture()->setFocus();
}

void ChassisStation::buildPanel() {
    panel = new QWidget(this);
    panel->hide(); // until the findings take it in
    auto* layout = new QVBoxLayout(panel);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    layout->addWidget(chosen = label("", static_cast<Size>(15), true));
    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(2);
    const std::tuple<const char*, const char*> keys[] = {{"x", "from the left"},
                                                         {"y", "from the front"},
                                                         {"angle", "turned, degrees"},
                                                         {"recess", "sunk"},
                                                         {"mass", "kilograms"}};
    int row = 0;
    for (const auto& [key, words] : keys) {
        auto* name = label(words, Size::Text, false, "dim");
        auto* field = new QuantityField;
        field->setObjectName(QString("part-") + key);
        field->setAccessibleName(words);
        field->setFont(theme::figures(Size::Text));
        field->setFixedWidth(104);
        field->setAlignment(Qt::AlignRight);
        connect(field, &QuantityField::entered, this, [this, key = key](double v) {
            if (plate->selection().size() != 1) return;
            const std::size_t k = plate->selection()[0];
            const auto done = document.edit(setValue(fmt::format("{}: {}", tagOf(plate->shown().parts[k]), key),
                                                     fmt::format("/chassis/parts/{}/{}", k, key), v));
            if (!done) Q_EMIT said(text(done.problem().sentence), false);
        });
        connect(field, &QuantityField::refused, this, [this](const QString& s) { Q_EMIT said(s, false); });
        grid->addWidget(name, row, 0);
        grid->addWidget(field, row++, 1);
        fields.push_back({key, name, field});
    }
    layout->addLayout(grid);
    layout->addSpacing(6);
    layout->addWidget(label("Figures", static_cast<Size>(15), true));
    auto* everything = new PlaceAllButton(document, panel);
    connect(everything, &PlaceAllButton::said, this, &ChassisStation::said);
    layout->addWidget(everything);
    layout->addWidget(figures = new FigureList("Figures of the layout"));
    figures->setObjectName("layoutFigures");
}

double ChassisStation::shareDone() const {
    const Build& b = document.build();
    if (b.chassis.parts.empty()) return 0;
    double share = 1;
    for (const auto& f : document.findings())
        if (f.station == "chassis" && !f.waived) share -= f.level == rules::Level::Stop ? 0.25 : 0.1;
    return std::max(0.1, share);
}

void ChassisStation::arrive() {
    plate->setFocus();
}

LayoutsDialog* ChassisStation::showLayouts() {
    if (!layouts) layouts = new LayoutsDialog(document, *plate, this);
    layouts->show();
    layouts->raise();
    layouts->activateWindow();
    return layouts;
}

void ChassisStation::showSelection() {
    const auto& which = plate->selection();
    const bool one = which.size() == 1 && which[0] < document.build().chassis.parts.size();
    for (const Field& f : fields) {
        f.name->setVisible(one);
        f.field->setVisible(one);
        if (one)
            if (const auto place = placeAt(document.build(), fmt::format("/chassis/parts/{}/{}", which[0], f.key)))
                f.field->show(*place);
    }
    if (!one) return chosen->setText(which.empty() ? "Nothing chosen" : QString("%1 parts chosen").arg(which.size()));
    const PlacedPart& p = plate->shown().parts[which[0]];
    const auto& layout = plate->layout();
    QString more;
    if (which[0] < layout.partWatts.size() && layout.partWatts[which[0]] > 0.05)
        more += ", " + text(layout.partWatts[which[0]], Unit::Watt, 2);
    if (which[0] < layout.partKelvin.size() && std::isfinite(layout.partKelvin[which[0]]))
        more += QString(", plate %1 °C").arg(layout.partKelvin[which[0]] - 273.15, 0, 'f', 0);
    chosen->setText(text(tagOf(p)) + more + (p.locked ? ", locked" : ""));
}

void ChassisStation::showFigures() {
    const Chassis& c = plate->shown();
    const bool tower = isTower(c);
    const QString whole = QString("%1 x %2 x %3 mm, %4 mm %5")
                              .arg(c.width * 1e3)
                              .arg(c.depth * 1e3)
                              .arg(c.height * 1e3)
                              .arg(c.thickness * 1e3)
                              .arg(sheetOf(c).name);
    subtitle->setText(tower ? QString("two, %1 mm apart").arg(c.storey * 1e3) : whole);
    subtitle->setToolTip(whole);
    lower->setVisible(tower);
    if (!tower && isLower(plate->side().face)) plate->look({upperOf(plate->side().face), plate->side().fromBelow});
    const LayoutFigures& f = plate->layout();
    if (c.parts.empty()) return figures->show({{"No part is placed yet: type one below", "", ""}});
    std::vector<FigureList::Row> rows;
    const auto add = [&](const QString& what, const QString& value) { rows.push_back({what, value, {}}); };
    add("weight", QString("%1 kg").arg(f.mass, 0, 'f', 1));
    const double across = 100 * f.massCentre.x() / c.width;
    add("centre of mass",
        QString("%1 % %2").arg(std::max(across, 100 - across), 0, 'f', 0).arg(across > 50 ? "right" : "left"));
    const PlateFigures& bent = f.mostBent();
    add("sag at rest, carried",
        QString("%1, %2 mm").arg(bent.rest.most * 1e3, 0, 'f', 2).arg(bent.carried.most * 1e3, 0, 'f', 2));
    add("hottest, at most", QString("%1 °C").arg(f.hottest() - 273.15, 0, 'f', 0));
    if (!f.exposure.victims.empty()) {
        const auto& [victim, tesla] = f.exposure.victims.front();
        add("hum pickup at " + text(tagOf(c.parts[victim])),
            QString("%1 dB").arg(20 * std::log10(std::max(1e-12, tesla / allowedTesla)), 0, 'f', 0));
        add("strongest source", text(tagOf(c.parts[f.exposure.pairs.front().source])));
    }
    const Hum& hum = f.hum;
    const auto hums = [&](std::size_t k) {
        return std::find(hum.iron.begin(), hum.iron.end(), c.parts[k].of) != hum.iron.end();
    };
    for (const CouplingFigures& k : f.couplings)
        if (hums(k.a) != hums(k.b)) {
            add(text(tagOf(c.parts[k.a]) + " to " + tagOf(c.parts[k.b])), QString("%1 dB").arg(k.db, 0, 'f', 0));
            add("least at an angle of", QString("%1%2°").arg(k.best.turn > 0 ? "+" : "").arg(k.best.turn, 0, 'f', 0));
            break;
        }
    if (!f.nearIron.empty())
        add("nearest to iron", QString("%1, %2 mm from %3")
                                   .arg(text(tagOf(c.parts[f.nearIron[0].socket])))
                                   .arg(f.nearIron[0].apart * 1e3, 0, 'f', 0)
                                   .arg(text(tagOf(c.parts[f.nearIron[0].iron]))));
    add("length of signal path", QString("%1 mm").arg(f.signalLength * 1e3, 0, 'f', 0));
    add("top area used", QString("%1 %").arg(100 * f.room.usedAbove, 0, 'f', 0));
    if (c.form != ChassisForm::Board) add("free volume below", QString("%1 %").arg(100 * f.room.freeBelow, 0, 'f', 0));
    if (f.room.suggestedWidth > 0)
        add("smallest plate", QString("%1 x %2 mm").arg(f.room.suggestedWidth * 1e3).arg(f.room.suggestedDepth * 1e3));
    figures->show(std::move(rows));
}

/// "choke 25": the body that fits the words, a number at the end is its volt-amperes or farads.
void ChassisStation::placeTyped() {
    QString words = tray->text().trimmed();
    if (words.isEmpty()) return;
    double size = 0;
    auto found = searchBodies(words.toStdString());
    if (found.empty()) {
        const QString last = words.section(' ', -1);
        for (const Unit unit : {Unit::None, Unit::Farad})
            if (const auto v = parseQuantity(last.toStdString(), unit); v && size == 0) size = *v;
        words = words.section(' ', 0, -2);
        found = size > 0 && !words.isEmpty() ? searchBodies(words.toStdString()) : std::vector<const BodyKind*>{};
    }
    if (found.empty())
        return Q_EMIT said("the tray holds nothing called \"" + tray->text().trimmed() +
                               "\"; try socket, can, transformer, jack",
                           false);
    const auto done = plate->place(found.front()->id, size);
    if (!done) return Q_EMIT said(text(done.problem().text()), false);
    tray->clear();
    plate->setFocus();
}

} // namespace ember::app
