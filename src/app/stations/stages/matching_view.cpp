#include "matching_view.h"

#include "reading_rows.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::app {

using theme::Size;

MatchingView::MatchingView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* rows = new QVBoxLayout(this);
    auto* at = new QHBoxLayout;
    const auto field = [&](const char* caption, const char* object) {
        at->addWidget(label(caption, Size::Text, false, "dim"));
        auto* f = new QLineEdit;
        f->setObjectName(object);
        f->setAccessibleName(QString("Matched %1").arg(caption));
        f->setFixedWidth(90);
        f->setFont(theme::figures(Size::Text));
        at->addWidget(f);
        connect(f, &QLineEdit::editingFinished, this, &MatchingView::refresh);
        return f;
    };
    atPlate = field("at plate", "matchPlate");
    atScreen = field("screen", "matchScreen");
    atGrid = field("grid", "matchGrid");
    at->addWidget(label("in groups of", Size::Text, false, "dim"));
    size = new QComboBox;
    size->setObjectName("matchSize");
    size->setAccessibleName("Valves in a group");
    for (const int n : {2, 4}) size->addItem(QString::number(n), n);
    at->addWidget(size);
    at->addStretch();
    rows->addLayout(at);
    table = new QTableWidget(0, 6);
    table->setObjectName("matchTable");
    table->setAccessibleName("Valves and their groups");
    table->setHorizontalHeaderLabels({"valve", "where", "current", "gm", "rests on", "group"});
    table->verticalHeader()->hide();
    table->setShowGrid(false);
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    rows->addWidget(table, 1);
    words = label("", Size::Text);
    words->setObjectName("matchProposal");
    words->setWordWrap(true);
    rows->addWidget(words);
    auto* last = new QHBoxLayout;
    last->addStretch();
    put = new QPushButton("Put them so");
    put->setObjectName("matchPut");
    put->setToolTip("Each valve's readings go with it to its new socket");
    put->setAutoDefault(false);
    last->addWidget(put);
    rows->addLayout(last);
    connect(put, &QPushButton::clicked, this, &MatchingView::place);
    connect(size, &QComboBox::currentIndexChanged, this, &MatchingView::refresh);
}

void MatchingView::show(ValvePlace of) {
    type = valveAt(document.build(), of).type;
    const ValveType* known = catalogueOf(document.build()).valve(type);
    atScreen->setEnabled(known && known->section(known->sections()).pentode);
    const auto write = [](QLineEdit* f, double volts) { f->setText(text(volts, Unit::Volt, 4)); };
    if (document.figures().nominal && !of.spare)
        for (const plan::ChannelPoint& p : document.figures().nominal->channels)
            for (const plan::ValvePoint& x : p.valves)
                if (x.bottle == of.index) {
                    write(atPlate, x.plate - x.cathode);
                    write(atScreen, std::isfinite(x.screen) ? x.screen - x.cathode : 0);
                    write(atGrid, x.grid - x.cathode);
                }
    refresh();
}

void MatchingView::refresh() {
    const Build& b = document.build();
    const ValveType* known = catalogueOf(document.build()).valve(type);
    const auto volts = [](const QLineEdit* f) { return parseQuantity(f->text().toStdString(), Unit::Volt); };
    const auto plate = volts(atPlate), screen = volts(atScreen), grid = volts(atGrid);
    table->setRowCount(0);
    put->setEnabled(false);
    if (!known) return;
    if (!plate || !grid || (atScreen->isEnabled() && !screen))
        return words->setText("Plate, screen and grid volts to the cathode are needed: those at which the valves will "
                              "work.");
    const ValveReading at{1, *plate, screen ? *screen : 0, *grid, 0, 0};
    const std::vector<ValvePlace> places = valvesOfType(b, type);
    std::vector<MatchFigures> figures;
    for (const ValvePlace& p : places) figures.push_back(matchFigures(*known, sharesOf(valveAt(b, p)), at));
    const auto groupSize = static_cast<std::size_t>(size->currentData().toInt());
    const auto groups = matched(figures, groupSize);
    std::vector<std::size_t> order;
    std::map<std::size_t, std::size_t> groupOf;
    for (std::size_t g = 0; g < groups.size(); ++g)
        for (const std::size_t k : groups[g].valves) order.push_back(k), groupOf[k] = g;
    for (std::size_t k = 0; k < places.size(); ++k)
        if (!groupOf.count(k)) order.push_back(k);
    std::size_t unread = 0;
    for (const std::size_t k : order) {
        const Valve& v = valveAt(b, places[k]);
        unread += v.readings.empty() ? 1 : 0;
        const int row = table->rowCount();
        table->insertRow(row);
        const QString cells[] = {tag(v.id) + "  " + text(v.type),
                                 places[k].spare ? "spare" : "in its socket",
                                 text(figures[k].amps, Unit::Ampere),
                                 text(1e3 * figures[k].gm, Unit::None, 3) + " mA/V",
                                 v.readings.empty()       ? "nothing read"
                                 : v.readings.size() == 1 ? "1 reading"
                                                          : QString("%1 readings").arg(v.readings.size()),
                                 groupOf.count(k) ? QString::number(groupOf[k] + 1) : "left over"};
        for (int c = 0; c < 6; ++c) table->setItem(row, c, new QTableWidgetItem(cells[c]));
    }
    QStringList all;
    for (std::size_t g = 0; g < groups.size(); ++g)
        all << QString("Group %1: currents %2 apart, gm %3.")
                   .arg(g + 1)
                   .arg(percent(groups[g].ampsApart), percent(groups[g].gmApart));
    if (groups.empty()) all << QString("There are fewer than %1 valves of this type.").arg(groupSize);
    if (unread > 0)
        all << QString("%1 of %2 have no readings; the build's values are taken for them.")
                   .arg(unread)
                   .arg(places.size());
    if (const QString moves = propose(places, groups); !moves.isEmpty()) {
        all << "To put the best together: " + moves + ".";
        put->setEnabled(true);
    }
    words->setText(all.join(" "));
}

QString MatchingView::propose(const std::vector<ValvePlace>& places, const std::vector<MatchedGroup>& groups) {
    const Build& b = document.build();
    from.clear(), to.clear();
    std::vector<ValvePlace> sockets, spares;
    for (const ValvePlace& p : places) (p.spare ? spares : sockets).push_back(p);
    const std::size_t groupSize = groups.empty() ? 1 : groups[0].valves.size();
    if (sockets.size() % groupSize != 0 || groups.size() * groupSize < sockets.size()) return {};
    // Each group goes where most of it stands already; who stands there stays.
    std::vector<std::size_t> chosen;
    std::vector<bool> taken(sockets.size() / groupSize, false);
    for (std::size_t g = 0; g < taken.size(); ++g) {
        const std::vector<std::size_t>& valves = groups[g].valves;
        const auto standsIn = [&](std::size_t valve, std::size_t block) {
            const auto at = std::find(sockets.begin(), sockets.end(), places[valve]);
            return at != sockets.end() && static_cast<std::size_t>(at - sockets.begin()) / groupSize == block;
        };
        std::size_t best = taken.size();
        std::ptrdiff_t most = -1;
        for (std::size_t block = 0; block < taken.size(); ++block) {
            const auto there =
                std::count_if(valves.begin(), valves.end(), [&](std::size_t v) { return standsIn(v, block); });
            if (!taken[block] && there > most) best = block, most = there;
        }
        taken[best] = true;
        std::vector<ValvePlace> open(sockets.begin() + static_cast<std::ptrdiff_t>(best * groupSize),
                                     sockets.begin() + static_cast<std::ptrdiff_t>((best + 1) * groupSize));
        for (const bool staying : {true, false})
            for (const std::size_t v : valves) {
                if (standsIn(v, best) != staying) continue;
                const auto at = staying ? std::find(open.begin(), open.end(), places[v]) : open.begin();
                chosen.push_back(v);
                from.push_back(places[v]), to.push_back(*at);
                open.erase(at);
            }
    }
    std::size_t next = 0;
    for (std::size_t k = 0; k < places.size(); ++k)
        if (std::find(chosen.begin(), chosen.end(), k) == chosen.end() && next < spares.size())
            from.push_back(places[k]), to.push_back(spares[next++]);
    QStringList moves;
    for (std::size_t k = 0; k < from.size(); ++k)
        if (!(from[k] == to[k]))
            moves << QString("%1's to %2").arg(tag(valveAt(b, from[k]).id), tag(valveAt(b, to[k]).id));
    return moves.join(", ");
}

void MatchingView::place() {
    if (const auto done = document.edit(moveValves(document.build(), from, to)); !done)
        return words->setText(coloured(theme::Role::Stop, text(done.problem().sentence)));
    Q_EMIT moved();
    refresh();
}

} // namespace ember::app
