#include "own_type_dialog.h"

#include "points_file.h"
#include "valve_sheet.h"

#include "app/widgets/number_rows.h"
#include "app/widgets/words.h"
#include "core/catalogue/fit.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

struct SheetQuestion {
    const char* object;
    const char* words;
    Unit unit;
    double OwnType::*value;
    double bare;  ///< what a number without a unit is in, of the unit
    bool pentode; ///< of pentodes alone
};
constexpr std::array<SheetQuestion, 13> sheetQuestions{
    {{"ownHeaterVolts", "heater, V", Unit::Volt, &OwnType::heaterVolts, 1, false},
     {"ownHeaterAmps", "heater, A", Unit::Ampere, &OwnType::heaterAmps, 1, false},
     {"ownPlateWatts", "most plate watts", Unit::Watt, &OwnType::plateWatts, 1, false},
     {"ownPlateVolts", "most plate volts", Unit::Volt, &OwnType::plateVolts, 1, false},
     {"ownScreenWatts", "most screen watts", Unit::Watt, &OwnType::screenWatts, 1, true},
     {"ownScreenVolts", "most screen volts", Unit::Volt, &OwnType::screenVolts, 1, true},
     {"ownCathodeAmps", "most cathode mA", Unit::Ampere, &OwnType::cathodeAmps, 1e-3, false},
     {"ownHeaterCathode", "heater to cathode, V", Unit::Volt, &OwnType::heaterCathodeVolts, 1, false},
     {"ownGridLeak", "largest grid leak", Unit::Ohm, &OwnType::gridLeakOhms, 1, false},
     {"ownGridOnset", "grid current from, V", Unit::Volt, &OwnType::gridOnset, 1, false},
     {"ownGridPlate", "grid to plate, pF", Unit::Farad, &OwnType::gridPlate, 1e-12, false},
     {"ownGridCathode", "grid to cathode, pF", Unit::Farad, &OwnType::gridCathode, 1e-12, false},
     {"ownPlateCathode", "plate to cathode, pF", Unit::Farad, &OwnType::plateCathode, 1e-12, false}}};

constexpr std::array sheetValues{&SheetPoint::plate,     &SheetPoint::screen,     &SheetPoint::grid,
                                 &SheetPoint::plateAmps, &SheetPoint::screenAmps, &SheetPoint::gm,
                                 &SheetPoint::mu,        &SheetPoint::rp};
constexpr std::array<NumberColumn, sheetValues.size()> sheetColumns{{{"plate V", Unit::Volt, 1},
                                                                     {"screen V", Unit::Volt, 1},
                                                                     {"grid V", Unit::Volt, 1},
                                                                     {"plate mA", Unit::Ampere, 1e-3},
                                                                     {"screen mA", Unit::Ampere, 1e-3},
                                                                     {"gm mA/V", Unit::None, 1e-3},
                                                                     {"mu", Unit::None, 1},
                                                                     {"rp k\u03a9", Unit::Ohm, 1e3}}};
constexpr int screenAt = 1, currentAt = 3, screenCurrentAt = 4;

QGridLayout* gridOf() {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    return grid;
}

} // namespace

OwnTypeDialog::OwnTypeDialog(Document& d, const std::string& changing, QWidget* parent)
    : QDialog(parent),
      document(d),
      before(changing) {
    setWindowTitle("A type of your own");
    setObjectName("ownType");
    resize(1240, 740);
    auto* page = new QVBoxLayout(this);
    auto* sides = new QHBoxLayout;
    page->addLayout(sides, 1);
    auto* left = new QVBoxLayout;
    auto* grid = gridOf();
    int at = 0;
    const auto put = [&](const char* words, const char* object, QWidget* w) {
        w->setObjectName(object);
        w->setAccessibleName(words);
        auto* l = label(words, Size::Text, false, "dim");
        l->setWordWrap(false);
        l->setBuddy(w);
        if (qobject_cast<QLineEdit*>(w)) w->setFixedWidth(88);
        grid->addWidget(l, at / 2, 2 * (at % 2));
        grid->addWidget(w, at / 2, 2 * (at % 2) + 1);
        ++at;
        return l;
    };
    put("name", "ownName", name = new QLineEdit);
    put("kind", "ownKind", kind = new QComboBox);
    kind->addItems({"triode", "pentode, beam tetrode"});
    put("in one bottle", "ownHalves", halves = new QComboBox);
    halves->addItems({"one", "two alike"});
    put("pins as", "ownPins", pins = new QComboBox);
    pins->addItem("not known");
    for (const ValveType& t : Catalogue::shipped().valves) pins->addItem(text(t.type));
    for (const SheetQuestion& q : sheetQuestions) {
        auto* f = new QLineEdit;
        f->setFont(theme::figures(Size::Text));
        f->setPlaceholderText(q.value == &OwnType::gridOnset ? "by its heater" : "unknown");
        fields.push_back(f);
        auto* words = put(q.words, q.object, f);
        connect(f, &QLineEdit::textChanged, &pause, qOverload<>(&Timer::start));
        if (q.pentode)
            connect(kind, &QComboBox::currentIndexChanged, f, [f, words](int k) {
                f->setEnabled(k == 1);
                words->setEnabled(k == 1);
            });
    }
    put("limits are", "ownSystem", system = new QComboBox);
    for (const std::string_view n : ratingSystemNames) system->addItem(text(std::string(n)).replace('-', ' '));
    system->setToolTip("Older sheets are design centre: they leave room for the mains and the parts' tolerances");
    put("", "ownFilament", filament = new QCheckBox("filament is cathode"));
    left->addLayout(grid);
    auto* from = new QHBoxLayout;
    from->addWidget(label("figures from", Size::Text, false, "dim"));
    source = new QLineEdit;
    source->setObjectName("ownSource");
    source->setPlaceholderText("the sheet, the tester, the day");
    from->addWidget(source, 1);
    left->addLayout(from);
    points = new NumberRows(sheetColumns, "law off");
    points->setObjectName("ownPoints");
    points->setAccessibleName("Points of the type");
    points->setToolTip("Volts to the cathode, one section, an average valve. What is not stated stays empty.");
    left->addWidget(points, 1);
    sides->addLayout(left, 10);
    auto* right = new QVBoxLayout;
    right->addWidget(sheet = new ValveSheet, 1);
    verdict = label("", Size::Text);
    verdict->setObjectName("ownVerdict");
    verdict->setWordWrap(true);
    verdict->setMinimumHeight(84);
    verdict->setAlignment(Qt::AlignTop);
    right->addWidget(verdict);
    sides->addLayout(right, 10);
    auto* foot = new QHBoxLayout;
    const auto button = [&](const char* words, const char* object) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setAutoDefault(false);
        foot->addWidget(b);
        return b;
    };
    auto* file = button("From a file...", "ownFile");
    file->setToolTip("A curve tracer's table: CSV with heads and units, or JSON");
    foot->addStretch();
    auto* cancel = button("Cancel", "ownCancel");
    take = button("Keep in the build", "ownKeep");
    page->addLayout(foot);

    pause.setSingleShot(true);
    pause.setInterval(150);
    connect(&pause, &Timer::timeout, this, &OwnTypeDialog::judge);
    for (QLineEdit* f : {name, source}) connect(f, &QLineEdit::textChanged, &pause, qOverload<>(&Timer::start));
    for (QComboBox* c : {kind, halves, pins, system})
        connect(c, &QComboBox::currentIndexChanged, &pause, qOverload<>(&Timer::start));
    connect(kind, &QComboBox::currentIndexChanged, this, [this](int k) {
        for (const int c : {screenAt, screenCurrentAt}) points->setColumnHidden(c, k == 0);
    });
    connect(filament, &QCheckBox::toggled, &pause, qOverload<>(&Timer::start));
    connect(points, &NumberRows::edited, &pause, qOverload<>(&Timer::start));
    connect(file, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Points of a valve", {},
                                                          "Tables (*.csv *.txt *.tsv *.json);;All files (*)");
        if (!path.isEmpty()) load(path);
    });
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    connect(take, &QPushButton::clicked, this, &OwnTypeDialog::keep);
    const OwnType* old = ownTypeOf(document.build(), before);
    fill(old ? *old : OwnType{});
    if (!old) before.clear();
    judge();
    name->setFocus();
}

void OwnTypeDialog::fill(const OwnType& t) {
    name->setText(text(t.id));
    source->setText(text(t.source));
    kind->setCurrentIndex(-1); // so that the fields of a pentode are enabled or hidden anew
    kind->setCurrentIndex(static_cast<int>(t.kind));
    halves->setCurrentIndex(t.sections - 1);
    pins->setCurrentIndex(std::max(0, pins->findText(text(t.pinsAs))));
    system->setCurrentIndex(static_cast<int>(t.system));
    filament->setChecked(t.directlyHeated);
    for (std::size_t k = 0; k < sheetQuestions.size(); ++k) {
        const SheetQuestion& q = sheetQuestions[k];
        const double v = t.*q.value;
        fields[k]->setText(v != 0 ? text(v, q.unit) : QString());
    }
    std::vector<std::vector<double>> rows;
    for (const SheetPoint& p : t.points) {
        auto& row = rows.emplace_back();
        for (const auto value : sheetValues)
            row.push_back(p.*value != 0 || value == &SheetPoint::grid ? p.*value
                                                                      : std::numeric_limits<double>::quiet_NaN());
    }
    points->fillRows(rows);
}

Expected<OwnType> OwnTypeDialog::typed() const {
    OwnType t;
    if (const OwnType* old = ownTypeOf(document.build(), before)) t.unknown = old->unknown;
    t.id = name->text().trimmed().toStdString();
    t.source = source->text().trimmed().toStdString();
    t.kind = kind->currentIndex() == 1 ? ValveKind::Pentode : ValveKind::Triode;
    t.sections = halves->currentIndex() + 1;
    t.pinsAs = pins->currentIndex() > 0 ? pins->currentText().toStdString() : "";
    t.system = static_cast<RatingSystem>(system->currentIndex());
    t.directlyHeated = filament->isChecked();
    for (std::size_t k = 0; k < sheetQuestions.size(); ++k) {
        const SheetQuestion& q = sheetQuestions[k];
        const QString words = fields[k]->text().trimmed();
        if (words.isEmpty() || !fields[k]->isEnabled()) continue;
        const auto v = parseTyped(words, q.unit, q.bare);
        if (!v) return Problem{"", fmt::format("{}: {}", q.words, v.problem().sentence)};
        t.*q.value = *v;
    }
    const auto rows = points->typedRows();
    if (!rows) return rows.problem();
    for (const auto& [row, names] : *rows) {
        SheetPoint p;
        for (std::size_t c = 0; c < sheetValues.size(); ++c)
            if (std::isfinite(row[c])) p.*sheetValues[c] = row[c];
        const bool screenless = t.kind == ValveKind::Triode;
        if (screenless) p.screen = p.screenAmps = 0;
        t.points.push_back(std::move(p));
    }
    if (t.points.size() > mostSheetPoints)
        return Problem{"", fmt::format("{} points; {} are the most that are kept", t.points.size(), mostSheetPoints)};
    return t;
}

/// How far the law is off, what does not go together, and what the points leave open.
QString OwnTypeDialog::wordsFor(const OwnType& t, const ValveType& fitted) const {
    const TypeSection& s = fitted.section(1);
    QStringList out;
    QString off = QString("The law is %1 off its figures").arg(percent(s.fit.fitted));
    if (s.fit.predicted > 0)
        off += QString("; a point that is left out of the fit comes out %1 off, and so wide the plan's bands are")
                   .arg(percent(s.fit.predicted));
    out << off + ".";
    for (const std::string& apart : misfits(s.law, s.published))
        out << QString("Does not go together with the rest: %1.").arg(text(apart));
    const auto [low, high] = std::minmax_element(t.points.begin(), t.points.end(),
                                                 [](const auto& a, const auto& b) { return a.plate < b.plate; });
    const bool slopes = std::any_of(t.points.begin(), t.points.end(),
                                    [](const SheetPoint& p) { return (p.gm > 0 && p.rp > 0) || p.mu > 0; });
    if (high->plate < 1.3 * low->plate && !slopes)
        out << QString("All points stand near %1: how the current changes with plate volts is a usual valve's. One at "
                       "half of that, or mu, tells it.")
                   .arg(text(high->plate, Unit::Volt));
    if (std::none_of(s.published.points.begin(), s.published.points.end(), [](const auto& p) { return p.cutoff; }))
        out << "No point near cut-off: what happens there is a usual valve's. One at a fiftieth of the current tells "
               "it.";
    if (t.gridPlate == 0) out << "Without its capacitances the response has no top end of its making.";
    return out.join(" ");
}

void OwnTypeDialog::judge() {
    pause.stop();
    take->setEnabled(false);
    points->showRemarks({}, currentAt);
    const auto refuse = [&](const std::string& why) { verdict->setText(coloured(Role::Stop, text(why))); };
    auto own = typed();
    if (!own) return refuse(own.problem().sentence);
    const bool named = !own->id.empty();
    if (!named) own->id = "?"; // what it is called does not change its law
    const auto clash = ownTypeOf(document.build(), own->id);
    if (clash && own->id != before) return refuse(fmt::format("the build has a type {} already", own->id));
    if (own->points.empty())
        return verdict->setText(
            "A point is plate and grid volts to the cathode with the plate current, of a pentode the screen's volts "
            "too; gm, mu and rp where the sheet states them. One is the least; five, over the range in which the "
            "valve will work, make a law that can be trusted.");
    const auto fitted = valveTypeOf(*own);
    if (!fitted) return refuse(fitted.problem().sentence);
    auto now = std::make_unique<const ValveType>(*fitted);
    sheet->show(*now);
    shown = std::move(now);
    QStringList off;
    const circuit::PortLaw& law = shown->section(1).law;
    for (const PublishedPoint& p : shown->section(1).published.points)
        if (p.cutoff)
            off << "V " + percent(gridForCurrent(law, p) / p.grid - 1);
        else if (p.plateAmps > 0)
            off << percent(figuresAt(law, p).plateAmps / p.plateAmps - 1);
    points->showRemarks(off, currentAt);
    verdict->setText((named ? QString() : coloured(Role::Stop, "It needs a name. ")) + wordsFor(*own, *shown));
    take->setEnabled(named);
}

void OwnTypeDialog::load(const QString& path) {
    const auto read = pointsFromFile(path);
    if (!read) return verdict->setText(coloured(Role::Stop, text(read.problem().text())));
    auto own = typed();
    OwnType t = own ? *own : OwnType{};
    t.kind = read->pentode ? ValveKind::Pentode : ValveKind::Triode;
    t.points = sheetPoints(read->data);
    if (t.source.empty()) t.source = QFileInfo(path).fileName().toStdString();
    fill(t);
    judge();
}

void OwnTypeDialog::keep() {
    judge();
    if (!take->isEnabled()) return;
    const auto own = typed();
    const auto done = document.edit(keepOwnType(document.build(), *own, before));
    if (!done) return verdict->setText(coloured(Role::Stop, text(done.problem().sentence)));
    kept = own->id;
    accept();
}

} // namespace ember::app
