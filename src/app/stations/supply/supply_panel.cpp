#include "supply_panel.h"

#include "app/widgets/figure_list.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/as_built.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/mains_iron.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QProgressBar>
#include <QPushButton>
#include <QtConcurrentRun>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// "216..301": the unit stands beside it already.
QString range(double low, double high, Unit unit) {
    const QString a = text(low, unit, 3), b = text(high, unit, 3);
    const QString same = " " + b.section(' ', -1);
    return (a.endsWith(same) ? a.chopped(same.size()) : a) + ".." + b.section(' ', 0, 0);
}

} // namespace

SupplyPanel::SupplyPanel(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(label("Figures", static_cast<Size>(15), true));
    head->addStretch();
    everyPart = new QPushButton("every part");
    everyPart->setObjectName("everyPart");
    everyPart->setProperty("tab", true);
    everyPart->setCheckable(true);
    head->addWidget(everyPart);
    layout->addLayout(head);
    choice = new QComboBox;
    choice->setObjectName("comparedWith");
    choice->setAccessibleName("Compare with");
    choice->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon); // the panel keeps its width
    choice->setMinimumContentsLength(12);
    layout->addWidget(choice);
    layout->addWidget(table = new FigureList("Figures of the supply"));
    table->setObjectName("supplyFigures");
    layout->addWidget(fuses = label("", Size::Small, false, "dim"));
    fuses->setObjectName("fuseAdvice");
    fuses->setWordWrap(true);
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* words, const char* name, const char* tip) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(tip);
        row->addWidget(b);
        return b;
    };
    pinButton = button("Pin", "pinFigures", "Keep these figures to compare any change with, up to four");
    unpinButton = button("Unpin", "unpinFigures", "Forget the pinned figures that are chosen");
    spreadButton = button("Spread", "spreadFigures",
                          "A thousand builds: parts within tolerance, mains between its ends and with a flattened "
                          "crest, copper cold to warm");
    layout->addLayout(row);
    auto* source = new QPushButton("Plate winding data...");
    source->setObjectName("sourceWanted");
    connect(source, &QPushButton::clicked, this, &SupplyPanel::sourceWanted);
    layout->addWidget(source);
    bar = new QProgressBar;
    bar->setRange(0, 1000);
    bar->setAccessibleName("How many builds are solved");
    bar->hide();
    layout->addWidget(bar);
    connect(everyPart, &QPushButton::toggled, this, &SupplyPanel::fill);
    connect(pinButton, &QPushButton::clicked, this, [this] { pin(QString("pinned %1").arg(pins.size() + 1)); });
    connect(unpinButton, &QPushButton::clicked, this, &SupplyPanel::unpin);
    connect(spreadButton, &QPushButton::clicked, this, [this] { spreading() ? stopSpread() : spread(); });
    connect(choice, &QComboBox::currentIndexChanged, this, [this] {
        fill();
        Q_EMIT comparedChanged();
    });
    connect(&run, &QFutureWatcherBase::finished, this, &SupplyPanel::arrived);
    connect(&document, &Document::opened, this, [this] {
        pins.clear();
        spreadFound.reset();
        steady = nullptr; // the figures it pointed into are gone; new ones are announced
        refreshChoice(0);
    });
    connect(&document, &Document::buildChanged, this, [this] {
        // A spread is of the build it was run for.
        if (!spreadFound) return;
        spreadFound.reset();
        refreshChoice(std::min(choice->currentIndex(), static_cast<int>(pins.size())));
    });
    filling.setSingleShot(true);
    filling.setInterval(12);
    connect(&filling, &Timer::timeout, this, &SupplyPanel::fill);
    ticking.setInterval(60);
    connect(&ticking, &Timer::timeout, this, [this] { bar->setValue(static_cast<int>(1000 * share)); });
    refreshChoice(0);
}

SupplyPanel::~SupplyPanel() {
    stopping.request_stop();
    run.waitForFinished();
}

void SupplyPanel::refreshChoice(int choose) {
    {
        const QSignalBlocker quiet(choice);
        choice->clear();
        choice->addItem("± uncertainty of the transformer");
        for (const Pin& p : pins) choice->addItem("against " + p.name);
        if (spreadFound) choice->addItem(QString("50 %, 5 to 95 % of %1 builds").arg(spreadFound->builds));
        choice->addItem(QString("with %1's copper warm").arg(tag(document.build().transformer.id)));
        choice->setCurrentIndex(std::clamp(choose, 0, choice->count() - 1));
    }
    fill();
    Q_EMIT comparedChanged();
}

const plan::Figures* SupplyPanel::compared() const {
    const int at = choice->currentIndex() - 1;
    return at >= 0 && at < static_cast<int>(pins.size()) ? &pins[static_cast<std::size_t>(at)].figures : nullptr;
}

void SupplyPanel::showSteady(const plan::Steady* s) {
    steady = s;
    filling.start(); // in a turn of its own: the interface answers in between
}

void SupplyPanel::fill() {
    const int at = choice->currentIndex() - 1;
    unpinButton->setEnabled(at >= 0 && at < static_cast<int>(pins.size()));
    pinButton->setEnabled(steady && pins.size() < mostPins);
    if (!steady) return table->show({});
    const plan::Figures* other = compared();
    const bool showSpread = spreadFound && at == static_cast<int>(pins.size());
    const bool showWarm = choice->currentIndex() == choice->count() - 1;
    const auto& solved = document.solved();
    std::vector<plan::NamedFigure> was, warm;
    if (showWarm && solved.figures.warm && steady->conditions.mainsVolts == solved.build.mains.volts)
        warm = plan::namedFigures(plan::withWarmCopper(solved.build, solved.figures.layout->mainsIron->kelvin),
                                  *solved.figures.warm);
    if (other && other->nominal) {
        // The pinned state at the same mains as the one that is looked at.
        const plan::Steady* match = &*other->nominal;
        for (const auto* s : {&other->low, &other->high})
            if (*s && (*s)->conditions.mainsVolts == steady->conditions.mainsVolts) match = &**s;
        was = plan::namedFigures(pins[static_cast<std::size_t>(at)].build, *match);
    }
    // The winding's tolerances were followed at nominal mains.
    static const std::map<std::string, double> none;
    const Build& b = solved.build;
    const auto& within = steady->conditions.mainsVolts == b.mains.volts ? document.figures().within : none;
    std::vector<FigureList::Row> rows;
    for (const plan::NamedFigure& f : plan::namedFigures(b, *steady)) {
        if (!std::isfinite(f.value) || (f.ofPart && !everyPart->isChecked())) continue;
        QString beside;
        double shown = f.value;
        for (const plan::NamedFigure& w : was)
            if (w.id == f.id && std::isfinite(w.value)) {
                const double change = f.value - w.value;
                if (std::abs(change) > 5e-4 * std::abs(w.value))
                    beside = (change > 0 ? "+" : "-") + text(std::abs(change), f.unit, 2);
            }
        for (const plan::NamedFigure& w : warm)
            if (w.id == f.id && std::abs(w.value - f.value) > 5e-4 * std::abs(f.value))
                beside = text(w.value, w.unit, 3);
        if (at < 0 && f.value != 0)
            if (const auto open = within.find(f.id); open != within.end() && open->second > 5e-4 * std::abs(f.value))
                beside = "\u00b1" + text(open->second, f.unit, 2);
        if (showSpread)
            for (const plan::Spread& s : spreadFound->figures)
                if (s.nominal.id == f.id) beside = range(s.low, s.high, f.unit), shown = s.middle;
        rows.push_back({text(f.label), text(shown, f.unit, 3), beside});
    }
    table->show(std::move(rows));
    if (const QString words = fuseWords(); words != fuses->text()) fuses->setText(words);
}

/// Which fuses, and why: what flows all day, and what a switch-on brings.
QString SupplyPanel::fuseWords() const {
    const auto& [b, f, findings] = document.solved();
    QString out;
    const auto one = [&](const std::string& id, const std::optional<plan::FuseAdvice>& a, const QString& kind) {
        if (!a) return;
        out += QString("%1%2: %3 %4. 1.5 x %5 RMS at high mains")
                   .arg(out.isEmpty() ? "" : "\n", tag(id), text(a->amps, Unit::Ampere), kind,
                        text(a->continuous, Unit::Ampere, 2));
        if (a->forSurge > 0)
            out += QString("; %1 A\u00b2s from cold is borne from %2 on")
                       .arg(QString::number(a->i2t, 'g', 2), text(a->forSurge, Unit::Ampere));
        out += ".";
    };
    one(b.fuse.id, plan::mainsFuse(b, f), b.fuse.slow ? "time-lag" : "quick");
    for (const Section& s : b.supply.sections)
        if (s.kind == SectionKind::Fuse) one(s.id, plan::chainFuse(f, s), "time-lag");
    return out;
}

void SupplyPanel::pin(const QString& name) {
    if (pins.size() >= mostPins || !document.figures().nominal) return;
    pins.push_back({name, document.figures(), document.solved().build});
    refreshChoice(static_cast<int>(pins.size()));
}

void SupplyPanel::unpin() {
    const int at = choice->currentIndex() - 1;
    if (at < 0 || at >= static_cast<int>(pins.size())) return;
    pins.erase(pins.begin() + at);
    refreshChoice(0);
}

void SupplyPanel::spread() {
    if (run.isRunning()) return;
    stopping = std::stop_source();
    share = 0;
    bar->setValue(0);
    bar->show();
    spreadButton->setText("Stop");
    ticking.start();
    asked = document.revisionNow();
    run.setFuture(QtConcurrent::run([this, b = document.build(), token = stopping.get_token()] {
        plan::ToleranceOptions o;
        o.progress = [this](double s) { share = s; };
        o.stop = token;
        return plan::toleranceRun(b, catalogueOf(b), plan::asBuiltOnRealMains, o);
    }));
}

void SupplyPanel::stopSpread() {
    stopping.request_stop();
}

void SupplyPanel::arrived() {
    ticking.stop();
    bar->hide();
    spreadButton->setText("Spread");
    if (asked != document.revisionNow()) return Q_EMIT said("The build changed meanwhile: no spread.", false);
    const auto found = run.result();
    if (!found) return Q_EMIT said("no spread: " + text(found.problem().sentence), false);
    spreadFound = *found;
    if (found->failed > 0)
        Q_EMIT said(
            QString("%1 of %2 builds could not be solved").arg(found->failed).arg(found->failed + found->builds),
            false);
    refreshChoice(static_cast<int>(pins.size()) + 1);
}

} // namespace ember::app
