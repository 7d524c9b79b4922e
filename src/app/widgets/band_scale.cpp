#include "band_scale.h"

#include "app/theme/theme.h"
#include "words.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;

BandScale::BandScale(QWidget* parent) : QWidget(parent) {
    setFixedHeight(54);
    setAccessibleName("Expected band");
}

void BandScale::show(double l, double h, std::optional<double> above, std::optional<double> below,
                     std::optional<double> r, Unit u) {
    low = l;
    high = h;
    stop = above;
    least = below;
    reading = r;
    unit = u;
    any = std::isfinite(l);
    update();
}

void BandScale::paintEvent(QPaintEvent*) {
    if (!any) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double top = std::isfinite(high) ? high : std::max(2 * low, low + 1e-9);
    const double span = std::max({top - low, stop ? *stop - low : 0.0, 1e-9});
    double from = low - 0.9 * std::min(span, 3 * (top - low) + 1e-9),
           to = (stop ? std::max(*stop, top) : top) + 0.35 * span;
    if (low >= 0) from = std::max(0.0, from);
    const auto x = [&](double v) { return 6 + (width() - 12) * std::clamp((v - from) / (to - from), 0.0, 1.0); };
    const int y = 20, h = 9;
    p.setPen(Qt::NoPen);
    p.setBrush(theme::color(Role::Line));
    p.drawRoundedRect(QRectF(6, y, width() - 12, h), 4, 4);
    p.setBrush(theme::color(Role::Verdigris));
    p.drawRoundedRect(QRectF(x(low), y, std::max(3.0, x(top) - x(low)), h), 4, 4);
    p.setFont(theme::figures(theme::Size::Small));
    const auto label = [&](double v, Role role, const QString& before, Qt::Alignment align) {
        p.setPen(theme::color(role));
        const double at = x(v);
        const QString words = before + text(v, unit);
        const double wide = p.fontMetrics().horizontalAdvance(words) + 2;
        // Beside its mark, and never beyond the scale's own ends.
        const double left =
            std::clamp(align & Qt::AlignRight ? at - 2 - wide : at + 2, 0.0, std::max(0.0, width() - wide));
        p.drawText(QRectF(left, y + h + 4, wide, 16), Qt::AlignLeft, words);
    };
    if (stop) {
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(Role::Stop));
        p.drawRoundedRect(QRectF(x(*stop), y, width() - 6 - x(*stop), h), 4, 4);
        label(*stop, Role::Stop, "stop ", Qt::AlignLeft);
    }
    if (least) {
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(Role::Stop));
        p.drawRoundedRect(QRectF(6, y, std::max(0.0, x(*least) - 6), h), 4, 4);
    }
    label(low, least && *least >= low ? Role::Stop : Role::Verdigris, least && *least >= low ? "stop below " : "",
          Qt::AlignRight);
    if (std::isfinite(high)) {
        if (!stop || x(*stop) - x(high) > 70) label(high, Role::Verdigris, "", Qt::AlignLeft);
    }
    if (reading) {
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(Role::Bone));
        const double at = x(*reading);
        const QPointF mark[3] = {{at, y - 2.0}, {at - 7, y - 13.0}, {at + 7, y - 13.0}};
        p.drawPolygon(mark, 3);
    }
}

} // namespace ember::app
