#include "values_sheet.h"

#include "app/widgets/words.h"
#include "core/build/structure.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QTableWidget>
#include <QVBoxLayout>

namespace ember::app {

namespace {

QString shownValue(const Setting& s) {
    return s.kind == Setting::Kind::Number ? text(formatExact(s.number.value, s.number.unit)) : text(s.text);
}

QString limits(const Setting& s) {
    if (s.kind == Setting::Kind::Text) return "text";
    if (s.kind == Setting::Kind::Choice) {
        QStringList all;
        for (const auto& c : s.choices) all << text(c);
        return all.join(", ");
    }
    return text(s.number.range.least, s.number.unit) + " to " + text(s.number.range.most, s.number.unit);
}

/// A choice is chosen, everything else is typed.
class ChoiceDelegate : public QStyledItemDelegate {
  public:
    ChoiceDelegate(std::function<const Setting*(int)> find, QObject* parent)
        : QStyledItemDelegate(parent),
          settingOf(std::move(find)) {}
    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option, const QModelIndex& at) const override {
        const Setting* s = settingOf(at.row());
        if (!s || s->kind != Setting::Kind::Choice) return QStyledItemDelegate::createEditor(parent, option, at);
        auto* box = new QComboBox(parent);
        for (const auto& c : s->choices) box->addItem(text(c));
        return box;
    }

  private:
    std::function<const Setting*(int)> settingOf;
};

} // namespace

ValuesSheet::ValuesSheet(Document& d, QWidget* parent) : QDialog(parent), document(d) {
    setWindowTitle("Every value of the build");
    setObjectName("values");
    resize(760, 560);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(16, 14, 16, 12);
    filter = new QLineEdit;
    filter->setObjectName("valuesFilter");
    filter->setPlaceholderText("part of a name or a value, such as \"c1\" or \"mains\"");
    filter->setAccessibleName("Show values that contain these words");
    layout->addWidget(filter);
    table = new QTableWidget(0, 3);
    table->setObjectName("valuesTable");
    table->setAccessibleName("Values of the build");
    table->setHorizontalHeaderLabels({"what", "value", "from, to"});
    table->verticalHeader()->hide();
    table->verticalHeader()->setDefaultSectionSize(26);
    table->setShowGrid(false);
    table->setTabKeyNavigation(false);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setEditTriggers(QAbstractItemView::AllEditTriggers);
    table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table->horizontalHeader()->resizeSection(1, 170);
    table->horizontalHeader()->resizeSection(2, 230);
    table->setItemDelegateForColumn(1, new ChoiceDelegate([this](int row) { return settingOf(row); }, this));
    layout->addWidget(table, 1);
    layout->addWidget(answer = label(""));
    auto* foot = new QHBoxLayout;
    foot->addWidget(twice = new QPushButton("Duplicate the entry"));
    foot->addWidget(away = new QPushButton("Delete the entry"));
    twice->setObjectName("valuesDouble");
    away->setObjectName("valuesRemove");
    foot->addStretch();
    auto* close = new QPushButton("Close");
    foot->addWidget(close);
    for (QPushButton* b : {twice, away, close}) b->setAutoDefault(false);
    layout->addLayout(foot);
    connect(filter, &QLineEdit::textChanged, this, &ValuesSheet::refresh);
    connect(filter, &QLineEdit::returnPressed, this, [this] {
        if (table->rowCount() == 0) return;
        table->setFocus();
        table->setCurrentCell(0, 1);
    });
    connect(table, &QTableWidget::itemChanged, this, &ValuesSheet::take);
    connect(table, &QTableWidget::currentCellChanged, this, [this](int row) {
        const Setting* s = settingOf(row);
        const bool entry = s && !s->entry.empty();
        twice->setEnabled(entry);
        away->setEnabled(entry);
    });
    connect(twice, &QPushButton::clicked, this, [this] { editEntry(true); });
    connect(away, &QPushButton::clicked, this, [this] { editEntry(false); });
    connect(close, &QPushButton::clicked, this, &QDialog::close);
    connect(&document, &Document::buildChanged, this, &ValuesSheet::refresh);
    refresh();
}

const Setting* ValuesSheet::settingOf(int row) const {
    return row >= 0 && static_cast<std::size_t>(row) < shown.size() ? &settings[shown[static_cast<std::size_t>(row)]]
                                                                    : nullptr;
}

void ValuesSheet::search(const QString& words) {
    filter->setText(words);
    filter->setFocus();
}

void ValuesSheet::refresh() {
    filling = true;
    settings = settingsOf(document.build());
    shown.clear();
    const QStringList words = filter->text().toLower().split(' ', Qt::SkipEmptyParts);
    for (std::size_t k = 0; k < settings.size(); ++k) {
        const QString all = (text(settings[k].label) + " " + shownValue(settings[k])).toLower();
        if (std::all_of(words.begin(), words.end(), [&](const QString& w) { return all.contains(w); }))
            shown.push_back(k);
    }
    const int row = table->currentRow();
    table->setRowCount(static_cast<int>(shown.size()));
    for (int r = 0; r < table->rowCount(); ++r) {
        const Setting& s = *settingOf(r);
        const QString cells[3] = {text(s.label), shownValue(s), limits(s)};
        for (int c = 0; c < 3; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            if (c != 1) item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setFont(c == 1 ? theme::figures(theme::Size::Text) : theme::text(theme::Size::Text));
            if (c == 2) item->setForeground(theme::color(theme::Role::BoneDim));
            table->setItem(r, c, item);
        }
    }
    filling = false;
    if (table->rowCount()) table->setCurrentCell(std::clamp(row, 0, table->rowCount() - 1), 1);
    const Setting* s = settingOf(table->currentRow());
    twice->setEnabled(s && !s->entry.empty());
    away->setEnabled(s && !s->entry.empty());
}

void ValuesSheet::say(const QString& sentence, bool good) {
    answer->setText(sentence);
    answer->setStyleSheet("color:" + theme::color(good ? theme::Role::BoneDim : theme::Role::Ember).name());
}

void ValuesSheet::take(QTableWidgetItem* item) {
    if (filling || item->column() != 1) return;
    const Setting* found = settingOf(item->row());
    if (!found) return;
    const Setting s = *found; // an edit lists the settings anew
    const std::string typed = item->text().trimmed().toStdString();
    Expected<Edit> edit = setText(s.label + " to " + typed, s.pointer, typed);
    if (s.kind == Setting::Kind::Number) {
        const auto v = parseWithin(typed, s.number.unit, s.number.range);
        if (!v)
            edit = v.problem();
        else if (s.number.whole)
            edit = setWhole(s.label + " to " + typed, s.pointer, static_cast<int>(*v));
        else
            edit = setValue(s.label + " to " + formatExact(*v, s.number.unit), s.pointer, *v);
    } else if (s.choices == std::vector<std::string>{"false", "true"}) {
        edit = setFlag(s.label + " to " + typed, s.pointer, typed == "true");
    }
    const Expected<Done> done = edit ? document.edit(*edit) : edit.problem();
    if (done) {
        say(text(s.label) + ": taken", true);
    } else {
        say(text(s.label) + ": " + text(done.problem().sentence), false);
        filling = true;
        item->setText(shownValue(s));
        filling = false;
    }
}

void ValuesSheet::editEntry(bool doubled) {
    const Setting* s = settingOf(table->currentRow());
    if (!s || s->entry.empty()) return;
    const Expected<Edit> edit = doubled ? duplicateEntry(document.build(), s->entry)
                                        : Expected<Edit>(removeAt("take " + s->label + " away", s->entry));
    const Expected<Done> done = edit ? document.edit(*edit) : edit.problem();
    if (done)
        say(text(edit->name) + ": done", true);
    else
        say(text(done.problem().text()), false);
}

} // namespace ember::app
