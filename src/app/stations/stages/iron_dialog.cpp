#include "iron_dialog.h"

#include "unknown_iron_view.h"

#include "app/widgets/words.h"
#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/build/typical_iron.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableWidget>
#include <QVBoxLayout>

#include <algorithm>
#include <array>
#include <functional>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

struct IronQuestion {
    const char* object;
    const char* words;
    const char* hint;
    Unit unit;
    std::function<void(plan::IronReadings&, double)> set;
};
const std::vector<IronQuestion>& ironQuestions() {
    using R = plan::IronReadings;
    static const std::vector<IronQuestion> all{
        {"ironHertz", "frequency of the open readings", "50 Hz", Unit::Hertz, [](R& r, double v) { r.hertz = v; }},
        {"ironPrimary", "volts on the whole primary", "12 V", Unit::Volt, [](R& r, double v) { r.primaryVolts = v; }},
        {"ironSecondary", "volts on the load's winding then", "418 mV", Unit::Volt,
         [](R& r, double v) { r.secondaryVolts = v; }},
        {"ironTap", "volts, supply end to screen tap", "none", Unit::Volt, [](R& r, double v) { r.tapVolts = v; }},
        {"ironOhmsA", "ohms of half a (or the whole)", "130", Unit::Ohm, [](R& r, double v) { r.ohmsA = v; }},
        {"ironOhmsB", "ohms of half b", "138", Unit::Ohm, [](R& r, double v) { r.ohmsB = v; }},
        {"ironOhmsS", "ohms of the load's winding", "0.45", Unit::Ohm, [](R& r, double v) { r.secondaryOhms = v; }},
        {"ironVolts1", "open, low level: volts", "6 V", Unit::Volt, [](R& r, double v) { r.openVolts[0] = v; }},
        {"ironAmps1", "and the primary's current", "430 uA", Unit::Ampere, [](R& r, double v) { r.openAmps[0] = v; }},
        {"ironVolts2", "open, high level: volts", "230 V", Unit::Volt, [](R& r, double v) { r.openVolts[1] = v; }},
        {"ironAmps2", "and the primary's current", "22 mA", Unit::Ampere, [](R& r, double v) { r.openAmps[1] = v; }},
        {"ironShortVolts", "secondary shorted: volts", "3 V", Unit::Volt, [](R& r, double v) { r.shortVolts = v; }},
        {"ironShortAmps", "and the primary's current", "5 mA", Unit::Ampere, [](R& r, double v) { r.shortAmps = v; }},
        {"ironShortHertz", "at the frequency", "10 kHz", Unit::Hertz, [](R& r, double v) { r.shortHertz = v; }},
        {"ironResonance", "its impedance is highest at", "92 kHz", Unit::Hertz,
         [](R& r, double v) { r.resonanceHertz = v; }}};
    return all;
}

/// Key of the file as people say it, and its unit.
struct IronWords {
    const char* key;
    const char* words;
    Unit unit;
};
constexpr std::array<IronWords, 14> ironWords{{{"watts", "watts", Unit::Watt},
                                               {"loadImpedance", "load", Unit::Ohm},
                                               {"dcAmps", "direct current of its gap", Unit::Ampere},
                                               {"coreLoss", "lost in the core, of its watts", Unit::None},
                                               {"primaryImpedance", "primary impedance", Unit::Ohm},
                                               {"screenTap", "screen tap", Unit::None},
                                               {"primaryResistanceA", "copper of half a", Unit::Ohm},
                                               {"primaryResistanceB", "copper of half b", Unit::Ohm},
                                               {"secondaryResistance", "copper of the secondary", Unit::Ohm},
                                               {"primaryInductance", "primary inductance", Unit::Henry},
                                               {"lowestHertz", "full power down to", Unit::Hertz},
                                               {"leakageInductance", "leakage", Unit::Henry},
                                               {"halvesLeakage", "leakage between its halves", Unit::Henry},
                                               {"windingCapacitance", "winding capacitance", Unit::Farad}}};

struct PlateQuestion {
    const char* object;
    const char* words;
    Unit unit;
    double OutputTransformer::*value;
};
constexpr std::array<PlateQuestion, 6> plateQuestions{
    {{"plateWatts", "watts", Unit::Watt, &OutputTransformer::watts},
     {"plateHertz", "down to", Unit::Hertz, &OutputTransformer::lowestHertz},
     {"plateImpedance", "primary", Unit::Ohm, &OutputTransformer::primaryImpedance},
     {"plateLoad", "for a load of", Unit::Ohm, &OutputTransformer::loadImpedance},
     {"plateAmps", "gap for a direct current of", Unit::Ampere, &OutputTransformer::dcAmps},
     {"plateTap", "screen tap, of the half's turns", Unit::None, &OutputTransformer::screenTap}}};

} // namespace

IronDialog::IronDialog(Document& d, const std::string& at, bool halves, QWidget* parent)
    : QDialog(parent),
      document(d),
      pointer(at),
      pushPull(halves) {
    setWindowTitle("Output transformer from readings");
    setObjectName("ironReadings");
    resize(1140, 640);
    auto* page = new QVBoxLayout(this);
    auto* caution = label(
        "Feed the primary from a low voltage that a transformer isolates from the mains, and the secondary never: "
        "it steps up, 6 V on an 8 Ω winding of an 8 kΩ primary are 190 V there. The high level is lethal: clip the "
        "meters on with the feed off, and take it off before leads are moved. Old iron: insulation that crumbles fails "
        "at "
        "500 V, so have it tested. Oil-filled parts may hold PCB, old wrapping asbestos: do not open or scrape them, "
        "and ask "
        "your local waste authority.",
        Size::Text, false, "dim");
    caution->setWordWrap(true);
    page->addWidget(caution);
    auto* tabs = new QHBoxLayout;
    page->addLayout(tabs);
    pages = new QStackedWidget;
    page->addWidget(pages, 1);
    auto* which = new QButtonGroup(this);
    for (const auto& [words, object] :
         {std::pair("readings", "ironKnown"), {"nameplate alone", "ironPlate"}, {"unknown leads", "ironUnknown"}}) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setProperty("tab", true);
        b->setCheckable(true);
        b->setChecked(which->buttons().isEmpty());
        b->setAutoDefault(false);
        which->addButton(b, static_cast<int>(which->buttons().size()));
        tabs->addWidget(b);
    }
    tabs->addStretch();
    auto* known = new QWidget;
    pages->addWidget(known);
    pages->addWidget(unknown = new UnknownIronView);
    connect(unknown, &UnknownIronView::changed, this, &IronDialog::enable);
    connect(which, &QButtonGroup::idClicked, this, [this, caution](int k) {
        pages->setCurrentIndex(k == 2);
        caution->setVisible(k != 1); // a plate is read without current
        if (k < 2) asked->setCurrentIndex(k);
        judge();
    });
    auto* sides = new QHBoxLayout(known);
    sides->setContentsMargins(0, 0, 0, 0);
    asked = new QStackedWidget;
    auto* readings = new QWidget;
    asked->addWidget(readings);
    auto* grid = new QGridLayout(readings);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(10);
    for (const IronQuestion& q : ironQuestions()) {
        const int row = grid->rowCount();
        auto* words = label(q.words, Size::Text, false, "dim");
        words->setWordWrap(false);
        grid->addWidget(words, row, 0);
        auto* f = new QLineEdit;
        f->setObjectName(q.object);
        f->setAccessibleName(q.words);
        f->setPlaceholderText(q.hint);
        f->setFont(theme::figures(Size::Text));
        f->setFixedWidth(110);
        grid->addWidget(f, row, 1);
        fields.push_back(f);
        connect(f, &QLineEdit::textChanged, this, &IronDialog::judge);
    }
    grid->setRowStretch(grid->rowCount(), 1);
    asked->addWidget(plateForm());
    sides->addWidget(asked);
    auto* right = new QVBoxLayout;
    values = new QTableWidget(0, 5);
    values->setObjectName("ironValues");
    values->setAccessibleName("What the readings say of the transformer");
    values->setHorizontalHeaderLabels({"", "in the plan", "found", "within", "from"});
    values->verticalHeader()->hide();
    values->setShowGrid(false);
    values->setWordWrap(true);
    values->setEditTriggers(QAbstractItemView::NoEditTriggers);
    values->setSelectionMode(QAbstractItemView::NoSelection);
    values->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (const auto& [column, width] : {std::pair(0, 200), {1, 90}, {2, 90}, {3, 70}})
        values->setColumnWidth(column, width);
    values->horizontalHeader()->setStretchLastSection(true);
    right->addWidget(values, 1);
    for (QLabel** l : {&notes, &likely}) {
        *l = label("", Size::Text);
        (*l)->setWordWrap(true);
        right->addWidget(*l);
    }
    notes->setObjectName("ironNotes");
    likely->setObjectName("ironLikely");
    sides->addLayout(right, 1);
    auto* foot = new QHBoxLayout;
    foot->addStretch();
    const auto button = [&](const char* words, const char* object) {
        auto* b = new QPushButton(words);
        b->setObjectName(object);
        b->setAutoDefault(false);
        foot->addWidget(b);
        return b;
    };
    take = button("Take over", "ironTake");
    connect(take, &QPushButton::clicked, this, &IronDialog::use);
    connect(button("Close", "ironClose"), &QPushButton::clicked, this, &QDialog::accept);
    page->addLayout(foot);
    if (const OutputTransformer* now = iron())
        unknown->suit(document.build().mains.volts, now->loadImpedance, document.build().meter);
    judge();
}

/// What can be taken over from the page that is shown.
void IronDialog::enable() {
    const bool leads = pages->currentIndex() == 1;
    take->setEnabled(leads ? unknown->identified() && !unknown->identified()->iron.values.empty()
                           : found && !found->values.empty());
}

const OutputTransformer* IronDialog::iron() const {
    for (const Channel& ch : document.build().channels)
        for (const Stage& s : ch.stages)
            for (const StagePart& p : s.parts)
                if (const auto* t = std::get_if<OutputTransformer>(&p.part))
                    if (pointerOfId(document.build(), t->id) == pointer) return t;
    return nullptr;
}

QWidget* IronDialog::plateForm() {
    auto* form = new QWidget;
    auto* grid = new QGridLayout(form);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(10);
    const auto put = [&](const char* words, const char* object, QWidget* w) {
        const int row = grid->rowCount();
        auto* l = label(words, Size::Text, false, "dim");
        l->setWordWrap(false);
        grid->addWidget(l, row, 0);
        w->setObjectName(object);
        w->setAccessibleName(words);
        grid->addWidget(w, row, 1);
    };
    const OutputTransformer* now = iron();
    for (const PlateQuestion& q : plateQuestions) {
        auto* f = new QLineEdit;
        f->setFont(theme::figures(Size::Text));
        f->setPlaceholderText("not stated");
        if (now && now->*q.value > 0) f->setText(text(now->*q.value, q.unit));
        put(q.words, q.object, f);
        plate.push_back(f);
        connect(f, &QLineEdit::textChanged, this, &IronDialog::judge);
    }
    wound = new QComboBox;
    for (const std::string_view name : ironClassNames) wound->addItem(text(std::string(name)));
    wound->setCurrentIndex(static_cast<int>(IronClass::Sectioned));
    put("wound in", "plateClass", wound);
    connect(wound, &QComboBox::currentIndexChanged, this, &IronDialog::judge);
    grid->setRowStretch(grid->rowCount(), 1);
    return form;
}

Expected<plan::MeasuredIron> IronDialog::fromPlate(const OutputTransformer& now) const {
    OutputTransformer t = now;
    for (std::size_t k = 0; k < plateQuestions.size(); ++k) {
        const PlateQuestion& q = plateQuestions[k];
        const QString words = plate[k]->text().trimmed();
        t.*q.value = 0;
        if (words.isEmpty()) continue;
        const auto v = parseQuantity(words.toStdString(), q.unit);
        if (!v) return Problem{"", QString("%1: %2").arg(q.words, text(v.problem().sentence)).toStdString()};
        t.*q.value = *v;
    }
    return plan::ironFromNameplate(t, static_cast<IronClass>(wound->currentIndex()));
}

Expected<plan::IronReadings> IronDialog::typedReadings() const {
    plan::IronReadings r;
    for (std::size_t k = 0; k < fields.size(); ++k) {
        const QString typed = fields[k]->text().trimmed();
        if (typed.isEmpty()) continue;
        const auto v = parseQuantity(typed.toStdString(), ironQuestions()[k].unit);
        if (!v)
            return Problem{"",
                           QString("%1: %2").arg(ironQuestions()[k].words, text(v.problem().sentence)).toStdString()};
        ironQuestions()[k].set(r, *v);
    }
    return r;
}

void IronDialog::judge() {
    found.reset();
    enable();
    values->setRowCount(0);
    notes->clear();
    likely->clear();
    const OutputTransformer* now = iron();
    if (!now) return;
    if (asked->currentIndex() == 1) {
        const auto typical = fromPlate(*now);
        if (!typical) return notes->setText(coloured(Role::Stop, text(typical.problem().sentence)));
        list(*typical);
        return enable();
    }
    const auto r = typedReadings();
    if (!r) return notes->setText(coloured(Role::Stop, text(r.problem().sentence)));
    const auto read = plan::ironFrom(*now, pushPull, document.build().meter, *r);
    if (!read) return notes->setText(text(read.problem().sentence));
    list(*read);
    QStringList pairs;
    for (const plan::ReflectedLoad& l : plan::reflectedLoads(r->primaryVolts, r->secondaryVolts))
        pairs << QString("%1 shows %2%3")
                     .arg(text(l.load, Unit::Ohm), text(l.primary, Unit::Ohm),
                          l.usual > 0 ? QString(" (made for %1?)").arg(text(l.usual, Unit::Ohm)) : QString());
    if (!pairs.isEmpty()) likely->setText("On this winding " + pairs.join(", ") + ".");
    enable();
}

void IronDialog::list(const plan::MeasuredIron& iron) {
    found = iron;
    for (const plan::IronValue& v : found->values) {
        const auto* as =
            std::find_if(ironWords.begin(), ironWords.end(), [&](const IronWords& s) { return v.key == s.key; });
        if (as == ironWords.end()) continue;
        const int row = values->rowCount();
        values->insertRow(row);
        const auto place = placeAt(document.build(), pointer + "/" + v.key);
        const QString cells[] = {as->words, place && place->value > 0 ? text(place->value, as->unit) : "not known",
                                 text(v.value, as->unit),
                                 QString::number(100 * v.error, 'f', 100 * v.error < 9.5 ? 1 : 0) + " %", text(v.how)};
        for (int c = 0; c < 5; ++c) values->setItem(row, c, new QTableWidgetItem(cells[c]));
    }
    values->resizeRowsToContents();
    QStringList all;
    for (const std::string& n : found->notes) all << text(n);
    notes->setText(all.join(" "));
}

void IronDialog::use() {
    const OutputTransformer* now = iron();
    if (!now || !take->isEnabled()) return;
    const auto& from = pages->currentIndex() == 1 ? unknown->identified()->iron : *found;
    const auto done = document.edit(plan::useIron(pointer, now->id, from));
    if (!done) return notes->setText(coloured(Role::Stop, text(done.problem().sentence)));
    judge();
}

} // namespace ember::app
