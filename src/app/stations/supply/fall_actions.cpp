// Changing the chain where it is drawn: insert, take away, move along, connect otherwise.
#include "fall_view.h"

#include "app/widgets/words.h"
#include "core/build/chain_edits.h"
#include "core/catalogue/catalogue.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <fmt/format.h>

#include <limits>

namespace ember::app {

namespace {

constexpr std::array kinds{SectionKind::Capacitor, SectionKind::Resistor, SectionKind::Choke, SectionKind::Switch,
                           SectionKind::Fuse,      SectionKind::Meter,    SectionKind::Tap};

QString kindText(SectionKind kind) {
    return kind == SectionKind::Tap ? QString("tap with its own rectifier") : QString(kindWord(kind));
}

} // namespace

void FallView::apply(const Edit& edit) {
    const auto done = document.edit(edit);
    if (!done) Q_EMIT said(text(done.problem().sentence), false);
}

void FallView::insert(std::size_t at, SectionKind kind) {
    apply(insertSection(document.build(), at, kind));
    focusSection(at);
}

void FallView::remove(std::size_t at) {
    if (at < document.build().supply.sections.size()) apply(removeSection(document.build(), at));
}

void FallView::shift(std::size_t at, int by) {
    const auto edit = shiftSection(document.build(), at, by);
    if (!edit) return Q_EMIT said(text(edit.problem().sentence), false);
    apply(*edit);
    focusSection(at + static_cast<std::size_t>(by));
}

void FallView::connectAs(Connection connection) {
    static constexpr std::array<const char*, 5> names{"centre-tapped", "bridge", "half-wave", "hybrid-bridge",
                                                      "doubler"};
    const char* name = names[static_cast<std::size_t>(connection)];
    std::vector<Edit> all{setText("", "/supply/connection", name)};
    const auto& sections = document.build().supply.sections;
    if (connection == Connection::Doubler && !sections.empty() && sections[0].kind == SectionKind::Capacitor)
        all.push_back(setWhole("", "/supply/sections/0/inSeries", 2));
    apply(together(std::string("connect as ") + name, all));
}

std::optional<std::size_t> FallView::focused() const {
    for (const PlacedFields::Field& f : fields.all())
        if (f.field->hasFocus() && f.pointer.starts_with("/supply/sections/"))
            return std::stoul(f.pointer.substr(std::string("/supply/sections/").size()));
    return std::nullopt;
}

void FallView::focusSection(std::size_t at) {
    const std::string base = fmt::format("/supply/sections/{}/", at);
    for (const PlacedFields::Field& f : fields.all())
        if (f.pointer.starts_with(base)) return f.field->setFocus();
}

/// The section whose value stands nearest.
std::optional<std::size_t> FallView::sectionAt(const QPoint& at) const {
    std::optional<std::size_t> found;
    int least = std::numeric_limits<int>::max();
    for (const PlacedFields::Field& f : fields.all()) {
        if (!f.pointer.starts_with("/supply/sections/")) continue;
        const QPoint off = f.field->geometry().center() - at;
        const int far = 4 * std::abs(off.x()) + std::abs(off.y()); // a column counts more than a height
        if (far >= least) continue;
        least = far;
        found = std::stoul(f.pointer.substr(std::string("/supply/sections/").size()));
    }
    return found;
}

void FallView::fillMenu(QMenu& menu, std::size_t at) {
    const Section& s = document.build().supply.sections[at];
    const auto add = [this](QMenu& to, const QString& words, auto f) {
        connect(to.addAction(words), &QAction::triggered, this, f);
    };
    menu.addSection(tag(s.id));
    for (const auto& [words, offset] : {std::pair{"Insert before", 0}, {"Insert behind it\tIns", 1}}) {
        QMenu* in = menu.addMenu(words);
        for (const SectionKind kind : kinds)
            add(*in, kindText(kind),
                [this, at, kind, offset = offset] { insert(at + static_cast<std::size_t>(offset), kind); });
    }
    add(menu, "Nearer to the rectifier\tCtrl+Left", [this, at] { shift(at, -1); });
    add(menu, "Farther from the rectifier\tCtrl+Right", [this, at] { shift(at, 1); });
    add(menu, "Take away\tCtrl+Delete", [this, at] { remove(at); });
    if (s.kind == SectionKind::Capacitor || s.kind == SectionKind::Resistor)
        add(menu, "Find its value...", [this, at] { Q_EMIT valueWanted(at); });
    const int node = nodeOfSection(document.build().supply, at);
    QMenu* hang = menu.addMenu(QString("At B+%1").arg(node));
    add(*hang, "Add a bleeder", [this, node] { apply(hangBleeder(document.build(), node)); });
    add(*hang, "Add a constant load", [this, node] { apply(hangLoad(document.build(), node)); });
    for (const HungPart& h : hungParts(document.build().supply))
        if (h.node == node) add(*hang, "Take " + tag(h.id) + " away", [this, h] { takeAway(h); });
    menu.addSeparator();
    QMenu* connections = menu.addMenu("Winding and rectifier");
    for (const auto& [words, c] : {std::pair{"Full wave, centre tap", Connection::CentreTapped},
                                   {"Bridge", Connection::Bridge},
                                   {"Half wave", Connection::HalfWave},
                                   {"Bridge, two valves' plates and two silicon", Connection::HybridBridge},
                                   {"Doubler", Connection::Doubler}})
        add(*connections, words, [this, c = c] { connectAs(c); });
    const auto offerTypes = [&](const QString& words, const std::string& pointer) {
        QMenu* types = menu.addMenu(words);
        for (const RectifierType& r : Catalogue::shipped().rectifiers)
            if (r.forHighVoltage())
                add(*types, text(r.type),
                    [this, pointer, type = r.type] { apply(setText("use a " + type, pointer, type)); });
    };
    offerTypes("Rectifier", "/supply/rectifier/type");
    if (s.kind == SectionKind::Tap) offerTypes(tag(s.id) + "'s rectifier", fmt::format("/supply/sections/{}/type", at));
}

void FallView::contextMenuEvent(QContextMenuEvent* e) {
    const auto at = sectionAt(e->pos());
    if (!at) return;
    QMenu menu(this);
    fillMenu(menu, *at);
    menu.exec(e->globalPos());
}

bool FallView::eventFilter(QObject* field, QEvent* event) {
    if (event->type() == QEvent::ContextMenu) return false;
    if (event->type() == QEvent::KeyPress && takeKey(*qobject_cast<QWidget*>(field), *static_cast<QKeyEvent*>(event)))
        return true;
    return QWidget::eventFilter(field, event);
}

/// A key on the field of a section, or of what hangs on a node.
bool FallView::takeKey(QWidget& field, const QKeyEvent& e) {
    const bool control = e.modifiers() & Qt::ControlModifier;
    const auto at = focused();
    if (!at) {
        if (control && e.key() == Qt::Key_Delete)
            for (const HungPart& h : hungParts(document.build().supply))
                if (field.objectName() == text(h.value)) return takeAway(h), true;
        return false;
    }
    if (e.key() == Qt::Key_Insert) {
        QMenu menu(this);
        for (const SectionKind kind : kinds)
            connect(menu.addAction(kindText(kind)), &QAction::triggered, this,
                    [this, at, kind] { insert(*at + 1, kind); });
        menu.exec(mapToGlobal(field.geometry().bottomLeft()));
        return true;
    }
    if (!control) return false;
    if (e.key() == Qt::Key_Delete) return remove(*at), true;
    if (e.key() == Qt::Key_Left) return shift(*at, -1), true;
    if (e.key() == Qt::Key_Right) return shift(*at, 1), true;
    return false;
}

void FallView::takeAway(const HungPart& part) {
    apply(removeAt("take " + tag(part.id).toStdString() + " away", part.entry));
}

} // namespace ember::app
