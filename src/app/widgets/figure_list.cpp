#include "figure_list.h"

#include "app/theme/theme.h"

#include <QPainter>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {
constexpr int figureHeight = 18;
}

FigureList::FigureList(const QString& called, QWidget* parent) : QWidget(parent) {
    setAccessibleName(called);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void FigureList::show(std::vector<Row> next) {
    if (next == rows) return;
    const bool resized = next.size() != rows.size();
    rows = std::move(next);
    setAccessibleDescription(text());
    if (resized) updateGeometry();
    update();
}

QString FigureList::text() const {
    QString out;
    for (const Row& r : rows) out += r.what + " " + r.value + (r.beside.isEmpty() ? "" : " (" + r.beside + ")") + "\n";
    return out;
}

QSize FigureList::sizeHint() const {
    return {240, static_cast<int>(rows.size()) * figureHeight};
}

void FigureList::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const QFontMetrics small(theme::figures(Size::Small));
    int beside = 0;
    for (const Row& r : rows)
        if (!r.beside.isEmpty()) beside = std::max(beside, small.horizontalAdvance(r.beside) + 10);
    const int right = width() - beside;
    int y = 0;
    for (const Row& r : rows) {
        const QRect line(0, y, width(), figureHeight);
        p.setFont(theme::figures(Size::Text));
        p.setPen(theme::color(Role::Bone));
        p.drawText(line.adjusted(0, 0, right - width(), 0), Qt::AlignRight | Qt::AlignVCenter, r.value);
        const int taken = p.fontMetrics().horizontalAdvance(r.value);
        p.setFont(theme::figures(Size::Small));
        p.setPen(theme::color(Role::Slate));
        if (!r.beside.isEmpty()) p.drawText(line, Qt::AlignRight | Qt::AlignVCenter, r.beside);
        p.setFont(theme::text(Size::Text));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(r.what, Qt::ElideRight, right - taken - 8));
        y += figureHeight;
    }
}

} // namespace ember::app
