// How the fall is drawn: plateaus, slopes, ceilings, in true volts.
#include "fall_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include <QPainter>
#include <QPainterPath>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// A valve's envelope, plate and cathode, or a diode that points to the rail, after the published symbols (IEC 60617).
void paintRectifier(QPainter& p, QPointF at, const std::string& type, double radius) {
    const double half = 0.54 * radius;
    if (Catalogue::shipped().rectifier(type)->vacuum) {
        p.setBrush(theme::color(Role::Ash));
        p.setPen(QPen(theme::color(Role::Bone), 1.4));
        p.drawEllipse(at, radius, radius);
        p.drawLine(at + QPointF(-half, -0.3 * radius), at + QPointF(half, -0.3 * radius));
        p.setPen(QPen(theme::color(Role::Ember), 1.8));
        p.drawLine(at + QPointF(-half, 0.38 * radius), at + QPointF(half, 0.38 * radius));
    } else {
        p.setBrush(theme::color(Role::Soot));
        p.setPen(QPen(theme::color(Role::Bone), 1.5));
        p.drawPolygon(QPolygonF({at + QPointF(-7, -6), at + QPointF(-7, 6), at + QPointF(6, 0)}));
        p.drawLine(at + QPointF(6, -6), at + QPointF(6, 6));
    }
    p.setBrush(Qt::NoBrush);
}

} // namespace

void FallView::paintSource(QPainter& p) const {
    const Build& b = document.build();
    p.setPen(QPen(theme::color(Role::BoneDim), 1.3));
    const auto& legA = steady->cycle.legA;
    const auto& legB = steady->cycle.legB;
    const double x0 = 46, x1 = left - 22;
    double crest = 0;
    if (!legA.empty()) {
        QPainterPath path;
        for (std::size_t k = 0; k < legA.size(); ++k) {
            const double v = std::max({0.0, legA[k], legB[k]});
            crest = std::max(crest, v);
            const QPointF at(x0 + (x1 - x0) * static_cast<double>(k) / static_cast<double>(legA.size() - 1), y(v));
            k ? path.lineTo(at) : path.moveTo(at);
        }
        p.drawPath(path);
        p.setFont(theme::figures(Size::Small));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QPointF(x0, y(crest) - 6), "crest " + text(crest, Unit::Volt));
    }
    paintRectifier(p, QPointF(left - 16, y((crest + steady->nodes[0].mean) / 2)), b.supply.rectifier.type, 13);
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::text(Size::Small));
    const double base = height() - bottomGap;
    p.drawText(QRectF(94, base + 8, 52, 18), Qt::AlignLeft, "a leg");
    p.setFont(theme::figures(Size::Small));
    p.drawText(QRectF(8, base + 28, left, 16), Qt::AlignLeft, // of a long designation its first word
               QString("%1 %2 peak")
                   .arg(text(b.supply.rectifier.type).section(' ', 0, 0), text(steady->rectifierPeak, Unit::Ampere)));
    p.setFont(theme::text(Size::Small));
    p.drawText(QRectF(72, base + 45, 74, 16), Qt::AlignLeft, "in each leg");
}

void FallView::paintNode(QPainter& p, int node) const {
    const Build& b = document.build();
    const auto k = static_cast<std::size_t>(node - 1);
    const plan::NodeFigures& n = steady->nodes[k];
    const double x0 = nodeLeft(node), x1 = x0 + nodeWidth(), centre = (x0 + x1) / 2, base = height() - bottomGap;
    const double at = y(n.mean), thick = std::max(2.5, y(n.mean - n.ripplePp / 2) - y(n.mean + n.ripplePp / 2));
    p.save();
    p.setClipRect(QRectF(x0, at - 50, x1 - x0, 110));
    theme::halo(p, QPointF(centre, at + 4), nodeWidth() * 0.42, theme::color(Role::Ember), 0.20);
    p.restore();
    // The capacitor hangs from the plateau to ground.
    const bool hasCapacitor = std::any_of(b.supply.sections.begin(), b.supply.sections.end(), [&](const Section& s) {
        return s.kind == SectionKind::Capacitor &&
               nodeOfSection(b.supply, static_cast<std::size_t>(&s - b.supply.sections.data())) == node;
    });
    if (hasCapacitor) {
        p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
        p.drawLine(QPointF(centre, at + 64), QPointF(centre, base - 15));
        p.setPen(QPen(theme::color(Role::Bone), 2));
        p.drawLine(QPointF(centre - 13, base - 14), QPointF(centre + 13, base - 14));
        p.drawLine(QPointF(centre - 13, base - 8), QPointF(centre + 13, base - 8));
        p.drawLine(QPointF(centre, base - 8), QPointF(centre, base));
    }
    p.fillRect(QRectF(x0, at - thick / 2, x1 - x0, thick), theme::color(Role::Ember));
    p.setFont(theme::figures(static_cast<Size>(22), true));
    p.setPen(theme::color(Role::Bone));
    p.drawText(QRectF(x0 - 20, at + thick / 2 + 4, x1 - x0 + 40, 28), Qt::AlignCenter, text(n.mean, Unit::Volt));
    p.setFont(theme::text(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(QRectF(x0, at + thick / 2 + 31, x1 - x0, 16), Qt::AlignCenter, QString("B+%1").arg(node));
    // Ceiling and cold volts.
    for (std::size_t s = 0; s < b.supply.sections.size(); ++s) {
        const Section& section = b.supply.sections[s];
        if (section.kind != SectionKind::Capacitor || nodeOfSection(b.supply, s) != node) continue;
        const double ceiling = y(section.volts);
        p.setPen(QPen(theme::color(Role::Stop), 2));
        p.drawPolyline(QPolygonF({{x0, ceiling + 6}, {x0, ceiling}, {x1, ceiling}, {x1, ceiling + 6}}));
        if (cold && cold->nodes.size() > k) {
            const double most = cold->nodes[k].most;
            const bool near = most > 0.9 * section.volts;
            p.setPen(QPen(theme::color(near ? Role::Ember : Role::Brass), 1.4, Qt::DashLine));
            p.drawLine(QPointF(x0, y(most)), QPointF(x1, y(most)));
            p.setFont(theme::figures(Size::Small));
            p.drawText(QRectF(x0 - 40, y(most) + 2, x1 - x0 + 40, 16), Qt::AlignRight,
                       text(most, Unit::Volt) + (near ? " cold, near" : " cold"));
        }
    }
    const bool narrow = nodeWidth() < 130; // shorter words where the neighbours are near
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::figures(Size::Small));
    p.drawText(QRectF(x0 - 30, base + 8, x1 - x0 + 60, 16), Qt::AlignCenter,
               QString::fromStdString(format(n.ripplePp, Unit::Volt, 2)) + (narrow ? " p-p" : " p-p ripple"));
    p.setPen(theme::color(n.load > 1e-6 ? Role::Brass : Role::BoneFaint));
    p.setFont(theme::text(Size::Small));
    p.drawText(QRectF(x0 - 30, base + 26, x1 - x0 + 60, 16), Qt::AlignCenter,
               n.load > 1e-6
                   ? (narrow ? "draws " : "stages draw ") + QString::fromStdString(format(n.load, Unit::Ampere))
                   : QString(narrow ? "no stage" : "no stage fed from here"));
    paintHung(p, node);
}

/// Bleeders and loads under their node, by name beside their value.
void FallView::paintHung(QPainter& p, int node) const {
    const double base = height() - bottomGap;
    std::ptrdiff_t more = 0;
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::text(Size::Small));
    for (const HungPart& h : hungParts(document.build().supply)) {
        if (h.node != node) continue;
        if (static_cast<std::ptrdiff_t>(h.before) < mostHung)
            p.drawText(QRectF(hungLeft(h), base + 45, 36, 16), Qt::AlignRight, tag(h.id).left(6));
        else
            ++more;
    }
    if (more > 0)
        p.drawText(QRectF(nodeLeft(node) + nodeWidth() / 2 + hungWidth, base + 45, 60, 16), Qt::AlignLeft,
                   QString("+%1").arg(more));
}

void FallView::paintSlope(QPainter& p, std::size_t index, int from) const {
    const Section& s = document.build().supply.sections[index];
    const double a = y(steady->nodes[static_cast<std::size_t>(from - 1)].mean),
                 b = y(steady->nodes[static_cast<std::size_t>(from)].mean);
    const double x0 = nodeLeft(from) + nodeWidth(), x1 = nodeLeft(from + 1), middle = (x0 + x1) / 2, my = (a + b) / 2;
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    p.setBrush(theme::color(Role::Soot));
    p.drawLine(QPointF(x0, a), QPointF(x1, b));
    if (s.kind == SectionKind::Resistor || s.kind == SectionKind::Fuse) { // IEC 60617
        p.drawRect(QRectF(middle - 19, my - 7, 38, 14));
        if (s.kind == SectionKind::Fuse) p.drawLine(QPointF(middle - 19, my), QPointF(middle + 19, my));
    } else if (s.kind == SectionKind::Meter) {
        p.drawEllipse(QPointF(middle, my), 12, 12);
        p.setFont(theme::text(Size::Text, true));
        p.drawText(QRectF(middle - 12, my - 12, 24, 24), Qt::AlignCenter, "A");
    } else if (s.kind == SectionKind::Switch) {
        p.setPen(Qt::NoPen);
        p.drawRect(QRectF(middle - 16, my - 14, 32, 22));
        p.setPen(QPen(theme::color(Role::Bone), 1.5));
        p.drawLine(QPointF(middle - 16, my), QPointF(middle + 13, my - 12));
        p.drawEllipse(QPointF(middle - 16, my), 2, 2);
        p.drawEllipse(QPointF(middle + 16, my), 2, 2);
    } else {
        p.setPen(Qt::NoPen);
        p.drawRect(QRectF(middle - 24, my - 9, 48, 14));
        p.setPen(QPen(theme::color(Role::Bone), 1.5));
        for (int k = 0; k < 4; ++k) p.drawArc(QRectF(middle - 24 + 12 * k, my - 7, 12, 14), 0, 180 * 16);
    }
    p.setBrush(Qt::NoBrush);
    const auto watts = steady->partWatts.find(s.id);
    if (watts == steady->partWatts.end()) return;
    QString under = QString::fromStdString(format(watts->second, Unit::Watt, 2));
    if (s.kind == SectionKind::Resistor) under += " of " + QString::fromStdString(formatExact(s.watts, Unit::Watt));
    p.setFont(theme::figures(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(QRectF(middle - 60, my + (s.kind == SectionKind::Choke ? 58 : 38), 120, 16), Qt::AlignCenter, under);
}

void FallView::paintScale(QPainter& p) const {
    p.fillRect(rect(), theme::color(Role::Soot));
    const double most = topVolts();
    p.setFont(theme::figures(Size::Small));
    for (int k = 0; 100 * k <= most + 1; ++k) {
        const double v = 100 * k;
        p.setPen(QPen(theme::color(v == 0 ? Role::BoneFaint : Role::AshRaised), 1));
        p.drawLine(QPointF(42, y(v)), QPointF(width() - 4, y(v)));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(0, y(v) - 8, 36, 16), Qt::AlignRight | Qt::AlignVCenter,
                   v == 0 ? QString("0 V") : QString::number(v));
    }
    if (solvedHere()) return;
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(rect(), Qt::AlignCenter,
               document.solving() ? "computing ..." : "The supply could not be solved; see the log line.");
}

bool FallView::solvedHere() const {
    return steady && steady->nodes.size() == static_cast<std::size_t>(supplyNodes(document.build().supply));
}

std::vector<TurnedPicture::Piece> FallView::pieces() const {
    std::vector<TurnedPicture::Piece> all{[this](QPainter& p) { paintScale(p); }};
    // The chain may change between two pieces: each looks whether its figures still fit.
    const auto add = [&](auto paint) {
        all.emplace_back([this, paint](QPainter& p) {
            if (!solvedHere()) return;
            p.setOpacity(document.solving() && !document.figures().nominal ? 0.5 : 1);
            paint(p);
        });
    };
    add([this](QPainter& p) { paintSource(p); });
    int node = 1;
    const auto& sections = document.build().supply.sections;
    for (std::size_t k = 0; k < sections.size(); ++k)
        if (sections[k].kind == SectionKind::Tap)
            add([this, k, to = ++node](QPainter& p) { paintTap(p, k, to); });
        else if (sections[k].kind != SectionKind::Capacitor)
            add([this, k, from = node++](QPainter& p) { paintSlope(p, k, from); });
    for (int n = 1; n <= node; ++n) add([this, n](QPainter& p) { paintNode(p, n); });
    add([this](QPainter& p) {
        paintPinned(p);
        paintFlags(p);
    });
    return all;
}

void FallView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    picture.paint(p);
}

/// A tap rises from ground to its crest and comes down to its node through diodes of its own (IEC 60617).
void FallView::paintTap(QPainter& p, std::size_t index, int to) const {
    const Section& s = document.build().supply.sections[index];
    const double crest =
        s.volts * steady->conditions.mainsVolts / document.build().transformer.primaryVolts * std::numbers::sqrt2;
    const double x1 = nodeLeft(to), x0 = x1 - 0.42 * nodeWidth(), base = height() - bottomGap;
    p.setPen(QPen(theme::color(Role::BoneDim), 1.3));
    QPainterPath rise;
    for (int k = 0; k <= 24; ++k) { // two half waves, as the winding's own picture has them
        const QPointF at(x0 - 14 + 28.0 * k / 24, y(crest * std::abs(std::sin(std::numbers::pi * k / 12))));
        k ? rise.lineTo(at) : rise.moveTo(at);
    }
    p.drawPath(rise);
    p.setFont(theme::figures(Size::Small));
    p.drawText(QRectF(x0 - 60, y(crest) - 22, 120, 16), Qt::AlignCenter, "crest " + text(crest, Unit::Volt));
    const QPointF end(x1, y(steady->nodes[static_cast<std::size_t>(to - 1)].mean)), from(x0 + 7, y(crest));
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    p.drawLine(from, end);
    const QPointF at = (from + end) / 2;
    paintRectifier(p, at, s.type, 10);
    p.setPen(theme::color(Role::BoneDim));
    p.setFont(theme::text(Size::Small));
    p.drawText(QRectF(x0 - 40, base + 26, 80, 16), Qt::AlignCenter, tag(s.id));
}

/// A mark at each part that something is found at; its field says what. A stop is a square, the rest are round.
void FallView::paintFlags(QPainter& p) const {
    for (const PlacedFields::Field& f : fields.all()) {
        if (!f.flag || f.field->isHidden()) continue;
        const Role role = *f.flag == rules::Level::Stop   ? Role::Stop
                          : *f.flag == rules::Level::Warn ? Role::Brass
                                                          : Role::Slate;
        const QRect field = f.field->geometry();
        const double half = f.field->fontMetrics().horizontalAdvance(f.field->text()) / 2.0;
        const QRectF at(field.center().x() - half - 21, field.center().y() - 7, 14, 14);
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(role));
        *f.flag == rules::Level::Stop ? p.drawRect(at) : p.drawEllipse(at);
        p.setBrush(Qt::NoBrush);
        p.setPen(theme::color(Role::Soot));
        p.setFont(theme::text(Size::Small, true));
        p.drawText(at, Qt::AlignCenter, "!");
    }
}

/// The pinned figures: a slate line at each node, and how far the present ones are from it.
void FallView::paintPinned(QPainter& p) const {
    if (!pinned || pinned->nodes.size() != steady->nodes.size()) return;
    for (std::size_t k = 0; k < pinned->nodes.size(); ++k) {
        const double was = pinned->nodes[k].mean, is = steady->nodes[k].mean, x0 = nodeLeft(static_cast<int>(k) + 1);
        p.setPen(QPen(theme::color(Role::Slate), 2, Qt::DashDotLine));
        p.drawLine(QPointF(x0 - 6, y(was)), QPointF(x0 + nodeWidth() + 6, y(was)));
        if (std::abs(is - was) < 0.05) continue;
        const double thick = y(is - steady->nodes[k].ripplePp / 2) - y(is + steady->nodes[k].ripplePp / 2);
        const double under = y(is) + std::max(2.5, thick) / 2 + 46; // beneath the node's name
        p.setFont(theme::figures(Size::Small));
        p.drawText(QRectF(x0 - 20, under, nodeWidth() + 40, 16), Qt::AlignCenter,
                   QString("%1%2 V").arg(is > was ? "+" : "").arg(is - was, 0, 'f', 1));
    }
}

} // namespace ember::app
