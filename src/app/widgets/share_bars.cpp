#include "share_bars.h"

#include "app/theme/theme.h"

#include <QPainter>

#include <algorithm>

namespace ember::app {

using theme::Role;

namespace {
constexpr int percentWidth = 46, barHeight = 5, below = 9; // [pixels]
} // namespace

ShareBars::ShareBars(QWidget* parent) : QWidget(parent) {
    setFont(theme::text(theme::Size::Text));
    QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void ShareBars::show(std::vector<Row> to) {
    rows = std::move(to);
    setAccessibleName(inWords().join(", "));
    updateGeometry();
    update();
}

QStringList ShareBars::inWords() const {
    QStringList out;
    for (const Row& r : rows) out << QString("%1: %2 %").arg(r.words).arg(100 * r.share, 0, 'f', 0);
    return out;
}

int ShareBars::wordsHeight(const Row& row, int width) const {
    return fontMetrics()
        .boundingRect(QRect(0, 0, std::max(40, width - percentWidth), 1000), Qt::TextWordWrap, row.words)
        .height();
}

int ShareBars::heightForWidth(int width) const {
    int sum = 0;
    for (const Row& r : rows) sum += wordsHeight(r, width) + barHeight + below + 2;
    return sum;
}

void ShareBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    int y = 0;
    for (const Row& r : rows) {
        const int high = wordsHeight(r, width());
        p.setPen(theme::color(Role::Bone));
        p.drawText(QRect(0, y, width() - percentWidth, high), Qt::TextWordWrap, r.words);
        p.drawText(QRect(width() - percentWidth, y, percentWidth, high), Qt::AlignRight,
                   QString("%1 %").arg(100 * r.share, 0, 'f', 0));
        y += high + 2;
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(Role::Line));
        p.drawRoundedRect(QRectF(0, y, width(), barHeight), 2, 2);
        p.setBrush(theme::color(r.good ? Role::Verdigris : Role::Brass));
        p.drawRoundedRect(QRectF(0, y, std::max(2.0, r.share * width()), barHeight), 2, 2);
        y += barHeight + below;
    }
}

} // namespace ember::app
