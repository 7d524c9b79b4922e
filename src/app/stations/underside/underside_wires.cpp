// Wires along the routes that they take, what is said at parts, and what is pointed at.
#include "app/stations/plate_picture.h"
#include "app/stations/run_pen.h"
#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/chassis/layout_edits.h"
#include "core/wires/clips.h"
#include "underside_picture.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::app {

using namespace wires;
using theme::Role;
using theme::Size;

namespace {
/// Open jaws at a lead's end, away from where it comes from.
void drawClip(QPainter& p, const QPointF& end, const QPointF& before) {
    QLineF jaw(end, 2 * end - before);
    if (jaw.length() < 1e-6) jaw = QLineF(end, end + QPointF(0, -1));
    jaw.setLength(7);
    const double way = jaw.angle();
    for (const double open : {-28.0, 28.0}) {
        jaw.setAngle(way + open);
        p.drawLine(jaw);
    }
}
} // namespace

/// Solder points, clips, the metal, or the hole through which a wire goes on to the other chassis.
void UndersidePicture::drawEnds(QPainter& p, const QColor& colour, const Piece& piece, const Run& r) const {
    const QPolygonF& line = piece.line;
    const bool clipped = wires::endsInClips(document.solved().build.chassis, r);
    for (const bool first : {true, false}) {
        const QPointF end = first ? line.front() : line.back(), before = first ? line[1] : line[line.size() - 2];
        if (first ? !piece.begins : !piece.ends) {
            p.setPen(QPen(colour, 1.4));
            p.drawEllipse(end, 4.5, 4.5);
        } else if (clipped) {
            p.setPen(QPen(colour, 1.6, Qt::SolidLine, Qt::RoundCap));
            drawClip(p, end, before);
        } else {
            p.setPen(QPen(colour, 4.4, Qt::SolidLine, Qt::RoundCap));
            p.drawPoint(end);
        }
    }
    if (r.wire.to != chassisEnd || !piece.ends) return; // where it meets the metal
    p.setPen(QPen(colour, 1.6));
    for (int k = 0; k < 3; ++k)
        p.drawLine(line.back() + QPointF(-9 + 3 * k, 6 + 4 * k), line.back() + QPointF(9 - 3 * k, 6 + 4 * k));
    p.drawLine(line.back(), line.back() + QPointF(0, 6));
}

void UndersidePicture::drawRuns(QPainter& p, const PlateScale& scale) const {
    const Harness& h = document.solved().figures.wires->harness;
    struct Label {
        QPointF at;
        QString words;
        QColor colour;
    };
    std::vector<Label> labels;
    for (const bool front : {false, true})
        for (const Run& r : h.runs) {
            const bool shown = quiet         ? false
                               : lit.empty() ? kinds.empty() || kinds.contains(r.kind)
                                             : lit.contains(r.wire.id);
            if (shown != front) continue;
            const auto look = looks.find(r.wire.id);
            const double width = look == looks.end() ? lit.contains(r.wire.id) ? 3.2 : 1.6 : look->second.width;
            QPen pen = penOf(r.kind, shown ? width : 1);
            if (!shown) pen.setColor(theme::color(Role::Line));
            pen.setJoinStyle(Qt::RoundJoin);
            p.setPen(pen);
            QLineF longest;
            for (const Piece& piece : piecesOf(r, scale)) {
                p.setPen(pen);
                p.drawPolyline(piece.line);
                if (shown) drawEnds(p, pen.color(), piece, r);
                for (int k = 0; k + 1 < piece.line.size(); ++k)
                    if (const QLineF part(piece.line[k], piece.line[k + 1]); part.length() > longest.length())
                        longest = part;
            }
            if (!shown || longest.isNull() || look == looks.end() || look->second.words.isEmpty()) continue;
            labels.push_back({longest.center(), look->second.words, pen.color()});
        }
    p.setFont(theme::figures(Size::Small));
    std::vector<QRectF> taken;
    for (const Label& l : labels) {
        const double wide = QFontMetricsF(p.font()).horizontalAdvance(l.words) + 6;
        QRectF box(l.at.x() - wide / 2, l.at.y() - 7, wide, 14);
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken.push_back(box);
        p.fillRect(box, theme::color(Role::Soot));
        p.setPen(l.colour);
        p.drawText(box, Qt::AlignCenter, l.words);
    }
}

void UndersidePicture::drawMarks(QPainter& p, const PlateScale& scale) const {
    const Build& b = document.solved().build;
    for (const auto& [part, mark] : marks) {
        if (part >= b.chassis.parts.size() || isLower(b.chassis.parts[part].face) != lower()) continue;
        const Vector at = chassis::toChassis(chassis::frameOf(b.chassis, b.chassis.parts[part]), 0, 0, 0);
        const QPointF middle = scale.at(at.x(), at.y());
        if (mark.glow > 0) theme::halo(p, middle, 26, theme::color(Role::Ember), mark.glow);
        p.setFont(theme::figures(Size::Text, true));
        const QFontMetricsF metrics(p.font());
        const QRectF box(middle.x() - 0.5 * metrics.horizontalAdvance(mark.words) - 3,
                         middle.y() - scale.length(0.012) - 18, metrics.horizontalAdvance(mark.words) + 6, 16);
        p.fillRect(box, theme::color(Role::Soot));
        p.setPen(theme::color(mark.good ? Role::Verdigris : Role::Ember));
        p.drawText(box, Qt::AlignCenter, mark.words);
    }
}

/// So that all of them are seen, and as large as they allow.
void UndersidePicture::lookAtCallouts() {
    if (callouts.empty()) return;
    QRectF all;
    for (const Callout& each : callouts)
        if (each.lower == lower()) all = all.united(QRectF(each.at.x() - 1e-3, each.at.y() - 1e-3, 2e-3, 2e-3));
    constexpr double around = 0.03, largest = 4; // [m], [pixel/mm]
    sight.lookAt(all.adjusted(-around, -around, around, around), largest);
}

void UndersidePicture::pointAt(std::vector<Callout> places) {
    if (callouts == places) return;
    callouts = std::move(places);
    if (!callouts.empty() && chassis::isTower(document.solved().build.chassis))
        storey->setChecked(callouts.back().lower);
    lookAtCallouts();
    redraw();
}

void UndersidePicture::drawCallouts(QPainter& p, const PlateScale& scale) const {
    const QRectF room = QRectF(rect()).adjusted(4, 4, -4, -4);
    p.setFont(theme::text(Size::Text, true));
    const QFontMetricsF metrics(p.font());
    std::vector<QRectF> taken;
    for (const Callout& each : callouts) {
        if (each.lower != lower()) continue;
        const QPointF at = scale.at(each.at.x(), each.at.y());
        taken.emplace_back(at - QPointF(14, 14), QSizeF(28, 28));
    }
    for (const Callout& each : callouts) {
        if (each.lower != lower()) continue; // its card says where it is
        const QPointF at = scale.at(each.at.x(), each.at.y());
        const QColor colour = theme::color(each.colour);
        const QSizeF size(metrics.horizontalAdvance(each.words) + 14, metrics.height() + 6);
        QRectF box;
        for (const double far : {46.0, 80.0, 120.0, 170.0}) { // the first free place round the pin
            for (int way = 0; way < 8 && box.isNull(); ++way) {
                const double angle = (way * 45 + (&each == &callouts.back() ? 45 : 135)) * std::numbers::pi / 180;
                const QPointF middle = at + far * QPointF(std::cos(angle) * 1.6, -std::sin(angle));
                const QRectF there(middle - QPointF(size.width() / 2, size.height() / 2), size);
                if (room.contains(there) &&
                    std::none_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(there); }))
                    box = there;
            }
            if (!box.isNull()) break;
        }
        if (box.isNull())
            box = QRectF(
                room.topLeft() + QPointF(0, (size.height() + 4) * static_cast<double>(&each - callouts.data())), size);
        taken.push_back(box);
        theme::halo(p, at, 22, colour, 0.5);
        p.setPen(QPen(colour, 3, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(QLineF(at, box.center()));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, 8, 8);
        p.setPen(QPen(colour, 1.4));
        p.setBrush(theme::color(Role::Soot));
        p.drawRoundedRect(box, 3, 3);
        p.setBrush(Qt::NoBrush);
        p.drawText(box, Qt::AlignCenter, each.words);
    }
}

} // namespace ember::app
