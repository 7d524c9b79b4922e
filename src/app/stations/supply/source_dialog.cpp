#include "source_dialog.h"

#include "core/build/own_types.h"

#include "app/widgets/words.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>

#include <array>

namespace ember::app {

using theme::Size;

namespace {

struct Asked {
    const char* words;
    const char* hint;
    Unit unit;
};
/// Per way up to four questions.
const std::array<std::vector<Asked>, 3>& ways() {
    static const std::array<std::vector<Asked>, 3> all{
        {{{"volts of a leg, as printed", "260 V", Unit::Volt},
          {"its amps, as printed", "150 mA", Unit::Ampere},
          {"volt-amperes of the whole", "120", Unit::None}},
         {{"volts of a leg, nothing connected", "264 V", Unit::Volt},
          {"mains volts then", "230 V", Unit::Volt},
          {"resistance of a leg", "60", Unit::Ohm},
          {"resistance of the primary", "8", Unit::Ohm}},
         {{"volts of a leg, nothing connected", "264 V", Unit::Volt},
          {"mains volts in both readings", "230 V", Unit::Volt},
          {"load behind rectifier and first capacitor", "3k3", Unit::Ohm},
          {"DC volts across it", "290 V", Unit::Volt}}}};
    return all;
}

} // namespace

SourceDialog::SourceDialog(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Plate winding from nameplate or measurement");
    setObjectName("source");
    resize(560, 330);
    auto* layout = new QVBoxLayout(this);
    way = new QComboBox;
    way->setObjectName("sourceWay");
    way->setAccessibleName("Known data");
    way->addItems({"a nameplate", "windings measured with a meter", "a test under a known load"});
    layout->addWidget(way);
    auto* grid = new QGridLayout;
    for (int k = 0; k < 4; ++k) {
        Question q{label("", Size::Text, false, "dim"), new QLineEdit};
        q.field->setObjectName(QString("source-%1").arg(k));
        grid->addWidget(q.words, k, 0);
        grid->addWidget(q.field, k, 1);
        connect(q.field, &QLineEdit::returnPressed, this, &SourceDialog::answer);
        questions.push_back(q);
    }
    layout->addLayout(grid);
    layout->addWidget(
        label("A winding without load and a loaded supply are lethal: clip the meter on with the plug out, hands "
              "off, then plug in; afterwards unplug, wait, measure.",
              Size::Text, false, "dim"));
    layout->addWidget(found = label("", Size::Text));
    found->setObjectName("sourceFound");
    found->setWordWrap(true);
    layout->addStretch();
    auto* row = new QHBoxLayout;
    auto* work = new QPushButton("&Compute");
    work->setObjectName("sourceAnswer");
    work->setAutoDefault(false);
    connect(work, &QPushButton::clicked, this, &SourceDialog::answer);
    row->addWidget(work);
    useButton = new QPushButton("&Use it");
    useButton->setObjectName("sourceUse");
    useButton->setAutoDefault(false);
    connect(useButton, &QPushButton::clicked, this, &SourceDialog::use);
    row->addWidget(useButton);
    row->addStretch();
    layout->addLayout(row);
    connect(way, &QComboBox::currentIndexChanged, this, &SourceDialog::ask);
    ask();
}

void SourceDialog::ask() {
    const auto& asked = ways()[static_cast<std::size_t>(way->currentIndex())];
    for (std::size_t k = 0; k < questions.size(); ++k) {
        const bool there = k < asked.size();
        questions[k].words->setVisible(there);
        questions[k].field->setVisible(there);
        questions[k].field->clear();
        if (!there) continue;
        questions[k].words->setText(asked[k].words);
        questions[k].field->setAccessibleName(asked[k].words);
        questions[k].field->setPlaceholderText(asked[k].hint);
    }
    model.reset();
    found->clear();
    useButton->setEnabled(false);
}

void SourceDialog::answer() {
    model.reset();
    useButton->setEnabled(false);
    const auto& asked = ways()[static_cast<std::size_t>(way->currentIndex())];
    std::array<double, 4> v{};
    for (std::size_t k = 0; k < asked.size(); ++k) {
        const auto value = parseQuantity(questions[k].field->text().toStdString(), asked[k].unit);
        if (!value) {
            found->setText(QString(asked[k].words) + ": " + text(value.problem().sentence));
            return questions[k].field->setFocus();
        }
        v[k] = *value;
    }
    const Build& b = document.build();
    const auto m = way->currentIndex() == 0   ? plan::fromNameplate(v[0], v[1], v[2])
                   : way->currentIndex() == 1 ? plan::fromWindings(b, {v[0], v[1], v[2], v[3]})
                                              : plan::fromLoadedTest(b, catalogueOf(b), {v[0], v[1], v[2], v[3]});
    if (!m) return found->setText(text(m.problem().sentence));
    model = *m;
    found->setText(QString("A leg of %1 (within %2 %) and %3 (within %4 %) at %5 of mains. Based on %6.")
                       .arg(text(m->volts, Unit::Volt, 4))
                       .arg(100 * m->voltsError, 0, 'f', 1)
                       .arg(text(m->resistance, Unit::Ohm))
                       .arg(100 * m->resistanceError, 0, 'f', 0)
                       .arg(text(b.transformer.primaryVolts, Unit::Volt), text(m->how)));
    useButton->setEnabled(true);
}

void SourceDialog::use() {
    if (!model) return;
    const auto done = document.edit(plan::useSource(document.build(), *model));
    found->setText(
        done ? QString("The plan uses it now, with its uncertainty in every band and spread; Ctrl+Z undoes it.")
             : text(done.problem().sentence));
}

} // namespace ember::app
