#include "plate_picture.h"

#include "app/stations/run_pen.h"
#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/hole_list.h"

#include <QImage>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace ember::app {

using namespace chassis;
using theme::Role;
using theme::Size;

void PlatePicture::layers(const std::set<Layer>& shown) const {
    if (shown.contains(Layer::Heat)) heat();
    if (shown.contains(Layer::Sag)) sag();
    if (shown.contains(Layer::Field)) field();
    if (shown.contains(Layer::Signal)) signal();
    if (shown.contains(Layer::Wiring)) wiring();
    if (shown.contains(Layer::Clearance)) clearances();
    if (shown.contains(Layer::Holes)) holes();
}

/// Marching squares: each cell of four values gives the pieces of its lines.
void PlatePicture::contours(const std::vector<double>& values, int columns, int rows, bool cells,
                            const std::vector<double>& levels, const QPen& pen,
                            const std::function<QString(double)>& words) const {
    const Frame f = frameOf(build.chassis, side.face);
    const auto place = [&](double i, double j) {
        const double u = cells ? (i + 0.5) / columns : i / (columns - 1), v = cells ? (j + 0.5) / rows : j / (rows - 1);
        return scale.at(u * f.width, v * f.height);
    };
    const auto value = [&](int i, int j) { return values[static_cast<std::size_t>(j * columns + i)]; };
    p.setFont(theme::figures(Size::Small));
    for (const double level : levels) {
        bool labelled = false;
        p.setPen(pen);
        for (int j = 0; j + 1 < rows; ++j)
            for (int i = 0; i + 1 < columns; ++i) {
                std::array<QPointF, 4> cross;
                int count = 0;
                const auto edge = [&](int i0, int j0, int i1, int j1) {
                    const double a = value(i0, j0) - level, b = value(i1, j1) - level;
                    if ((a < 0) == (b < 0) || count == 4) return;
                    const double t = a / (a - b);
                    cross[static_cast<std::size_t>(count++)] = place(i0 + t * (i1 - i0), j0 + t * (j1 - j0));
                };
                edge(i, j, i + 1, j);
                edge(i + 1, j, i + 1, j + 1);
                edge(i + 1, j + 1, i, j + 1);
                edge(i, j + 1, i, j);
                for (int k = 0; k + 1 < count; k += 2)
                    p.drawLine(cross[static_cast<std::size_t>(k)], cross[static_cast<std::size_t>(k + 1)]);
                if (count >= 2 && !labelled && j > rows / 6 && i > columns / 8) {
                    labelled = true;
                    const QPointF at = cross[0];
                    const QString label = words(level);
                    const QRectF box(at.x() - 26, at.y() - 8, 52, 15);
                    p.fillRect(box.adjusted(4, 1, -4, -1), theme::color(Role::Ash));
                    p.drawText(box, Qt::AlignCenter, label);
                }
            }
    }
}

/// The tint alone, under the parts; its isotherms with their figures are a layer above them.
void PlatePicture::glow() const {
    const PlateFigures& plate = layout.plate(side.face);
    if (!isPlate(side.face) || plate.kelvin.empty()) return;
    const Frame f = frameOf(build.chassis, side.face);
    const double coolest = build.chassis.ambient, span = std::max(5.0, layout.hottest() - coolest);
    QImage picture(plate.columns, plate.rows, QImage::Format_ARGB32_Premultiplied);
    for (int j = 0; j < plate.rows; ++j)
        for (int i = 0; i < plate.columns; ++i) {
            QColor c = theme::color(Role::Ember);
            const double share = (plate.kelvin[static_cast<std::size_t>(j * plate.columns + i)] - coolest) / span;
            c.setAlphaF(static_cast<float>(std::clamp(0.6 * share * share, 0.0, 0.6)));
            picture.setPixelColor(scale.mirrored ? plate.columns - 1 - i : i, plate.rows - 1 - j, c);
        }
    p.save();
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(QRectF(scale.at(0, 0), scale.at(f.width, f.height)).normalized(), picture);
    p.restore();
}

void PlatePicture::heat() const {
    const PlateFigures& plate = layout.plate(side.face);
    if (!isPlate(side.face) || plate.kelvin.empty()) return;
    const double coolest = build.chassis.ambient, span = layout.hottest() - coolest;
    std::vector<double> levels;
    for (double c = 20; c<150; c += span> 30 ? 5 : span > 12 ? 2 : 1)
        if (c + 273.15 > coolest && c + 273.15 < layout.hottest()) levels.push_back(c + 273.15);
    contours(plate.kelvin, plate.columns, plate.rows, true, levels, QPen(theme::color(Role::Bone), 1),
             [](double k) { return QString("%1 °C").arg(k - 273.15, 0, 'f', 0); });
}

void PlatePicture::sag() const {
    const Bending& rest = layout.plate(side.face).rest;
    if (!isPlate(side.face) || rest.sag.empty() || !(rest.most > 0)) return;
    std::vector<double> levels;
    for (const double share : {0.1, 0.25, 0.5, 0.75, 0.95}) levels.push_back(share * rest.most);
    contours(rest.sag, rest.columns, rest.rows, false, levels, QPen(theme::color(Role::Slate), 1.2),
             [](double w) { return QString("%1 mm").arg(w * 1e3, 0, 'f', 2); });
}

void PlatePicture::field() const {
    const Frame f = frameOf(build.chassis, side.face);
    const Hum& hum = layout.hum;
    std::vector<Dipole> iron;
    for (const Dipole& d : layout.dipoles) {
        const std::string& of = build.chassis.parts[d.part].of;
        if (std::find(hum.iron.begin(), hum.iron.end(), of) == hum.iron.end()) continue;
        iron.push_back(d);
        iron.back().moment *= hum.shareOf(of);
    }
    if (iron.empty()) return;
    constexpr int columns = 73, rows = 49;
    std::vector<double> db;
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i) {
            const Vector point = toChassis(f, f.width * i / (columns - 1), f.height * j / (rows - 1), -0.01);
            db.push_back(20 * std::log10(std::max(1e-12, fieldAt(iron, point) / allowedTesla)));
        }
    contours(db, columns, rows, false, {-20, -10, 0, 10, 20}, QPen(theme::color(Role::Slate), 1.2, Qt::DashLine),
             [](double level) { return QString("%1%2 dB").arg(level > 0 ? "+" : "").arg(level); });
}

void PlatePicture::signal() const {
    if (side.face != Face::Top) return; // on a wall the way would be seen edge on
    std::vector<QPointF> taken;
    for (std::size_t ch = 0; ch < build.channels.size(); ++ch) {
        const auto path = signalPath(build, ch);
        const Frame face = frameOf(build.chassis, side.face);
        QPolygonF line;
        for (const std::size_t k : path) {
            const Vector local =
                face.axes.transpose() * (frameOf(build.chassis, build.chassis.parts[k]).origin - face.origin);
            line << scale.at(local.x(), local.y());
        }
        if (line.size() < 2) continue;
        QPainterPath ribbon(line[0]);
        for (int k = 1; k < line.size(); ++k) {
            const QPointF before = line[std::max(0, k - 2)], a = line[k - 1], b = line[k],
                          after = line[std::min<qsizetype>(line.size() - 1, k + 1)];
            ribbon.cubicTo(a + (b - before) / 6, b - (after - a) / 6, b);
        }
        QColor c = theme::color(Role::Verdigris);
        c.setAlphaF(0.45F);
        p.setPen(QPen(c, 7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.drawPath(ribbon);
        p.setPen(theme::color(Role::Verdigris));
        p.setFont(theme::text(Size::Small, true));
        // Above the one before where that is near.
        const QString words = "in " + text(build.channels[ch].name).toLower();
        QPointF place = line.first() + QPointF(9, -6);
        const double wide = QFontMetricsF(p.font()).horizontalAdvance(words) + 6;
        for (const QPointF& other : taken)
            if (std::abs(other.x() - place.x()) < wide && std::abs(other.y() - place.y()) < 12)
                place.ry() = other.y() - 13;
        taken.push_back(place);
        p.drawText(place, words);
        p.drawText(line.last() + QPointF(9, 12), "out");
    }
}

/// Air to the neighbours, where it is less than 30 mm. What is too little is drawn with its figure by problems().
void PlatePicture::clearances() const {
    p.setFont(theme::figures(Size::Small));
    p.setPen(theme::color(Role::Verdigris));
    for (const Gap& g : narrowGaps(build.chassis, layout.assembly, 0, 0.03)) {
        if (build.chassis.parts[g.a].face != side.face || build.chassis.parts[g.b].face != side.face) continue;
        const bool narrow = std::any_of(layout.fit.begin(), layout.fit.end(),
                                        [&](const FitProblem& f) { return f.a == g.a && f.b == g.b; });
        if (narrow) continue;
        const QPointF a = flat(g.from), b = flat(g.to), middle = (a + b) / 2;
        p.drawLine(a, b);
        const QString words = QString::number(g.air * 1e3, 'f', 1);
        const QRectF box(middle.x() - 15, middle.y() - 7, 30, 14);
        p.fillRect(box, theme::color(Role::Ash));
        p.drawText(box, Qt::AlignCenter, words);
    }
}

/// Every wire along the way it takes. Dashes tell the kinds apart, the figure its cut length.
void PlatePicture::wiring() const {
    using wires::RunKind;
    p.setFont(theme::figures(Size::Small));
    std::vector<QRectF> taken;
    std::vector<std::pair<QColor, QString>> figures; ///< drawn last, over every line
    for (const wires::Run& r : wires::harnessOf(build, catalogueOf(build)).runs) {
        const QPen pen = penOf(r.kind, 1.5);
        p.setPen(pen);
        QLineF longest;
        for (const auto& piece : wires::piecesUnder(build.chassis, isLower(side.face), r.path)) {
            QPolygonF line;
            for (const Vector& v : piece) line << flat(v);
            p.drawPolyline(line);
            for (int k = 0; k + 1 < line.size(); ++k)
                if (const QLineF part(line[k], line[k + 1]); part.length() > longest.length()) longest = part;
        }
        if (longest.isNull()) continue;
        const QPointF middle = longest.center();
        const QRectF box(middle.x() - 14, middle.y() - 7, 28, 14);
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken.push_back(box);
        figures.emplace_back(pen.color(), QString::number(r.length * 1e3, 'f', 0));
    }
    for (std::size_t k = 0; k < taken.size(); ++k) {
        p.fillRect(taken[k], theme::color(Role::Soot));
        p.setPen(figures[k].first);
        p.drawText(taken[k], Qt::AlignCenter, figures[k].second);
    }
    const Frame f = frameOf(build.chassis, side.face);
    const QRectF r = QRectF(scale.at(0, 0), scale.at(f.width, f.height)).normalized();
    QRectF key(r.right() + 8, r.top(), 80, 13); // beside the plate
    p.setFont(theme::text(Size::Small));
    for (int k = 0; k <= static_cast<int>(RunKind::Output); ++k) {
        p.setPen(penOf(static_cast<RunKind>(k), 1.5));
        p.drawLine(QPointF(key.left(), key.center().y()), QPointF(key.left() + 22, key.center().y()));
        p.drawText(key.adjusted(28, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, wires::nameOf(static_cast<RunKind>(k)));
        key.translate(0, 13);
    }
}

void PlatePicture::holes() const {
    p.setFont(theme::figures(Size::Small));
    for (const ListedHole& h : holesOf(build.chassis, side.face)) {
        QPolygonF shape;
        for (const auto& [x, y] : outlineOf(h, 32)) shape << scale.at(x, y);
        p.setBrush(theme::color(Role::Soot));
        p.setPen(QPen(theme::color(h.given ? Role::Slate : Role::Bone), 1));
        p.drawPolygon(shape);
        p.setBrush(Qt::NoBrush);
        const double r = scale.length(std::max(h.width, h.height)) / 2;
        if (r > 9)
            p.drawText(shape.boundingRect().adjusted(-20, -8, 20, 8), Qt::AlignCenter,
                       QString::number(h.width * 1e3, 'g', 3));
    }
}

} // namespace ember::app
