#include "underside_picture.h"

#include "underside_paint.h"
#include "wire_menu.h"

#include "app/stations/plate_picture.h"
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
#include <QShortcut>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember::app {

using namespace wires;
using theme::Role;
using theme::Size;

UndersidePicture::UndersidePicture(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("wirePicture");
    setAccessibleName("The chassis with its wires, from the side that is wired");
    setToolTip(
        "Click selects a wire, dragging moves a piece of its route. The wheel zooms, dragging beside the wires moves "
        "the picture, Ctrl+0 shows all of it");
    setFocusPolicy(Qt::ClickFocus);
    storey = new QPushButton("lower chassis", this);
    storey->setObjectName("wiresOfLower");
    storey->setProperty("tab", true);
    storey->setCheckable(true);
    storey->setToolTip("The wires of the tower's lower chassis");
    connect(storey, &QPushButton::toggled, this, &UndersidePicture::renew);
    connect(&document, &Document::figuresChanged, this, &UndersidePicture::renew);
    auto* all = new QShortcut(QKeySequence("Ctrl+0"), this);
    all->setContext(Qt::WidgetShortcut);
    connect(all, &QShortcut::activated, this, &UndersidePicture::showAll);
    renew();
}

void UndersidePicture::setKinds(std::set<RunKind> which) {
    kinds = std::move(which);
    renew();
}
void UndersidePicture::setLit(std::set<std::string> ids) {
    lit = std::move(ids);
    // One that lies wholly under the other chassis is shown there.
    const Document::Solved& solved = document.solved();
    if (solved.figures.wires && lit.size() == 1 && chassis::isTower(solved.build.chassis))
        if (const Run* run = solved.figures.wires->harness.find(*lit.begin()))
            if (piecesUnder(solved.build.chassis, lower(), run->path).empty()) storey->setChecked(!storey->isChecked());
    renew();
}
void UndersidePicture::setLooks(std::map<std::string, Look> to) {
    looks = std::move(to);
    renew();
}
void UndersidePicture::setMarks(std::map<std::size_t, Mark> to) {
    marks = std::move(to);
    renew();
}

PlateScale UndersidePicture::scaleNow() const {
    return sight.scale();
}

void UndersidePicture::laySight() {
    const Chassis& c = document.solved().build.chassis;
    const double left = quiet ? 8 : 46, around = quiet ? 8 : 26;
    sight.lay({c.width * 1e3, c.depth * 1e3}, QRectF(rect()).adjusted(left, around, -around, -around),
              chassis::wiredFromBelow(c));
}

void UndersidePicture::setQuiet() {
    quiet = true;
    setFocusPolicy(Qt::NoFocus);
    setToolTip("The wheel zooms, dragging moves the picture, Ctrl+0 shows all of it");
    renew();
}

bool UndersidePicture::lower() const {
    return storey->isChecked() && chassis::isTower(document.solved().build.chassis);
}

std::vector<UndersidePicture::Piece> UndersidePicture::piecesOf(const Run& run, const PlateScale& scale) const {
    std::vector<Piece> out;
    for (const auto& under : piecesUnder(document.solved().build.chassis, lower(), run.path)) {
        Piece& piece = out.emplace_back();
        for (const Vector& v : under) piece.line << scale.at(v.x(), v.y());
        piece.begins = under.front() == run.path.front();
        piece.ends = under.back() == run.path.back();
    }
    return out;
}

void UndersidePicture::renew() {
    laySight();
    storey->setVisible(chassis::isTower(document.solved().build.chassis));
    redraw();
}

void UndersidePicture::redraw() {
    kept = {};
    update();
}

void UndersidePicture::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    storey->adjustSize();
    storey->move(width() - storey->width(), 0);
    renew();
    lookAtCallouts();
}

void UndersidePicture::changeEvent(QEvent* e) {
    kept = {}; // another theme, another font
    QWidget::changeEvent(e);
}

void UndersidePicture::paintEvent(QPaintEvent*) {
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

void UndersidePicture::draw(QPainter& p) const {
    p.setRenderHint(QPainter::Antialiasing);
    const Document::Solved& solved = document.solved();
    p.setClipRect(rect());
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
    const UndersidePaint under(p, solved, scale, lower());
    under.parts();
    drawRuns(p, scale);
    under.ends();
    under.names();
    drawMarks(p, scale);
    drawCallouts(p, scale);
}

std::optional<UndersidePicture::Grip> UndersidePicture::gripAt(QPointF at) const {
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

void UndersidePicture::edit(const Edit& e) {
    if (auto done = document.edit(e); !done) Q_EMIT said(text(done.problem().text()), false);
}

void UndersidePicture::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    grip = quiet ? std::nullopt : gripAt(e->position());
    if (!grip) {
        panned = e->position();
        return;
    }
    const Grip held = *grip; // choosing may redraw everything
    Q_EMIT chosen(text(held.wire));
    grip = held;
}

void UndersidePicture::mouseMoveEvent(QMouseEvent* e) {
    if (panned && e->buttons() & Qt::LeftButton) {
        sight.panBy(e->position() - *std::exchange(panned, e->position()));
        redraw();
    }
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

void UndersidePicture::mouseReleaseEvent(QMouseEvent*) {
    unsetCursor();
    panned.reset();
    if (!grip) return;
    const Grip held = *std::exchange(grip, std::nullopt);
    if (!held.moved || !document.solved().figures.wires) return;
    if (const Run* run = document.solved().figures.wires->harness.find(held.wire))
        edit(movePath(document.build(), *run, held.path));
    update();
}

void UndersidePicture::wheelEvent(QWheelEvent* e) {
    sight.zoomBy(std::pow(1.2, e->angleDelta().y() / 120.0), e->position());
    redraw();
}

void UndersidePicture::showAll() {
    sight.fit();
    redraw();
}

void UndersidePicture::keyPressEvent(QKeyEvent* e) {
    const QPointF middle = QRectF(rect()).center();
    constexpr double by = 40; // [pixels]
    switch (e->key()) {
    case Qt::Key_Plus: sight.zoomBy(1.2, middle); return redraw();
    case Qt::Key_Minus: sight.zoomBy(1 / 1.2, middle); return redraw();
    case Qt::Key_Left: sight.panBy({by, 0}); return redraw();
    case Qt::Key_Right: sight.panBy({-by, 0}); return redraw();
    case Qt::Key_Up: sight.panBy({0, by}); return redraw();
    case Qt::Key_Down: sight.panBy({0, -by}); return redraw();
    default: break;
    }
    if (e->key() != Qt::Key_Escape || !grip) return QWidget::keyPressEvent(e);
    grip.reset();
    unsetCursor();
    update();
}

void UndersidePicture::contextMenuEvent(QContextMenuEvent* e) {
    if (quiet) return;
    const auto at = gripAt(e->pos());
    if (!at) return;
    Q_EMIT chosen(text(at->wire));
    showMenu(at->wire, e->globalPos());
}

void UndersidePicture::showMenu(const std::string& wire, QPoint at) {
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
