// What is done to the chosen parts; each is one edit.
#include "plate_view.h"

#include "core/build/structure.h"
#include "core/chassis/bodies.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/mountings.h"
#include "core/chassis/tower.h"

#include "app/widgets/words.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using namespace chassis;

void PlateView::apply(const Expected<Edit>& edit) {
    const Expected<Done> done = edit ? document.edit(*edit) : edit.problem();
    if (!done) {
        refresh();
        Q_EMIT said(text(done.problem().text()), false);
    }
}

void PlateView::nudge(double dx, double dy) {
    if (!selected.empty()) apply(moveParts(document.build().chassis, selected, dx, dy));
}

void PlateView::turn(double degrees) {
    if (!selected.empty()) apply(turnParts(document.build().chassis, selected, degrees));
}

void PlateView::turnOver() {
    if (isPlate(looking.face)) look({looking.face, !looking.fromBelow});
}

void PlateView::toOtherChassis() {
    if (selected.empty() || !canBeTower(working.chassis)) return;
    const bool down = !isLower(looking.face);
    const auto which = selected;
    apply(chassis::toOtherChassis(document.build().chassis, which));
    select({});
    Q_EMIT said(down ? "It stands on the lower chassis now; \"lower\" above shows it."
                     : "It stands on the upper chassis again.",
                true);
}

void PlateView::mount(const BodyKind& mounting) {
    if (!selected.empty()) apply(inMounting(document.build().chassis, selected, mounting));
}

void PlateView::lockSelected() {
    std::vector<Edit> all;
    bool lock = false;
    for (const std::size_t k : selected) lock = lock || !working.chassis.parts[k].locked;
    for (const std::size_t k : selected) all.push_back(setFlag("", fmt::format("/chassis/parts/{}/locked", k), lock));
    if (!all.empty()) apply(together(lock ? "lock" : "let go", all));
}

void PlateView::removeSelected() {
    std::vector<std::size_t> order = selected;
    std::sort(order.rbegin(), order.rend()); // from the end, so that places stay true
    std::vector<Edit> all;
    for (const std::size_t k : order) all.push_back(removeAt("", fmt::format("/chassis/parts/{}", k)));
    if (all.empty()) return;
    const std::string name = order.size() == 1 ? "take " + tagOf(working.chassis.parts[order[0]]) + " away"
                                               : fmt::format("take {} parts away", order.size());
    selected.clear();
    apply(together(name, all));
    Q_EMIT selectionChanged();
}

/// Copies of the chosen parts, each changed in its own way, as one edit; then these are chosen.
void PlateView::addCopies(const std::string& name, const std::function<void(PlacedPart&)>& change) {
    const std::size_t before = working.chassis.parts.size();
    std::vector<Edit> all;
    Build so = document.build();
    for (const std::size_t k : selected) {
        PlacedPart copy = working.chassis.parts[k];
        copy.id = freshId(so, copy.id);
        change(copy);
        so.chassis.parts.push_back(copy);
        all.push_back(insertAt("", "/chassis/parts/-", copy));
    }
    if (all.empty()) return;
    apply(together(name, all));
    std::vector<std::size_t> fresh;
    for (std::size_t k = before; k < working.chassis.parts.size(); ++k) fresh.push_back(k);
    select(fresh);
}

void PlateView::duplicateSelected() {
    addCopies("duplicate", [](PlacedPart& copy) {
        copy.of.clear();
        copy.x += 0.02;
        copy.y -= 0.02;
    });
}

/// The second channel: the same parts mirrored about the middle line, and the other channel's electrical parts where
/// these are not yet placed.
void PlateView::mirrorSelected() {
    const double width = frameOf(working.chassis, looking.face).width;
    std::set<std::string> placed;
    for (const PlacedPart& p : working.chassis.parts) placed.insert(p.of);
    addCopies("mirror for the other channel", [&](PlacedPart& copy) {
        const std::string duty = otherChannels(working, copy.of);
        copy.of = duty.empty() || !placed.insert(duty).second ? "" : duty;
        copy.x = width - copy.x;
        copy.angle = std::remainder(-copy.angle, 360);
        for (Body& b : copy.bodies) b.x = -b.x;
        for (Hole& h : copy.holes) h.x = -h.x;
    });
}

void PlateView::align(Line line) {
    std::vector<Edit> all;
    double to = 0;
    for (std::size_t n = 0; n < selected.size(); ++n) {
        const PlacedPart& p = working.chassis.parts[selected[n]];
        const Footprint f = footprint(p);
        const bool alongX = line == Line::Left || line == Line::Centre || line == Line::Right;
        const double here = line == Line::Left    ? f.left
                            : line == Line::Right ? f.right
                            : line == Line::Front ? f.near
                            : line == Line::Back  ? f.far
                            : alongX              ? p.x
                                                  : p.y;
        if (n == 0) {
            to = here; // the first chosen stays
            continue;
        }
        if (p.locked) continue;
        all.push_back(setValue("", fmt::format("/chassis/parts/{}/{}", selected[n], alongX ? "x" : "y"),
                               (alongX ? p.x : p.y) + to - here));
    }
    if (!all.empty()) apply(together("align", all));
}

void PlateView::distribute(bool alongX) {
    if (selected.size() < 3) return;
    std::vector<std::size_t> order = selected;
    const auto at = [&](std::size_t k) { return alongX ? working.chassis.parts[k].x : working.chassis.parts[k].y; };
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return at(a) < at(b); });
    const double from = at(order.front()), step = (at(order.back()) - from) / static_cast<double>(order.size() - 1);
    std::vector<Edit> all;
    for (std::size_t n = 1; n + 1 < order.size(); ++n)
        if (!working.chassis.parts[order[n]].locked)
            all.push_back(setValue("", fmt::format("/chassis/parts/{}/{}", order[n], alongX ? "x" : "y"),
                                   from + step * static_cast<double>(n)));
    apply(together("equal steps", all));
}

void PlateView::measureMode(bool on) {
    measuring = on;
    measureFrom.reset();
    measureTo.reset();
    setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
    Q_EMIT said(on ? "measure: drag from one point to another; M or Esc ends it" : "", true);
    update();
}

Expected<Done> PlateView::place(const std::string& bodyId, double size) {
    auto made = makePart(bodyId, size);
    if (!made) return made.problem();
    PlacedPart part = *made;
    part.face = looking.face;
    part.id = freshId(document.build(), "p1");
    const bool free = standFree(document.build().chassis, part, liveVolts(document.figures()));
    const auto done = document.edit(insertAt("place " + part.id, "/chassis/parts/-", part));
    if (!done) return done;
    select({document.build().chassis.parts.size() - 1});
    Q_EMIT said(free ? QString("placed where there is room: arrows move it, R turns it")
                     : QString("placed in the middle: there is no free room for it here"),
                free);
    return Done{};
}

} // namespace ember::app
