#include "heaters_station.h"

#include "app/stations/underside/underside_picture.h"
#include "heater_feed_strip.h"
#include "wire_table.h"

#include "app/widgets/words.h"
#include "core/build/heater_edits.h"

#include "core/wires/run_figures.h"
#include "core/wires/wire_edits.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::app {

using namespace wires;

HeatersStation::HeatersStation(Document& d, QWidget* parent) : WireStation(d, called, parent) {
    const auto choice = [&](const char* called2, const char* name, const char* tip) {
        head->addSpacing(8);
        head->addWidget(label(called2, theme::Size::Text, false, "dim"));
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->setAccessibleName(called2);
        box->setToolTip(tip);
        head->addWidget(box);
        return box;
    };
    winding = choice("winding", "heaterWinding", "Which winding of the power transformer");
    reference = choice("reference", "heaterReference", "How the winding is tied to ground");
    reference->addItems({"centre tap", "two resistors", "floating", "potentiometer", "one side"});
    gauge = choice("wire", "heaterGauge", "Conductor of this winding's wires");
    for (const double area : standardAreas) gauge->addItem(QString("%1 mm²").arg(area * 1e6, 0, 'g', 3));
    twisted = new QCheckBox("twisted");
    twisted->setObjectName("heaterTwisted");
    head->addSpacing(8);
    head->addWidget(twisted);
    head->addStretch();
    auto* changes = new QPushButton("Change");
    changes->setObjectName("heaterChanges");
    changes->setToolTip("Windings, which valve hangs on which, heaters in series");
    head->addWidget(changes);
    connect(changes, &QPushButton::clicked, this, [this, changes] {
        QMenu menu(this);
        fillChanges(menu);
        menu.exec(changes->mapToGlobal(QPoint(0, changes->height())));
    });
    finishHead("heaterWords");
    feed = new HeaterFeedStrip(document);
    const int at = column->indexOf(picture);
    column->removeWidget(picture);
    auto* side = new QHBoxLayout;
    side->addWidget(feed);
    side->addWidget(picture, 1);
    column->insertLayout(at, side, 5);
    connect(feed, &HeaterFeedStrip::said, this, &HeatersStation::said);
    picture->setKinds({RunKind::Heater});
    table =
        new WireTable("Heater volts at the sockets",
                      {"socket", "rated", "at low mains", "at nominal", "at high mains", "heater to cathode", "limit"},
                      {1, 2, 3, 4, 5, 6});
    table->setObjectName("heaterTable");
    column->addWidget(table, 2);
    connect(winding, &QComboBox::activated, this, [this] { refresh(); });
    connect(reference, &QComboBox::activated, this, [this](int k) {
        if (filling || current() >= document.build().transformer.heaters.size()) return;
        edit(setText(fmt::format("{}: {}", upper(document.build().transformer.heaters[current()].id),
                                 reference->itemText(k).toStdString()),
                     fmt::format("/transformer/heaters/{}/reference", current()),
                     nameIn(heaterReferenceNames, static_cast<HeaterReference>(k))));
    });
    connect(gauge, &QComboBox::activated, this, [this](int k) {
        const double area = standardAreas[static_cast<std::size_t>(k)];
        edit(changeWires(document.build(), fmt::format("heater wires of {:g} mm²", area * 1e6), wiresOfWinding(),
                         [area](Wire& w) { w.area = area; }));
    });
    connect(twisted, &QCheckBox::clicked, this, [this](bool on) {
        edit(changeWires(document.build(), on ? "twist the heater wires" : "heater wires side by side",
                         wiresOfWinding(), [on](Wire& w) { w.straight = !on; }));
    });
    refresh();
}

void HeatersStation::arrive() {
    table->setFocus();
}

std::size_t HeatersStation::current() const {
    return static_cast<std::size_t>(std::max(0, winding->currentIndex()));
}

void HeatersStation::fillChanges(QMenu& menu) {
    const Build& b = document.build();
    const auto& windings = b.transformer.heaters;
    const auto offer = [this](QMenu& to, const QString& title, const Edit& e) {
        connect(to.addAction(title), &QAction::triggered, this, [this, e] { edit(e); });
    };
    offer(menu, "Add a winding of 6.6 V", addHeaterWinding(b, 6.6, 3));
    if (current() < windings.size()) {
        const HeaterWinding& w = windings[current()];
        if (w.feeds == "signal" && !inSeriesWith(b.transformer, w))
            offer(menu, "Add a winding of 1 V against " + tag(w.id), addHeaterWinding(b, 1, w.amps, w.id));
        if (const auto removed = removeHeaterWinding(b, current())) offer(menu, "Remove " + tag(w.id), *removed);
    }
    menu.addSeparator();
    for (std::size_t k = 0; k < b.bottles.size(); ++k) {
        const Valve& v = b.bottles[k];
        const auto now = heaterWindingOf(b, v);
        QMenu* own = menu.addMenu(tag(v.id) + (now ? " on " + tag(windings[*now].id) : QString(" on no winding")));
        for (std::size_t w = 0; w < windings.size(); ++w)
            if (windings[w].feeds == "signal" && (now != w || !v.heaterString.empty()))
                offer(*own, "from " + tag(windings[w].id), heatFrom(b, k, w));
        own->addSeparator();
        for (std::size_t other = 0; other < b.bottles.size(); ++other)
            if (other != k && (v.heaterString.empty() || b.bottles[other].heaterString != v.heaterString))
                offer(*own, "in series with " + tag(b.bottles[other].id), inStringWith(b, k, other));
    }
}

std::vector<std::string> HeatersStation::wiresOfWinding() const {
    std::vector<std::string> out;
    const Document::Solved& solved = document.solved();
    const auto& windings = solved.build.transformer.heaters;
    if (!solved.figures.wires || current() >= windings.size()) return out;
    for (const Run& r : solved.figures.wires->harness.runs)
        if (r.kind == RunKind::Heater && r.heater == windings[current()].id) out.push_back(r.wire.id);
    return out;
}

void HeatersStation::refresh() {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires) return;
    filling = true;
    const WireFigures& f = *solved.figures.wires;
    const auto& windings = solved.build.transformer.heaters;
    if (winding->count() != static_cast<int>(windings.size())) {
        winding->clear();
        for (const HeaterWinding& w : windings) winding->addItem(tag(w.id));
    }
    for (int k = 0; k < winding->count(); ++k) winding->setItemText(k, tag(windings[static_cast<std::size_t>(k)].id));
    if (current() >= f.heaters.windings.size() || current() >= windings.size()) {
        words->setText("This power transformer has no heater winding.");
        table->show({});
        filling = false;
        return;
    }
    feed->show(current());
    const HeaterWinding& own = windings[current()];
    const HeatedWinding& w = f.heaters.windings[current()];
    reference->setCurrentIndex(static_cast<int>(own.reference));
    reference->setEnabled(own.feeds == "signal");
    const auto ids = wiresOfWinding();
    const Run* first = ids.empty() ? nullptr : f.harness.find(ids.front());
    gauge->setEnabled(first != nullptr);
    twisted->setEnabled(first != nullptr);
    twisted->setChecked(first && !first->wire.straight);
    gauge->setCurrentIndex(-1);
    for (std::size_t k = 0; first && k < standardAreas.size(); ++k)
        if (std::abs(first->wire.area - standardAreas[k]) < 1e-9) gauge->setCurrentIndex(static_cast<int>(k));
    words->setText(QString("%1 gives %2 at its tags, %3 of the %4 it is made for; %5 in the moment of switching on. "
                           "Within 5 % of rated is good, 10 % is the limit, "
                           "at high mains too.")
                       .arg(tag(w.id), text(w.nominal.volts, Unit::Volt), text(w.nominal.amps, Unit::Ampere),
                            text(w.ratedAmps, Unit::Ampere), text(w.coldAmps, Unit::Ampere)));
    std::vector<WireRow> rows;
    std::map<std::size_t, UndersidePicture::Mark> marks;
    for (const SocketVolts& s : w.sockets) {
        const double share = s.nominal / s.rated - 1;
        const bool good = std::abs(share) <= 0.05 && s.high / s.rated < 1.1;
        const auto volts = [](double v) { return std::isfinite(v) ? text(v, Unit::Volt) : QString("–"); };
        rows.push_back(
            {tag(s.valve),
             {tag(s.valve), volts(s.rated), volts(s.low), volts(s.nominal), volts(s.high), volts(s.heaterCathode),
              s.heaterCathodeLimit > 0 ? volts(s.heaterCathodeLimit) : QString("none published")},
             3,
             good});
        for (std::size_t k = 0; k < solved.build.chassis.parts.size(); ++k)
            if (solved.build.chassis.parts[k].of == s.valve)
                marks[k] = {volts(s.nominal), good, std::clamp(s.nominal / s.rated, 0.0, 1.1) * 0.6};
    }
    table->show(rows);
    table->setMaximumHeight(36 + 24 * static_cast<int>(std::max<std::size_t>(2, rows.size())));
    std::map<std::string, UndersidePicture::Look> looks;
    for (const Run& r : f.harness.runs)
        if (r.kind == RunKind::Heater) {
            const bool mine = std::find(ids.begin(), ids.end(), r.wire.id) != ids.end();
            looks[r.wire.id] = {mine ? 1.4 + 0.8 * std::sqrt(std::isfinite(r.amps) ? r.amps : 0) : 1.0,
                                mine ? text(r.amps, Unit::Ampere) : QString()};
        }
    picture->setLooks(std::move(looks));
    picture->setMarks(std::move(marks));
    filling = false;
}

} // namespace ember::app
