#include "turned_picture.h"

namespace ember::app {

TurnedPicture::TurnedPicture(QWidget* of, std::function<std::vector<Piece>()> what)
    : QObject(of),
      widget(of),
      whatItIs(std::move(what)) {
    turn.setInterval(0);
    connect(&turn, &Timer::timeout, this, [this] {
        drawPiece();
        if (next < pieces.size()) return;
        turn.stop();
        whole = std::exchange(coming, {});
        wholeIn = theme::mode();
        widget->update();
    });
}

void TurnedPicture::renew() {
    if (!widget->isVisible()) { // nobody sees it: drawn when somebody does
        wholeIn.reset();
        turn.stop();
        return;
    }
    begin();
    turn.start();
}

void TurnedPicture::begin() {
    pieces = whatItIs();
    next = 0;
    const qreal ratio = widget->devicePixelRatioF();
    coming = QPixmap(widget->size() * ratio);
    coming.setDevicePixelRatio(ratio);
}

void TurnedPicture::drawPiece() {
    if (!fits(coming)) begin(); // resized meanwhile
    if (next >= pieces.size()) return;
    QPainter p(&coming);
    p.setRenderHint(QPainter::Antialiasing);
    pieces[next++](p);
}

bool TurnedPicture::fits(const QPixmap& picture) const {
    return picture.size() == widget->size() * widget->devicePixelRatioF();
}

void TurnedPicture::paint(QPainter& painter) {
    if (!fits(whole) || wholeIn != theme::mode()) {
        turn.stop();
        begin();
        while (next < pieces.size()) drawPiece();
        whole = std::exchange(coming, {});
        wholeIn = theme::mode();
    }
    painter.drawPixmap(0, 0, whole);
}

} // namespace ember::app
