#include "select_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QTableWidget>
#include <QVBoxLayout>
#include <fmt/format.h>

#include <cmath>
#include <map>

namespace ember::app {

using theme::Size;

SelectView::SelectView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* intro = label("A part chosen by trying: a meter's calibration resistor, a dropper, a feedback or cathode "
                        "value. Power off and the capacitors measured empty before it is exchanged.",
                        Size::Text, false, "dim");
    intro->setWordWrap(true);
    layout->addWidget(intro);
    const auto field = [&](QHBoxLayout* to, const char* caption, const char* object, const char* accessible, int width,
                           const char* hint) {
        to->addWidget(label(caption, Size::Text, false, "dim"));
        auto* f = new QLineEdit;
        f->setObjectName(object);
        f->setAccessibleName(accessible);
        f->setPlaceholderText(hint);
        f->setFixedWidth(width);
        f->setFont(theme::figures(Size::Text));
        to->addWidget(f);
        return f;
    };
    const auto combo = [&](QHBoxLayout* to, const char* caption, const char* object, const char* accessible) {
        to->addWidget(label(caption, Size::Text, false, "dim"));
        auto* c = new QComboBox;
        c->setObjectName(object);
        c->setAccessibleName(accessible);
        to->addWidget(c);
        return c;
    };
    auto* first = new QHBoxLayout;
    part = field(first, "part", "selectPart", "Which part is selected", 90, "R40");
    target = field(first, "is to read", "selectTarget", "Reading that is wanted", 80, "1 mA");
    series = combo(first, "from", "selectSeries", "Series of preferred values");
    for (const auto& [caption, s] :
         {std::pair{"E12", Series::E12}, {"E24", Series::E24}, {"E96", Series::E96}, {"E6", Series::E6}})
        series->addItem(caption, static_cast<int>(s));
    series->setCurrentIndex(1);
    way = combo(first, "more of it reads", "selectWay", "Whether a larger value reads less or more");
    way->addItem("less", true);
    way->addItem("more", false);
    first->addStretch();
    layout->addLayout(first);
    auto* second = new QHBoxLayout;
    channel = combo(second, "channel", "selectChannel", "Channel of the try");
    level = field(second, "at level", "selectLevel", "At which level, in words", 90, "1 W");
    value = field(second, "tried", "selectValue", "Value that is tried", 90, "4k7");
    reading = field(second, "reads", "selectReading", "What was read; Enter keeps the try", 90, "0.98 mA");
    auto* keep = new QPushButton("Keep the try");
    keep->setObjectName("selectKeep");
    second->addWidget(keep);
    second->addStretch();
    layout->addLayout(second);
    table = new QTableWidget(0, 5);
    table->setObjectName("selectTries");
    table->setAccessibleName("Tries");
    table->setHorizontalHeaderLabels({"channel", "level", "tried", "read", "off the target"});
    table->verticalHeader()->hide();
    table->setShowGrid(false);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    layout->addWidget(table, 1);
    advice = label("", Size::Text);
    advice->setObjectName("selectAdvice");
    advice->setWordWrap(true);
    layout->addWidget(advice);
    connect(keep, &QPushButton::clicked, this, &SelectView::add);
    connect(reading, &QLineEdit::returnPressed, this, &SelectView::add);
    for (QLineEdit* f : {target}) connect(f, &QLineEdit::textChanged, this, &SelectView::refresh);
    for (QComboBox* c : {series, way}) connect(c, &QComboBox::currentIndexChanged, this, &SelectView::refresh);
    connect(&document, &Document::opened, this, [this] {
        rows.clear();
        refresh();
    });
    refresh();
}

void SelectView::arrive() {
    const QSignalBlocker quiet(channel);
    const int at = std::max(0, channel->currentIndex());
    channel->clear();
    for (const Channel& c : document.build().channels) channel->addItem(text(c.name));
    channel->setCurrentIndex(std::min(at, channel->count() - 1));
}

namespace {

/// A number with whatever unit was typed behind it.
Expected<double> anyQuantity(const QString& typed) {
    for (const Unit u : {Unit::Ohm, Unit::Ampere, Unit::Volt, Unit::Watt, Unit::Farad, Unit::Decibel, Unit::None})
        if (const auto v = parseQuantity(typed.trimmed().toStdString(), u)) return v;
    return parseQuantity(typed.trimmed().toStdString(), Unit::None);
}

/// The unit that was typed behind a number; none where there is none, but "4k7" and "2R2" are ohms.
Unit unitTyped(const QString& typed) {
    static const std::pair<const char*, Unit> ends[] = {
        {"db", Unit::Decibel}, {"ohm", Unit::Ohm}, {"\u03a9", Unit::Ohm}, {"v", Unit::Volt},
        {"a", Unit::Ampere},   {"w", Unit::Watt},  {"f", Unit::Farad}};
    const QString words = typed.trimmed().toLower();
    for (const auto& [end, unit] : ends)
        if (words.endsWith(end)) return unit;
    static const QRegularExpression coded("^[0-9.]+[kmr][0-9]*$");
    return coded.match(words).hasMatch() ? Unit::Ohm : Unit::None;
}

} // namespace

void SelectView::add() {
    const auto v = anyQuantity(value->text()), r = anyQuantity(reading->text());
    for (const auto* e : {&v, &r})
        if (!*e) return Q_EMIT said(text(e->problem().sentence), false);
    if (!(*v > 0) || !(*r > 0)) return Q_EMIT said("A try needs a value and a reading above 0.", false);
    rows.push_back({static_cast<std::size_t>(std::max(0, channel->currentIndex())),
                    level->text().trimmed(),
                    {*v, *r},
                    unitTyped(value->text()),
                    unitTyped(reading->text())});
    LogEntry e;
    e.kind = "measure";
    e.source = "typed";
    e.stage = -1;
    e.text = fmt::format("{}: {} of {} reads {}{}", channel->currentText().toStdString(), value->text().toStdString(),
                         part->text().trimmed().isEmpty() ? "the part on test" : part->text().toStdString(),
                         reading->text().toStdString(),
                         level->text().trimmed().isEmpty() ? "" : " at " + level->text().trimmed().toStdString());
    document.log(e);
    value->clear();
    reading->clear();
    value->setFocus();
    refresh();
}

void SelectView::refresh() {
    const auto wanted = anyQuantity(target->text());
    const bool aims = wanted && *wanted > 0;
    table->setRowCount(0);
    for (const Row& r : rows) {
        const int at = table->rowCount();
        table->insertRow(at);
        const QString name =
            r.channel < document.build().channels.size() ? text(document.build().channels[r.channel].name) : QString();
        const QString cells[] = {name, r.level, text(r.tried.value, r.value, 4), text(r.tried.reading, r.reading, 4),
                                 aims ? QString("%1 %").arg(100 * (r.tried.reading / *wanted - 1), 0, 'f', 1)
                                      : QString("-")};
        for (int c = 0; c < 5; ++c) table->setItem(at, c, new QTableWidgetItem(cells[c]));
    }
    QString said;
    const auto kind = static_cast<Series>(series->currentData().toInt());
    for (std::size_t c = 0; c < document.build().channels.size(); ++c) {
        std::vector<bench::Tried> tries;
        QString newest;
        Unit tried = Unit::None;
        for (const Row& r : rows)
            if (r.channel == c) newest = r.level, tried = r.value;
        for (const Row& r : rows)
            if (r.channel == c && r.level == newest) tries.push_back(r.tried);
        if (tries.empty() || !aims) continue;
        const QString name = text(document.build().channels[c].name);
        const auto next = bench::nextTry(tries, *wanted, kind, way->currentData().toBool());
        if (!next) {
            said += name + ": " + text(next.problem().sentence) + ". ";
            continue;
        }
        said += QString("%1: try %2 (%3 would be exact): it should read %4, %5 % off.%6 ")
                    .arg(name, text(next->standard, tried, 3), text(next->wanted, tried, 3),
                         text(next->expected, unitTyped(target->text()), 3))
                    .arg(100 * next->error, 0, 'f', 2)
                    .arg(next->doubt.empty() ? QString() : " (" + text(next->doubt) + ")");
    }
    // The channels' newest readings at the same level, against each other.
    std::map<QString, std::map<std::size_t, double>> by;
    for (const Row& r : rows) by[r.level][r.channel] = r.tried.reading;
    for (const auto& [at, readings] : by)
        if (readings.size() > 1) {
            const double apart = bench::disagreement(readings.begin()->second, std::next(readings.begin())->second);
            said += QString("%1the channels are %2 % apart. ")
                        .arg(at.isEmpty() ? QString() : "At " + at + " ")
                        .arg(100 * std::abs(apart), 0, 'f', 2);
        }
    if (rows.empty())
        said = "Say what is wanted, put a value in, read, and keep the try: from the second try on the next value is "
               "fitted.";
    else if (!aims)
        said = "Say what it is to read.";
    advice->setText(said.trimmed());
}

} // namespace ember::app
