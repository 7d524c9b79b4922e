#include "plate_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/mountings.h"
#include "core/chassis/tower.h"

#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember::app {

using namespace chassis;
using theme::Role;

PlateView::PlateView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("plate");
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(420, 260);
    setMouseTracking(true);
    setAccessibleName("The plate, to scale");
    connect(&document, &Document::buildChanged, this, &PlateView::refresh);
    connect(&document, &Document::figuresChanged, this, &PlateView::evaluate);
    connect(&document, &Document::opened, this, [this] { select({}); });
    refresh();
}

void PlateView::refresh() {
    const Chassis& next = document.build().chassis;
    const bool otherPlate = next.width != working.chassis.width || next.depth != working.chassis.depth;
    working = document.build();
    if (otherPlate && fitted) fit();
    std::erase_if(selected, [&](std::size_t k) { return k >= working.chassis.parts.size(); });
    if (!drag) evaluate();
}

/// Nobody sees it: it is brought up to date when somebody does.
void PlateView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    if (stale) evaluate();
}

void PlateView::evaluate() {
    stale = !isVisible() && !live.assembly.of.empty() && live.assembly.of.size() == working.chassis.parts.size();
    if (stale) return;
    live = solver.solve(working, catalogueOf(working), document.figures());
    describe();
    update();
    Q_EMIT layoutChanged();
}

void PlateView::describe() {
    if (selected.size() != 1)
        return setAccessibleDescription(
            QString("%1 parts, %2 chosen").arg(working.chassis.parts.size()).arg(selected.size()));
    const PlacedPart& p = working.chassis.parts[selected[0]];
    setAccessibleDescription(QString("%1 at %2, %3 mm, turned %4 degrees")
                                 .arg(text(tagOf(p)))
                                 .arg(p.x * 1e3, 0, 'f', 1)
                                 .arg(p.y * 1e3, 0, 'f', 1)
                                 .arg(p.angle, 0, 'f', 0));
}

void PlateView::look(PlateSide side) {
    looking = side;
    std::erase_if(selected, [&](std::size_t k) { return working.chassis.parts[k].face != side.face; });
    measureFrom.reset();
    fitted = true;
    fit();
    Q_EMIT sideChanged();
    Q_EMIT selectionChanged();
}

void PlateView::setLayer(Layer layer, bool shown) {
    if (shown)
        layers.insert(layer);
    else
        layers.erase(layer);
    update();
}

void PlateView::setInches(bool on) {
    inches = on;
    update();
}

void PlateView::setGrid(double metres) {
    grid = metres;
}

void PlateView::select(std::vector<std::size_t> parts) {
    selected = std::move(parts);
    describe();
    update();
    Q_EMIT selectionChanged();
}

void PlateView::overlay(std::vector<Standing> places) {
    other = std::move(places);
    update();
}

void PlateView::fit() {
    const Frame f = frameOf(working.chassis, looking.face);
    const double left = 48, top = 30, right = 12, bottom = 14;
    scale.scale = std::max(
        0.05, std::min((width() - left - right) / (f.width * 1e3), (height() - top - bottom) / (f.height * 1e3)));
    scale.width = f.width * 1e3;
    scale.mirrored = looking.fromBelow;
    const double w = scale.length(f.width), h = scale.length(f.height);
    scale.origin = {left + (width() - left - right - w) / 2, top + (height() - top - bottom - h) / 2 + h};
    fitted = true;
    update();
}

void PlateView::resizeEvent(QResizeEvent*) {
    if (fitted) fit();
}

void PlateView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Soot));
    scale.width = frameOf(working.chassis, looking.face).width * 1e3;
    const PlatePicture picture(p, working, live, looking, scale);
    picture.plate(inches);
    if (layers.contains(Layer::Heat)) picture.glow();
    picture.parts(selected);
    picture.layers(layers);
    picture.problems();
    if (!other.empty()) picture.overlay(other);
    if (measureFrom && measureTo) picture.measure(*measureFrom, *measureTo);
    const Frame f = frameOf(working.chassis, looking.face);
    p.setPen(QPen(theme::color(Role::Brass), 1, Qt::DotLine));
    for (const double x : guidesX) p.drawLine(scale.at(x, 0), scale.at(x, f.height));
    for (const double y : guidesY) p.drawLine(scale.at(0, y), scale.at(f.width, y));
    if (hasFocus()) {
        p.setPen(theme::color(Role::Brass));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

std::optional<std::size_t> PlateView::partAt(const QPointF& pixel) const {
    const QPointF m = scale.back(pixel);
    std::optional<std::size_t> found;
    double least = 1e9;
    for (std::size_t k = 0; k < working.chassis.parts.size(); ++k) {
        const PlacedPart& p = working.chassis.parts[k];
        if (p.face != looking.face) continue;
        const Footprint f = footprint(p);
        if (m.x() < f.left || m.x() > f.right || m.y() < f.near || m.y() > f.far || f.area() >= least) continue;
        least = f.area(); // the smaller one lies on top
        found = k;
    }
    return found;
}

void PlateView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (e->button() == Qt::MiddleButton) {
        panFrom = e->position();
        return;
    }
    if (e->button() != Qt::LeftButton) return;
    if (measuring) {
        measureFrom = measureTo = scale.back(e->position());
        return;
    }
    const auto hit = partAt(e->position());
    if (!hit) return select({});
    const auto at = std::find(selected.begin(), selected.end(), *hit);
    if (e->modifiers() & Qt::ShiftModifier) {
        auto all = selected;
        if (at == selected.end())
            all.push_back(*hit);
        else
            all.erase(all.begin() + (at - selected.begin()));
        select(all);
    } else if (at == selected.end()) {
        select({*hit});
    }
    Drag d{scale.back(e->position()), {}, false};
    for (const std::size_t k : selected) d.origins.emplace_back(working.chassis.parts[k].x, working.chassis.parts[k].y);
    drag = d;
}

void PlateView::mouseMoveEvent(QMouseEvent* e) {
    if (panFrom) {
        scale.origin += e->position() - *panFrom;
        panFrom = e->position();
        fitted = false;
        return update();
    }
    if (measuring && measureFrom && (e->buttons() & Qt::LeftButton)) {
        measureTo = scale.back(e->position());
        return update();
    }
    if (!drag || selected.empty()) return;
    const QPointF by = scale.back(e->position()) - drag->from;
    if (!drag->moved && std::hypot(by.x(), by.y()) < 3 / scale.scale * 1e-3) return;
    drag->moved = true;
    const QPointF first =
        e->modifiers() & Qt::AltModifier ? drag->origins[0] + by : snapped(selected[0], drag->origins[0] + by);
    const QPointF move = first - drag->origins[0];
    for (std::size_t n = 0; n < selected.size(); ++n) {
        PlacedPart& p = working.chassis.parts[selected[n]];
        if (p.locked) continue;
        p.x = drag->origins[n].x() + move.x();
        p.y = drag->origins[n].y() + move.y();
    }
    evaluate();
}

void PlateView::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() == Qt::MiddleButton) panFrom.reset();
    if (e->button() != Qt::LeftButton || !drag) return;
    const Drag done = *drag;
    drag.reset();
    guidesX.clear();
    guidesY.clear();
    if (!done.moved || selected.empty()) return;
    for (std::size_t n = 0; n < selected.size(); ++n) {
        const PlacedPart& p = working.chassis.parts[selected[n]];
        if (p.locked) continue;
        apply(moveParts(document.build().chassis, selected, p.x - done.origins[n].x(), p.y - done.origins[n].y()));
        return;
    }
    refresh();
    Q_EMIT said("locked: press K to unlock", false);
}

void PlateView::wheelEvent(QWheelEvent* e) {
    const double factor = std::pow(1.0015, e->angleDelta().y());
    const double next = std::clamp(scale.scale * factor, 0.3, 40.0);
    scale.origin = e->position() + (scale.origin - e->position()) * (next / scale.scale);
    scale.scale = next;
    fitted = false;
    update();
}

void PlateView::contextMenuEvent(QContextMenuEvent* e) {
    if (const auto hit = partAt(e->pos()); hit && std::find(selected.begin(), selected.end(), *hit) == selected.end())
        select({*hit});
    QMenu menu(this);
    const auto add = [&](QMenu& to, const QString& words, auto f) {
        connect(to.addAction(words), &QAction::triggered, this, f);
    };
    if (!selected.empty()) {
        add(menu, "Turn 15°\tR", [this] { turn(15); });
        add(menu, "Lock or let go\tK", [this] { lockSelected(); });
        add(menu, "Duplicate\tD", [this] { duplicateSelected(); });
        add(menu, "Mirrored for the other channel\tShift+D", [this] { mirrorSelected(); });
        if (selected.size() == 1)
            add(menu, "Sizes and holes as measured...",
                [this] { Q_EMIT measureYours(text(working.chassis.parts[selected[0]].id)); });
        if (const auto mountings = mountingsOf(working.chassis.parts[selected[0]]); !mountings.empty()) {
            QMenu* kinds = menu.addMenu("Mounting");
            for (const BodyKind* kind : mountings) {
                add(*kinds, text(kind->label).section(", ", 1), [this, kind] { mount(*kind); });
                QAction* a = kinds->actions().back();
                a->setCheckable(true);
                a->setChecked(kind->id == working.chassis.parts[selected[0]].body);
            }
        }
        if (canBeTower(working.chassis))
            add(menu, isLower(looking.face) ? "To the upper chassis\tT" : "To a lower chassis\tT",
                [this] { toOtherChassis(); });
        add(menu, "Take away\tDelete", [this] { removeSelected(); });
    }
    if (selected.size() > 1) {
        QMenu* lines = menu.addMenu("Align");
        add(*lines, "Left edges", [this] { align(Line::Left); });
        add(*lines, "Centres, left to right", [this] { align(Line::Centre); });
        add(*lines, "Right edges", [this] { align(Line::Right); });
        add(*lines, "Front edges", [this] { align(Line::Front); });
        add(*lines, "Centres, front to back", [this] { align(Line::Middle); });
        add(*lines, "Back edges", [this] { align(Line::Back); });
    }
    if (selected.size() > 2) {
        add(menu, "Equal steps, left to right", [this] { distribute(true); });
        add(menu, "Equal steps, front to back", [this] { distribute(false); });
    }
    add(menu, "Turn the plate over\tF", [this] { turnOver(); });
    add(menu, measuring ? "Stop measuring\tM" : "Measure\tM", [this] { measureMode(!measuring); });
    add(menu, "Fit\t0", [this] { fit(); });
    menu.exec(e->globalPos());
}

/// Tab walks through the parts of the face and then on.
bool PlateView::focusNextPrevChild(bool next) {
    std::vector<std::size_t> here;
    for (std::size_t k = 0; k < working.chassis.parts.size(); ++k)
        if (working.chassis.parts[k].face == looking.face) here.push_back(k);
    if (here.empty() || selected.size() > 1) return QWidget::focusNextPrevChild(next);
    if (selected.empty()) {
        select({next ? here.front() : here.back()});
        return true;
    }
    const auto at = std::find(here.begin(), here.end(), selected[0]);
    if (at == here.end() || (next ? at + 1 == here.end() : at == here.begin())) {
        select({});
        return QWidget::focusNextPrevChild(next);
    }
    select({next ? *(at + 1) : *(at - 1)});
    return true;
}

void PlateView::keyPressEvent(QKeyEvent* e) {
    const bool shift = e->modifiers() & Qt::ShiftModifier;
    const double by = shift ? 1e-4 : 1e-3;
    const double right = looking.fromBelow ? -by : by; // as it is seen
    switch (e->key()) {
    case Qt::Key_Left: return nudge(-right, 0);
    case Qt::Key_Right: return nudge(right, 0);
    case Qt::Key_Up: return nudge(0, by);
    case Qt::Key_Down: return nudge(0, -by);
    case Qt::Key_R: return turn(shift ? -15 : 15);
    case Qt::Key_F: return turnOver();
    case Qt::Key_K: return lockSelected();
    case Qt::Key_T: return toOtherChassis();
    case Qt::Key_D: return shift ? mirrorSelected() : duplicateSelected();
    case Qt::Key_M: return measureMode(!measuring);
    case Qt::Key_0: return fit();
    case Qt::Key_Plus:
    case Qt::Key_Equal:
    case Qt::Key_Minus: {
        const double factor = e->key() == Qt::Key_Minus ? 0.8 : 1.25;
        const QPointF middle = rect().center();
        scale.origin = middle + (scale.origin - middle) * factor;
        scale.scale *= factor;
        fitted = false;
        return update();
    }
    case Qt::Key_Delete:
    case Qt::Key_Backspace: return removeSelected();
    case Qt::Key_Escape:
        if (drag) {
            drag.reset();
            guidesX.clear();
            guidesY.clear();
            return refresh();
        }
        if (measuring) return measureMode(false);
        return select({});
    case Qt::Key_A:
        if (e->modifiers() & Qt::ControlModifier) {
            std::vector<std::size_t> all;
            for (std::size_t k = 0; k < working.chassis.parts.size(); ++k)
                if (working.chassis.parts[k].face == looking.face) all.push_back(k);
            return select(all);
        }
        break;
    default: break;
    }
    QWidget::keyPressEvent(e);
}

} // namespace ember::app
