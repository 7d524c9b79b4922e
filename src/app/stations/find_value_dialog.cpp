#include "find_value_dialog.h"

#include "app/widgets/words.h"
#include "core/build/build_json.h"
#include "core/build/own_types.h"

#include <QComboBox>
#include <QCompleter>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QtConcurrentRun>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {
constexpr const char* newBleeder = "/supply/bleeders/0/resistor/resistance"; ///< also where there is none yet
}

FindValueDialog::FindValueDialog(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Find a value");
    setObjectName("findValue");
    resize(640, 560);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    const auto combo = [&](const char* name, const char* label) {
        auto* c = new QComboBox;
        c->setObjectName(name);
        c->setAccessibleName(label);
        form->addRow(label, c);
        return c;
    };
    // Hundreds of entries: typing finds the ones that hold the letters anywhere.
    const auto searched = [](QComboBox* c) {
        c->setEditable(true);
        c->setInsertPolicy(QComboBox::NoInsert);
        c->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        c->completer()->setFilterMode(Qt::MatchContains);
        c->completer()->setCompletionMode(QCompleter::PopupCompletion);
    };
    searched(figureBox = combo("soughtFigure", "figure wanted"));
    form->addRow("", present = label("", Size::Small));
    wanted = new QLineEdit;
    wanted->setObjectName("wantedFigure");
    wanted->setAccessibleName("target");
    form->addRow("target", wanted);
    mains = combo("soughtMains", "mains");
    searched(partBox = combo("soughtPart", "by changing"));
    series = combo("soughtSeries", "values of");
    series->addItem("the usual series: E12 of resistors, E6 of capacitors");
    for (const Series s : {Series::E6, Series::E12, Series::E24, Series::E96})
        series->addItem(QString("E%1").arg(static_cast<int>(s)), static_cast<int>(s));
    layout->addLayout(form);
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* words, const char* name) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setAutoDefault(false);
        row->addWidget(b);
        return b;
    };
    findButton = button("&Find", "findIt");
    useBelow = button("Use the lower", "useBelow");
    useAbove = button("Use the upper", "useAbove");
    row->addStretch();
    layout->addLayout(row);
    layout->addWidget(answer = label("", Size::Text));
    answer->setObjectName("valueFound");
    answer->setTextFormat(Qt::RichText);
    answer->setWordWrap(true);
    answer->setMinimumHeight(96);
    answer->setAlignment(Qt::AlignTop);

    layout->addWidget(label("From parts in stock", static_cast<Size>(15), true));
    auto* handForm = new QFormLayout;
    handKind = new QComboBox;
    handKind->setObjectName("handKind");
    handKind->addItems({"resistors", "capacitors", "zener diodes"});
    handForm->addRow("kind", handKind);
    const auto line = [&](const char* name, const char* words, const char* hint) {
        auto* l = new QLineEdit;
        l->setObjectName(name);
        l->setAccessibleName(words);
        l->setPlaceholderText(hint);
        handForm->addRow(words, l);
        connect(l, &QLineEdit::textChanged, this, &FindValueDialog::combineHand);
        return l;
    };
    hand = line("hand", "in stock", "2x 1k5 2W, 4k7 5W, 10k 2W");
    handWanted = line("handWanted", "wanted value", "3k3");
    handLoad = line("handLoad", "power in it, or volts across it", "3 W");
    layout->addLayout(handForm);
    layout->addWidget(combinations = label("", Size::Text));
    combinations->setObjectName("combinations");
    combinations->setTextFormat(Qt::RichText);
    layout->addStretch();

    connect(figureBox, &QComboBox::currentIndexChanged, this, &FindValueDialog::tellPresent);
    connect(handKind, &QComboBox::currentIndexChanged, this, &FindValueDialog::combineHand);
    connect(wanted, &QLineEdit::returnPressed, this, &FindValueDialog::find);
    connect(findButton, &QPushButton::clicked, this, &FindValueDialog::find);
    connect(useBelow, &QPushButton::clicked, this, [this] { use(false); });
    connect(useAbove, &QPushButton::clicked, this, [this] { use(true); });
    connect(&search, &QFutureWatcherBase::finished, this, &FindValueDialog::arrived);
    connect(&document, &Document::figuresChanged, this, &FindValueDialog::refresh);
    refresh();
}

FindValueDialog::~FindValueDialog() {
    stopping.request_stop();
    search.waitForFinished();
}

/// The figures and parts that the build has now; what was chosen stays chosen.
void FindValueDialog::refresh() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.nominal) return;
    const Build& b = document.build();
    const auto fill = [](QComboBox* box, const auto& entries, const auto& id, const auto& words) {
        // Left alone where nothing changed: somebody may be typing there.
        bool same = box->count() == static_cast<int>(entries.size());
        for (int k = 0; same && k < box->count(); ++k) {
            const auto& e = entries[static_cast<std::size_t>(k)];
            same = box->itemText(k) == text(words(e)) && box->itemData(k).toString() == text(id(e));
        }
        if (same) return;
        const QString kept = box->currentData().toString();
        const QSignalBlocker quiet(box);
        box->clear();
        for (const auto& e : entries) box->addItem(text(words(e)), text(id(e)));
        box->setCurrentIndex(std::max(0, box->findData(kept)));
    };
    figures = plan::soughtNames(solved.build, catalogueOf(solved.build), *solved.figures.nominal);
    parts = plan::valueChoices(b);
    if (b.supply.bleeders.empty()) parts.push_back({newBleeder, "rb1", "a new bleeder across B+1", Unit::Ohm});
    fill(
        figureBox, figures, [](const auto& f) { return f.figure.id; }, [](const auto& f) { return f.figure.label; });
    fill(
        partBox, parts, [](const auto& p) { return p.pointer; }, [](const auto& p) { return p.label; });
    const int chosen = std::max(0, mains->currentIndex());
    mains->clear();
    for (const auto& [words, volts] :
         {std::pair{"nominal", b.mains.volts}, std::pair{"low", b.mains.low}, std::pair{"high", b.mains.high}})
        mains->addItem(QString("%1, %2").arg(words, text(volts, Unit::Volt)), volts);
    mains->setCurrentIndex(chosen);
    if (const std::string at = std::exchange(pending, {}); !at.empty()) {
        partBox->setCurrentIndex(std::max(0, partBox->findData(text(at))));
        figureBox->setCurrentIndex(std::max(0, figureBox->findData(text(plan::usualFigure(b, at)))));
    }
    if (asked != document.revisionNow()) found.reset(); // an answer to another build
    useBelow->setEnabled(found.has_value());
    useAbove->setEnabled(found.has_value());
    tellPresent();
}

const plan::SoughtFigure* FindValueDialog::figure() const {
    const auto at = static_cast<std::size_t>(figureBox->currentIndex());
    return at < figures.size() && figureBox->currentText() == figureBox->itemText(figureBox->currentIndex())
               ? &figures[at]
               : nullptr;
}

void FindValueDialog::tellPresent() {
    const plan::SoughtFigure* f = figure();
    present->setText(f && std::isfinite(f->figure.value)
                         ? QString("now %1 at nominal mains").arg(text(f->figure.value, f->figure.unit))
                     : f ? QString("solved when it is asked for")
                         : QString());
}

void FindValueDialog::askFor(const std::string& pointer) {
    pending = pointer;
    refresh();
    wanted->setFocus();
}

void FindValueDialog::find() {
    if (search.isRunning()) return;
    const plan::SoughtFigure* f = figure();
    const int p = partBox->currentIndex();
    const auto refuse = [&](const QString& words, QWidget* at) {
        answer->setText(words.toHtmlEscaped());
        at->setFocus();
    };
    if (!f) return refuse(QString("there is no figure \"%1\"").arg(figureBox->currentText()), figureBox);
    if (p < 0 || partBox->currentText() != partBox->itemText(p))
        return refuse(QString("there is no part \"%1\"").arg(partBox->currentText()), partBox);
    figureUnit = f->figure.unit;
    const auto value = parseQuantity(wanted->text().toStdString(), figureUnit);
    if (!value) return refuse(text(value.problem().sentence), wanted);
    plan::ValueAsked ask{parts[static_cast<std::size_t>(p)].pointer, f->figure.id, f->group, *value,
                         mains->currentData().toDouble()};
    if (series->currentIndex() > 0) ask.series = static_cast<Series>(series->currentData().toInt());
    before.reset();
    if (ask.pointer == newBleeder) before = plan::firstBleeder();
    stopping = std::stop_source();
    asked = document.revisionNow();
    findButton->setEnabled(false);
    answer->setText("solving ...");
    search.setFuture(QtConcurrent::run(
        [b = document.build(), ask, made = before, stop = stopping.get_token()]() -> Expected<plan::ValueFound> {
            const Expected<Build> with = made ? apply(b, *made) : Expected<Build>(b);
            if (!with) return with.problem();
            return plan::findValue(*with, catalogueOf(*with), ask, stop);
        }));
}

void FindValueDialog::arrived() {
    findButton->setEnabled(true);
    if (asked != document.revisionNow()) // its part may stand elsewhere now
        return answer->setText("The build changed meanwhile: ask again.");
    const auto result = search.result();
    if (!result) {
        found.reset();
        answer->setText(text(result.problem().sentence).toHtmlEscaped());
        return;
    }
    found = *result;
    const auto row = [&](const QString& words, const plan::ValueStep& s) {
        QString heat = std::isfinite(s.watts) ? text(s.watts, Unit::Watt, 2) + " in it" : QString();
        if (s.rating > 0) heat += QString(": %1").arg(text(formatExact(s.rating, Unit::Watt)));
        return QString("<tr><td style='padding-right:16px'>%1</td><td style='padding-right:16px'><b>%2</b></td>"
                       "<td style='padding-right:16px'>gives %3</td><td>%4</td></tr>")
            .arg(words, text(formatExact(s.value, found->unit)), text(s.figure, figureUnit, 4), heat);
    };
    answer->setText(QString("%1 would be <b>%2</b> exactly.<table cellspacing=2>%3%4</table>")
                        .arg(tag(found->part), text(found->exact, found->unit), row("lower", found->below),
                             row("upper", found->above)));
    useBelow->setEnabled(true);
    useAbove->setEnabled(true);
    handWanted->setText(text(found->exact, found->unit, 4));
    handKind->setCurrentIndex(found->unit == Unit::Farad ? 1 : 0);
}

void FindValueDialog::use(bool above) {
    if (!found) return;
    const Edit& chosen = above ? found->above.edit : found->below.edit;
    const auto done = document.edit(before ? together(chosen.name, {*before, chosen}) : chosen);
    answer->setText(done ? QString("Done; Ctrl+Z undoes it.") : text(done.problem().sentence).toHtmlEscaped());
}

void FindValueDialog::combineHand() {
    combinations->clear();
    if (hand->text().trimmed().isEmpty() || handWanted->text().trimmed().isEmpty()) return;
    const auto kind = static_cast<HandKind>(handKind->currentIndex());
    const Unit unit = kind == HandKind::Resistor ? Unit::Ohm : kind == HandKind::Capacitor ? Unit::Farad : Unit::Volt;
    const auto stock = readHand(hand->text().toStdString(), kind);
    const auto value = parseQuantity(handWanted->text().toStdString(), unit);
    const auto load =
        handLoad->text().trimmed().isEmpty()
            ? Expected<double>(0.0)
            : parseQuantity(handLoad->text().toStdString(), kind == HandKind::Capacitor ? Unit::Volt : Unit::Watt);
    for (const Problem* p :
         {stock ? nullptr : &stock.problem(), value ? nullptr : &value.problem(), load ? nullptr : &load.problem()})
        if (p) return combinations->setText(text(p->text()).toHtmlEscaped());
    if (!(*value > 0)) return combinations->setText("a wanted value above 0 is expected");
    QString rows;
    for (const Combination& c : combine(*stock, kind, *value, *load, 4, 6))
        rows += QString("<tr><td style='padding-right:16px'>%1</td><td style='padding-right:16px'><b>%2</b></td>"
                        "<td style='padding-right:16px'>%3%4 %</td><td>%5</td></tr>")
                    .arg(text(c.words).toHtmlEscaped(), text(c.value, unit, 4), c.error > 0 ? "+" : "")
                    .arg(100 * c.error, 0, 'f', 1)
                    .arg(c.stress > 0 ? QString("%1 % of a rating").arg(100 * c.stress, 0, 'f', 0) : QString());
    combinations->setText("<table cellspacing=2>" + rows + "</table>");
}

} // namespace ember::app
