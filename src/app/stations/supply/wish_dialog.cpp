#include "wish_dialog.h"

#include "app/widgets/words.h"
#include "core/build/build_json.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QtConcurrentRun>

namespace ember::app {

using theme::Role;
using theme::Size;

WishDialog::WishDialog(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Find a value");
    setObjectName("wishes");
    resize(620, 520);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    const auto combo = [&](const char* name, const char* label) {
        auto* c = new QComboBox;
        c->setObjectName(name);
        c->setAccessibleName(label);
        form->addRow(label, c);
        return c;
    };
    question = combo("wishQuestion", "wanted");
    question->addItems({"volts at a node, by a resistor", "ripple at a node, RMS, by a capacitor",
                        "the rectifier's peak current, by the first capacitor", "seconds to 50 V, by a bleeder"});
    part = combo("wishPart", "which part");
    node = combo("wishNode", "at node");
    wanted = new QLineEdit;
    wanted->setObjectName("wishWanted");
    wanted->setAccessibleName("target value");
    form->addRow("so much", wanted);
    layout->addLayout(form);
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* words, const char* name) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setAutoDefault(false);
        row->addWidget(b);
        return b;
    };
    findButton = button("&Find", "wishFind");
    useBelow = button("Use the lower", "wishUseBelow");
    useAbove = button("Use the upper", "wishUseAbove");
    row->addStretch();
    layout->addLayout(row);
    layout->addWidget(answer = label("", Size::Text));
    answer->setObjectName("wishAnswer");
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
        connect(l, &QLineEdit::textChanged, this, &WishDialog::combineHand);
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

    connect(question, &QComboBox::currentIndexChanged, this, &WishDialog::refreshParts);
    connect(handKind, &QComboBox::currentIndexChanged, this, &WishDialog::combineHand);
    connect(wanted, &QLineEdit::returnPressed, this, &WishDialog::find);
    connect(findButton, &QPushButton::clicked, this, &WishDialog::find);
    connect(useBelow, &QPushButton::clicked, this, [this] { use(false); });
    connect(useAbove, &QPushButton::clicked, this, [this] { use(true); });
    connect(&search, &QFutureWatcherBase::finished, this, &WishDialog::arrived);
    connect(&document, &Document::buildChanged, this, &WishDialog::refreshParts);
    refreshParts();
}

WishDialog::~WishDialog() {
    stopping.request_stop();
    search.waitForFinished();
}

void WishDialog::refreshParts() {
    const Build& b = document.build();
    const auto q = static_cast<Question>(question->currentIndex());
    const SectionKind kind = q == Question::Volts ? SectionKind::Resistor : SectionKind::Capacitor;
    const QVariant before = part->currentData();
    part->clear();
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (b.supply.sections[k].kind == kind) part->addItem(tag(b.supply.sections[k].id), QVariant::fromValue(k));
    part->setCurrentIndex(std::max(0, part->findData(before)));
    part->setEnabled(q == Question::Volts || q == Question::Ripple);
    const int at = node->currentIndex();
    node->clear();
    for (int n = 1; n <= supplyNodes(b.supply); ++n) node->addItem(QString("B+%1").arg(n));
    node->setCurrentIndex(at >= 0 && at < node->count() ? at : node->count() - 1);
    node->setEnabled(part->isEnabled());
    static constexpr const char* hints[] = {"240 V", "20 mV", "350 mA", "40 s"};
    wanted->setPlaceholderText(hints[question->currentIndex()]);
    wish.reset();
    useBelow->setEnabled(false);
    useAbove->setEnabled(false);
}

void WishDialog::askFor(std::size_t section) {
    const auto& sections = document.build().supply.sections;
    if (section >= sections.size()) return;
    question->setCurrentIndex(sections[section].kind == SectionKind::Resistor ? 0 : 1);
    part->setCurrentIndex(part->findData(QVariant::fromValue(section)));
    wanted->setFocus();
}

void WishDialog::find() {
    if (search.isRunning()) return;
    const auto q = static_cast<Question>(question->currentIndex());
    static constexpr Unit figures[] = {Unit::Volt, Unit::Volt, Unit::Ampere, Unit::Second};
    static constexpr Unit values[] = {Unit::Ohm, Unit::Farad, Unit::Farad, Unit::Ohm};
    figureUnit = figures[question->currentIndex()];
    valueUnit = values[question->currentIndex()];
    const auto value = parseQuantity(wanted->text().toStdString(), figureUnit);
    if (!value || !(*value > 0)) {
        answer->setText(value ? QString("a value above 0 is expected")
                              : text(value.problem().sentence).toHtmlEscaped());
        return wanted->setFocus();
    }
    const auto section = part->currentData().value<std::size_t>();
    const int at = node->currentIndex() + 1;
    stopping = std::stop_source();
    asked = document.revisionNow();
    findButton->setEnabled(false);
    answer->setText("solving ...");
    search.setFuture(QtConcurrent::run(
        [b = document.build(), q, section, at, want = *value, stop = stopping.get_token()]() -> Expected<plan::Wish> {
            const Catalogue& c = Catalogue::shipped();
            switch (q) {
            case Question::Volts: return plan::resistorForVolts(b, c, section, at, want, stop);
            case Question::Ripple: return plan::capacitanceForRipple(b, c, section, at, want, stop);
            case Question::Peak: return plan::firstCapacitorForPeak(b, c, want, stop);
            case Question::Discharge: break;
            }
            return plan::bleederForTime(b, c, want, stop);
        }));
}

void WishDialog::arrived() {
    findButton->setEnabled(true);
    if (asked != document.revisionNow()) // its part may stand elsewhere now
        return answer->setText("The build changed meanwhile: ask again.");
    const auto found = search.result();
    if (!found) {
        wish.reset();
        answer->setText(text(found.problem().sentence).toHtmlEscaped());
        return;
    }
    wish = *found;
    const auto row = [&](const QString& words, const plan::WishStep& s) {
        return QString("<tr><td style='padding-right:16px'>%1</td><td style='padding-right:16px'><b>%2</b></td>"
                       "<td style='padding-right:16px'>gives %3</td><td>%4</td></tr>")
            .arg(words, text(formatExact(s.value, valueUnit)), text(s.figure, figureUnit, 4),
                 std::isfinite(s.watts) ? text(s.watts, Unit::Watt, 2) + " in it" : QString());
    };
    answer->setText(
        QString("%1 would be <b>%2</b> exactly.<table cellspacing=2>%3%4</table>")
            .arg(tag(wish->part), text(wish->exact, valueUnit), row("lower", wish->below), row("upper", wish->above)));
    useBelow->setEnabled(true);
    useAbove->setEnabled(true);
    handWanted->setText(text(formatExact(wish->exact, valueUnit)));
    handKind->setCurrentIndex(valueUnit == Unit::Farad ? 1 : 0);
}

void WishDialog::use(bool above) {
    if (!wish) return;
    const auto done = document.edit(above ? wish->above.edit : wish->below.edit);
    answer->setText(done ? QString("Done; Ctrl+Z undoes it.") : text(done.problem().sentence).toHtmlEscaped());
}

void WishDialog::combineHand() {
    combinations->clear();
    if (hand->text().trimmed().isEmpty() || handWanted->text().trimmed().isEmpty()) return;
    const auto kind = static_cast<HandKind>(handKind->currentIndex());
    const Unit unit = kind == HandKind::Resistor ? Unit::Ohm : kind == HandKind::Capacitor ? Unit::Farad : Unit::Volt;
    const auto parts = readHand(hand->text().toStdString(), kind);
    const auto value = parseQuantity(handWanted->text().toStdString(), unit);
    const auto load =
        handLoad->text().trimmed().isEmpty()
            ? Expected<double>(0.0)
            : parseQuantity(handLoad->text().toStdString(), kind == HandKind::Capacitor ? Unit::Volt : Unit::Watt);
    for (const Problem* p :
         {parts ? nullptr : &parts.problem(), value ? nullptr : &value.problem(), load ? nullptr : &load.problem()})
        if (p) return combinations->setText(text(p->text()).toHtmlEscaped());
    if (!(*value > 0)) return combinations->setText("a wanted value above 0 is expected");
    QString rows;
    for (const Combination& c : combine(*parts, kind, *value, *load, 4, 6))
        rows += QString("<tr><td style='padding-right:16px'>%1</td><td style='padding-right:16px'><b>%2</b></td>"
                        "<td style='padding-right:16px'>%3%4 %</td><td>%5</td></tr>")
                    .arg(text(c.words).toHtmlEscaped(), text(c.value, unit, 4), c.error > 0 ? "+" : "")
                    .arg(100 * c.error, 0, 'f', 1)
                    .arg(c.stress > 0 ? QString("%1 % of a rating").arg(100 * c.stress, 0, 'f', 0) : QString());
    combinations->setText("<table cellspacing=2>" + rows + "</table>");
}

} // namespace ember::app
