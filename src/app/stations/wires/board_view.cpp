#include "board_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/wires/hum.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr double margin = 40, bodyThickness = 15;

} // namespace

BoardView::BoardView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("boardView");
    setAccessibleName("The board from its soldered side");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setToolTip("Drag a part, or one of its ends, to other lugs. Del: off the board; B: under it or above; "
               "double click on a lug: its wire leaves beneath.");
}

void BoardView::show(const wires::BoardFigures& figures) {
    board = figures;
    if (chosen && *chosen >= board.board.parts.size()) chosen.reset();
    update();
}

void BoardView::setJumpering(bool on) {
    jumpering = on;
    jumperFrom = 0;
    update();
}

double BoardView::pitch() const {
    return (width() - 2 * margin) / std::max(1, board.board.columns);
}

/// From below: the first column is at the right.
QPointF BoardView::lugAt(int lug) const {
    const int column = (lug - 1) % board.board.columns, row = (lug - 1) / board.board.columns;
    const double x = width() - margin - (column + 0.5) * pitch(), y = board.board.rows == 1 ? height() / 2.0
                                                                      : row == 0            ? 56
                                                                                            : height() - 56.0;
    return {x, y};
}

int BoardView::lugNear(QPointF at) const {
    int nearest = 0;
    double least = std::max(10.0, 0.6 * pitch());
    for (int lug = 1; lug <= board.board.lugs(); ++lug)
        if (const double d = QLineF(at, lugAt(lug)).length(); d < least) least = d, nearest = lug;
    return nearest;
}

/// An end that is no lug's leaves over the board's rim; several at one lug spread like a fan.
QLineF BoardView::lineOf(const BoardPart& p) const {
    const auto rim = [&](int lug) {
        int before = 0;
        for (const BoardPart& other : board.board.parts) {
            if (&other == &p || other.part == p.part) break;
            before +=
                !other.part.empty() && (other.from == 0 || other.to == 0) && std::max(other.from, other.to) == lug;
        }
        const QPointF at = lugAt(std::max(1, lug));
        const bool strip = board.board.rows == 1, up = strip ? before % 2 == 0 : lug <= board.board.columns;
        const int step = strip ? before / 2 : before;
        return QPointF(at.x() + (step % 2 == 0 ? 1 : -1) * 0.42 * pitch() * ((step + 1) / 2),
                       up ? 12 : height() - 12.0);
    };
    return {p.from > 0 ? lugAt(p.from) : rim(p.to), p.to > 0 ? lugAt(p.to) : rim(p.from)};
}

BoardPart BoardView::dragged(const BoardPart& p) const {
    if (!grip || !grip->moved) return p;
    BoardPart out = p;
    if (grip->what == Grip::What::From) out.from = grip->end;
    if (grip->what == Grip::What::To) out.to = grip->end;
    if (grip->what != Grip::What::Body) return out;
    const int columns = board.board.columns, rows = board.board.rows;
    for (int* lug : {&out.from, &out.to}) {
        if (*lug < 1) continue;
        const int column = (*lug - 1) % columns + grip->column, row = (*lug - 1) / columns + grip->row;
        if (column < 0 || column >= columns || row < 0 || row >= rows) return p; // it would leave the board
        *lug = row * columns + column + 1;
    }
    return out;
}

QString BoardView::wordsOf(const BoardPart& p) const {
    if (p.part.empty() || !document.solved().figures.wires) return {};
    const auto& s = document.solved().figures.wires->harness.terminals.whole.schematic;
    const auto id = s.find(p.part);
    if (!id) return tag(p.part) + " ?";
    if (const auto* r = std::get_if<schematic::Resistance>(&s[*id].element))
        return tag(p.part) + " " + text(r->ohms, Unit::Ohm);
    if (const auto* c = std::get_if<schematic::Capacitance>(&s[*id].element))
        return tag(p.part) + " " + text(c->farads, Unit::Farad);
    return tag(p.part);
}

void BoardView::paintPart(QPainter& p, const BoardPart& part, bool lit) const {
    const QLineF line = lineOf(part);
    QPen lead(theme::color(lit ? Role::Brass : Role::Bone), lit ? 2.2 : 1.5);
    if (part.below) lead.setStyle(Qt::DashLine);
    p.setPen(lead);
    if (part.part.empty()) { // a jumper: bowed, so that it is told from the row
        QPainterPath bow(line.p1());
        const QPointF across(line.dy() / 6, -line.dx() / 6);
        bow.quadTo(line.center() +
                       (std::abs(line.dy()) < 1 ? QPointF(0, line.y1() < height() / 2.0 ? 16 : -16) : across),
                   line.p2());
        p.setBrush(Qt::NoBrush);
        p.drawPath(bow);
        return;
    }
    p.drawLine(line);
    p.save();
    p.translate(line.center());
    double turn = -line.angle();
    if (turn < -90) turn += 180;
    if (turn < -90) turn += 180;
    p.rotate(turn);
    p.setFont(theme::figures(Size::Small));
    const QString words = wordsOf(part);
    const double wide = std::min(line.length() - 10, QFontMetricsF(p.font()).horizontalAdvance(words) + 10);
    const QRectF body(-wide / 2, -bodyThickness / 2, wide, bodyThickness);
    p.setPen(lead);
    p.setBrush(theme::color(Role::Ash));
    p.drawRoundedRect(body, 3, 3);
    p.setPen(theme::color(Role::Bone));
    p.drawText(body, Qt::AlignCenter, words);
    p.restore();
}

void BoardView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double rim = board.board.rows == 1 ? height() / 2.0 - 26 : 30;
    p.setPen(QPen(theme::color(Role::Line), 1));
    p.setBrush(theme::color(Role::Soot));
    p.drawRect(QRectF(margin - 6, rim, width() - 2 * margin + 12, height() - 2 * rim));
    for (std::size_t k = 0; k < board.board.parts.size(); ++k) {
        const bool held = chosen && *chosen == k;
        paintPart(p, held ? dragged(board.board.parts[k]) : board.board.parts[k], held);
    }
    p.setFont(theme::figures(Size::Small));
    for (const wires::LugFigures& l : board.lugs) {
        const QPointF at = lugAt(l.lug);
        const bool wrong = l.nets.size() > 1,
                   beneath = std::any_of(board.board.beneath.begin(), board.board.beneath.end(),
                                         [&](const BeneathLug&x) { return x.lug == l.lug; });
        p.setPen(QPen(theme::color(wrong                 ? Role::Ember
                                   : l.lug == jumperFrom ? Role::Brass
                                                         : Role::Bone),
                      wrong ? 2.4 : 1.4));
        p.setBrush(l.ends.empty() ? theme::color(Role::Soot) : theme::color(wrong ? Role::Ember : Role::Slate));
        if (beneath)
            p.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10));
        else
            p.drawEllipse(at, 5, 5);
        p.setPen(theme::color(Role::BoneDim));
        const bool up = board.board.rows == 1 || l.lug <= board.board.columns;
        const QRectF number = board.board.rows == 1 ? QRectF(at.x() + 4, at.y() + 4, 20, 14)
                                                    : QRectF(at.x() - 20, up ? at.y() - 24 : at.y() + 8, 40, 16);
        p.drawText(number, Qt::AlignCenter, QString::number(l.lug));
    }
}

void BoardView::become(const QString& name, const std::function<void(Board&)>& change) {
    Board to = board.board;
    change(to);
    Q_EMIT changed(name, to);
}

void BoardView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    setFocus();
    const int lug = lugNear(e->position());
    if (jumpering) {
        if (lug > 0 && jumperFrom > 0 && lug != jumperFrom) {
            const int from = std::exchange(jumperFrom, 0);
            become(QString("jumper from lug %1 to %2").arg(from).arg(lug), [&](Board& b) {
                BoardPart jumper;
                jumper.from = from, jumper.to = lug;
                b.parts.push_back(jumper);
            });
        } else {
            jumperFrom = lug;
        }
        return update();
    }
    chosen.reset();
    grip.reset();
    double least = 12; // [pixels]
    for (std::size_t k = 0; k < board.board.parts.size(); ++k) {
        const QLineF line = lineOf(board.board.parts[k]);
        const QPointF way = line.p2() - line.p1(), to = e->position() - line.p1();
        const double square = QPointF::dotProduct(way, way);
        const double share = square > 0 ? std::clamp(QPointF::dotProduct(to, way) / square, 0.0, 1.0) : 0;
        const QPointF off = to - share * way;
        if (const double d = std::hypot(off.x(), off.y()); d < least) {
            least = d;
            chosen = k;
            grip = Grip{share < 0.18 ? Grip::What::From : share > 0.82 ? Grip::What::To : Grip::What::Body,
                        e->position(),
                        0,
                        0,
                        0,
                        false};
        }
    }
    update();
}

void BoardView::mouseMoveEvent(QMouseEvent* e) {
    if (!grip || !chosen || !(e->buttons() & Qt::LeftButton)) return;
    const QPointF by = e->position() - grip->from;
    if (!grip->moved && by.manhattanLength() < 6) return;
    grip->moved = true;
    const BoardPart& part = board.board.parts[*chosen];
    if (grip->what == Grip::What::Body) {
        grip->column = -static_cast<int>(std::round(by.x() / pitch()));
        grip->row = board.board.rows == 1 ? 0 : static_cast<int>(std::round(by.y() / (height() - 112.0)));
    } else {
        const int own = grip->what == Grip::What::From ? part.from : part.to,
                  other = grip->what == Grip::What::From ? part.to : part.from, lug = lugNear(e->position());
        grip->end = lug > 0 && lug != other ? lug : own;
    }
    update();
}

void BoardView::mouseReleaseEvent(QMouseEvent*) {
    if (!grip || !chosen) return;
    const BoardPart to = dragged(board.board.parts[*chosen]);
    const bool moved = grip->moved;
    grip.reset();
    const BoardPart& was = board.board.parts[*chosen];
    if (moved && (to.from != was.from || to.to != was.to))
        become((was.part.empty() ? QString("jumper") : tag(was.part)) + " to other lugs",
               [&, at = *chosen](Board& b) { b.parts[at] = to; });
    update();
}

void BoardView::mouseDoubleClickEvent(QMouseEvent* e) {
    const int lug = lugNear(e->position());
    if (lug < 1 || jumpering) return;
    become(QString("wire at lug %1").arg(lug), [&](Board& b) {
        const auto at =
            std::find_if(b.beneath.begin(), b.beneath.end(), [&](const BeneathLug& x) { return x.lug == lug; });
        if (at == b.beneath.end())
            b.beneath.push_back({{}, lug});
        else
            b.beneath.erase(at);
    });
}

void BoardView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && (grip || jumperFrom > 0)) {
        grip.reset();
        jumperFrom = 0;
        return update();
    }
    if (!chosen) return QWidget::keyPressEvent(e);
    const std::size_t at = *chosen;
    const QString name = board.board.parts[at].part.empty() ? QString("jumper") : tag(board.board.parts[at].part);
    if (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace) {
        chosen.reset();
        return become(name + " off the board",
                      [&](Board& b) { b.parts.erase(b.parts.begin() + static_cast<std::ptrdiff_t>(at)); });
    }
    if (e->key() == Qt::Key_B)
        return become(name + (board.board.parts[at].below ? " above the board" : " under the board"),
                      [&](Board& b) { b.parts[at].below = !b.parts[at].below; });
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        grip = Grip{Grip::What::Body, {}, e->key() == Qt::Key_Left ? 1 : -1, 0, 0, true};
        return mouseReleaseEvent(nullptr);
    }
    QWidget::keyPressEvent(e);
}

} // namespace ember::app
