#include "wire_picture.h"

#include "wire_menu.h"

#include "app/stations/plate_picture.h"
#include "app/stations/run_pen.h"
#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/chassis/layout_edits.h"
#include "core/procedure/rewiring.h"
#include "core/wires/clips.h"
#include "core/wires/wire_path.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember::app {

using namespace wires;
using theme::Role;
using theme::Size;

WirePicture::WirePicture(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("wirePicture");
    setAccessibleName("The chassis with its wires, from the side that is wired");
    setToolTip("Click chooses a wire, dragging moves a piece of its way");
    setFocusPolicy(Qt::ClickFocus);
    storey = new QPushButton("lower chassis", this);
    storey->setObjectName("wiresOfLower");
    storey->setProperty("tab", true);
    storey->setCheckable(true);
    storey->setToolTip("The wires of the tower's lower chassis");
    connect(storey, &QPushButton::toggled, this, &WirePicture::renew);
    connect(&document, &Document::figuresChanged, this, &WirePicture::renew);
    renew();
}

void WirePicture::setKinds(std::set<RunKind> which) {
    kinds = std::move(which);
    renew();
}
void WirePicture::setLit(std::set<std::string> ids) {
    lit = std::move(ids);
    // One that lies wholly under the other chassis is shown there.
    const Document::Solved& solved = document.solved();
    if (solved.figures.wires && lit.size() == 1 && chassis::isTower(solved.build.chassis))
        if (const Run* run = solved.figures.wires->harness.find(*lit.begin()))
            if (piecesUnder(solved.build.chassis, lower(), run->path).empty()) storey->setChecked(!storey->isChecked());
    renew();
}
void WirePicture::setLooks(std::map<std::string, Look> to) {
    looks = std::move(to);
    renew();
}
void WirePicture::setMarks(std::map<std::size_t, Mark> to) {
    marks = std::move(to);
    renew();
}

PlateScale WirePicture::scaleNow() const {
    const Chassis& c = document.solved().build.chassis;
    PlateScale s;
    s.mirrored = chassis::wiredFromBelow(c);
    s.width = c.width * 1e3;
    constexpr double left = 46, around = 26;
    s.scale = std::min((width() - left - around) / (c.width * 1e3), (height() - 2 * around) / (c.depth * 1e3));
    s.origin = QPointF(left + 0.5 * (width() - left - around - s.width * s.scale), height() - around);
    return s;
}

bool WirePicture::lower() const {
    return storey->isChecked() && chassis::isTower(document.solved().build.chassis);
}

std::vector<WirePicture::Piece> WirePicture::piecesOf(const Run& run, const PlateScale& scale) const {
    std::vector<Piece> out;
    for (const auto& under : piecesUnder(document.solved().build.chassis, lower(), run.path)) {
        Piece& piece = out.emplace_back();
        for (const Vector& v : under) piece.line << scale.at(v.x(), v.y());
        piece.begins = under.front() == run.path.front();
        piece.ends = under.back() == run.path.back();
    }
    return out;
}

void WirePicture::renew() {
    storey->setVisible(chassis::isTower(document.solved().build.chassis));
    kept = {};
    update();
}

void WirePicture::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    storey->adjustSize();
    storey->move(width() - storey->width(), 0);
}

void WirePicture::changeEvent(QEvent* e) {
    kept = {}; // another theme, another font
    QWidget::changeEvent(e);
}

void WirePicture::paintEvent(QPaintEvent*) {
    const double ratio = devicePixelRatioF();
    if (kept.isNull() || kept.size() != size() * ratio) {
        kept = QPixmap(size() * ratio);
        kept.setDevicePixelRatio(ratio);
        kept.fill(Qt::transparent);
        QPainter p(&kept);
        draw(p);
    }
    QPainter p(this);
    p.drawPixmap(0, 0, kept);
    if (!grip || !grip->moved) return;
    p.setRenderHint(QPainter::Antialiasing);
    const PlateScale scale = scaleNow();
    QPolygonF line;
    for (const Vector& v : grip->path) line << scale.at(v.x(), v.y());
    p.setPen(QPen(theme::color(Role::Brass), 2.4));
    p.drawPolyline(line);
}

void WirePicture::draw(QPainter& p) const {
    p.setRenderHint(QPainter::Antialiasing);
    const Document::Solved& solved = document.solved();
    if (solved.build.chassis.parts.empty() || !solved.figures.layout || !solved.figures.wires) {
        p.setPen(theme::color(Role::BoneDim));
        p.setFont(theme::text(Size::Text));
        p.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                   solved.build.chassis.parts.empty()
                       ? "Wires are proposed once parts stand on the chassis (Chassis, Alt+1)."
                       : "computing...");
        return;
    }
    const PlateScale scale = scaleNow();
    PlatePicture plate(p, solved.build, *solved.figures.layout,
                       {lower() ? Face::LowerTop : Face::Top, chassis::wiredFromBelow(solved.build.chassis)}, scale);
    plate.plate(false);
    drawParts(p, scale);
    drawRuns(p, scale);
    drawMarks(p, scale);
}

void WirePicture::drawParts(QPainter& p, const PlateScale& scale) const {
    const Document::Solved& solved = document.solved();
    const chassis::Assembly& assembly = solved.figures.layout->assembly;
    const bool below = chassis::wiredFromBelow(solved.build.chassis);
    p.setFont(theme::text(Size::Small));
    for (std::size_t k = 0; k < solved.build.chassis.parts.size(); ++k) {
        const PlacedPart& part = solved.build.chassis.parts[k];
        if (isLower(part.face) != lower()) continue;
        QRectF whole;
        for (const std::size_t b : assembly.of[k]) {
            const chassis::PlacedBody& body = assembly.bodies[b];
            if (below && body.outside) continue;
            const auto edge = [&](const chassis::Vector& way) { return body.solid.support(way); };
            const QPointF near = scale.at(edge(-chassis::Vector::UnitX()).x(), edge(-chassis::Vector::UnitY()).y()),
                          far = scale.at(edge(chassis::Vector::UnitX()).x(), edge(chassis::Vector::UnitY()).y());
            const QRectF r = QRectF(near, far).normalized();
            p.setPen(QPen(theme::color(Role::Line), 1));
            p.setBrush(theme::color(Role::Ash));
            if (body.solid.cylinder && std::abs(body.solid.axes.col(2).z()) > 0.9)
                p.drawEllipse(r);
            else
                p.drawRect(r);
            whole = whole.united(r);
        }
        p.setBrush(Qt::NoBrush);
        if (whole.isNull()) continue;
        p.setPen(theme::color(Role::BoneDim));
        const QString name = text(chassis::tagOf(part));
        const double wide = QFontMetricsF(p.font()).horizontalAdvance(name);
        if (wide < whole.width() + 6) p.drawText(whole.adjusted(-6, -6, 6, 6), Qt::AlignCenter, name);
    }
}

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
void WirePicture::drawEnds(QPainter& p, const QColor& colour, const Piece& piece, const Run& r) const {
    const QPolygonF& line = piece.line;
    const bool clips = wires::endsInClips(document.solved().build.chassis, r);
    for (const bool first : {true, false}) {
        const QPointF end = first ? line.front() : line.back(), before = first ? line[1] : line[line.size() - 2];
        if (first ? !piece.begins : !piece.ends) {
            p.setPen(QPen(colour, 1.4));
            p.drawEllipse(end, 4.5, 4.5);
        } else if (clips) {
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

void WirePicture::drawRuns(QPainter& p, const PlateScale& scale) const {
    const Harness& h = document.solved().figures.wires->harness;
    struct Label {
        QPointF at;
        QString words;
        QColor colour;
    };
    std::vector<Label> labels;
    for (const bool front : {false, true})
        for (const Run& r : h.runs) {
            const bool shown = lit.empty() ? kinds.empty() || kinds.contains(r.kind) : lit.contains(r.wire.id);
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

void WirePicture::drawMarks(QPainter& p, const PlateScale& scale) const {
    const Build& b = document.solved().build;
    for (const auto& [part, mark] : marks) {
        if (part >= b.chassis.parts.size() || isLower(b.chassis.parts[part].face) != lower()) continue;
        const Vector at = chassis::toChassis(chassis::frameOf(b.chassis, b.chassis.parts[part]), 0, 0, 0);
        const QPointF middle = scale.at(at.x(), at.y());
        if (mark.glow > 0) theme::halo(p, middle, 26, theme::color(Role::Ember), mark.glow);
        p.setFont(theme::figures(Size::Text, true));
        const QFontMetricsF metrics(p.font());
        const QRectF box(middle.x() - 0.5 * metrics.horizontalAdvance(mark.words) - 3, middle.y() + 9,
                         metrics.horizontalAdvance(mark.words) + 6, 16);
        p.fillRect(box, theme::color(Role::Soot));
        p.setPen(theme::color(mark.good ? Role::Verdigris : Role::Ember));
        p.drawText(box, Qt::AlignCenter, mark.words);
    }
}

std::optional<WirePicture::Grip> WirePicture::gripAt(QPointF at) const {
    const Document::Solved& solved = document.solved();
    if (!solved.figures.wires) return std::nullopt;
    const PlateScale scale = scaleNow();
    double least = 8; // [pixels]
    std::optional<Grip> nearest;
    for (const Run& r : solved.figures.wires->harness.runs) {
        if (lit.empty() && !kinds.empty() && !kinds.contains(r.kind)) continue;
        // Of wires that lie together the lit one is gripped.
        const double favour = lit.contains(r.wire.id) ? 4 : 0;
        for (std::size_t k = 0; k + 1 < r.path.size(); ++k) {
            if (piecesUnder(solved.build.chassis, lower(), {r.path[k], r.path[k + 1]}).empty()) continue;
            const QPointF a = scale.at(r.path[k].x(), r.path[k].y()),
                          z = scale.at(r.path[k + 1].x(), r.path[k + 1].y()), way = z - a, to = at - a;
            const double square = QPointF::dotProduct(way, way),
                         share = square > 0 ? std::clamp(QPointF::dotProduct(to, way) / square, 0.0, 1.0) : 0;
            const QPointF off = to - share * way;
            if (const double d = std::hypot(off.x(), off.y()) - favour; d < least)
                least = d, nearest = Grip{r.wire.id, k, share, at, {}, false};
        }
    }
    return nearest;
}

void WirePicture::edit(const Edit& e) {
    if (auto done = document.edit(e); !done) Q_EMIT said(text(done.problem().text()), false);
}

void WirePicture::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    grip = gripAt(e->position());
    if (!grip) return;
    const Grip held = *grip; // choosing may redraw everything
    Q_EMIT chosen(text(held.wire));
    grip = held;
}

void WirePicture::mouseMoveEvent(QMouseEvent* e) {
    if (!grip || !(e->buttons() & Qt::LeftButton)) return;
    if (!grip->moved && (e->position() - grip->from).manhattanLength() < 5) return;
    const Run* run =
        document.solved().figures.wires ? document.solved().figures.wires->harness.find(grip->wire) : nullptr;
    if (!run) return grip.reset();
    grip->moved = true;
    setCursor(Qt::SizeAllCursor);
    const PlateScale scale = scaleNow();
    const QPointF by = scale.back(e->position()) - scale.back(grip->from); // [m]
    const auto snap = [](double metres) { return pathGrid * std::round(metres / pathGrid); };
    grip->path = movePiece(run->path, grip->piece, grip->share, snap(by.x()), snap(by.y()));
    update();
}

void WirePicture::mouseReleaseEvent(QMouseEvent*) {
    unsetCursor();
    if (!grip) return;
    const Grip held = *std::exchange(grip, std::nullopt);
    if (!held.moved || !document.solved().figures.wires) return;
    if (const Run* run = document.solved().figures.wires->harness.find(held.wire))
        edit(movePath(document.build(), *run, held.path));
    update();
}

void WirePicture::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Escape || !grip) return QWidget::keyPressEvent(e);
    grip.reset();
    unsetCursor();
    update();
}

void WirePicture::contextMenuEvent(QContextMenuEvent* e) {
    const auto at = gripAt(e->pos());
    if (!at) return;
    Q_EMIT chosen(text(at->wire));
    showMenu(at->wire, e->globalPos());
}

void WirePicture::showMenu(const std::string& wire, QPoint at) {
    const auto& wired = document.solved().figures.wires;
    const Run* run = wired ? wired->harness.find(wire) : nullptr;
    if (!run) return;
    QMenu menu(this);
    fillWireMenu(menu, document.build(), wired->harness, *run, [this, touched = *run](const Edit& e, bool unsolders) {
        const auto again = unsolders ? procedure::reopenedBy(document.build(), touched) : std::vector<LogEntry>{};
        edit(e);
        for (const LogEntry& entry : again) document.log(entry);
        if (!again.empty())
            Q_EMIT said(QString("First Power begins again at \"%1\": a wire was opened.")
                            .arg(QString::fromUtf8(procedure::stageName(again.front().stage).data())),
                        false);
    });
    menu.exec(at);
}

} // namespace ember::app
