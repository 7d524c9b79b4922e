#include "side_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/chassis/tower.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember::app {

using namespace chassis;
using theme::Role;

SideView::SideView(PlateView& p, QWidget* parent) : QWidget(parent), plate(p) {
    setMinimumHeight(104);
    setAccessibleName("The chassis from the front, with heights");
    connect(&plate, &PlateView::layoutChanged, this, qOverload<>(&QWidget::update));
    connect(&plate, &PlateView::selectionChanged, this, qOverload<>(&QWidget::update));
}

void SideView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::color(Role::Soot));
    const Chassis& c = plate.shown();
    const LayoutFigures& layout = plate.layout();
    double tall = std::max(0.06, c.lid);
    for (const PlacedBody& b : layout.assembly.bodies) tall = std::max(tall, b.solid.highest());
    const double room = 18, left = 48;
    const double scale = std::min((height() - 2 * room) / (tall + depthBelow(c)), (width() - left - 60) / c.width);
    const double x0 = left + ((width() - left - 60) - scale * c.width) / 2, y0 = room + scale * tall;
    const auto x = [&](double m) { return x0 + scale * m; };
    const auto y = [&](double m) { return y0 - scale * m; };
    // Back to front, so that what stands in front covers.
    std::vector<std::size_t> order(layout.assembly.bodies.size());
    for (std::size_t k = 0; k < order.size(); ++k) order[k] = k;
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return layout.assembly.bodies[a].solid.centre.y() > layout.assembly.bodies[b].solid.centre.y();
    });
    for (const std::size_t k : order) {
        const PlacedBody& b = layout.assembly.bodies[k];
        const Solid& s = b.solid;
        const double l = s.support(-Vector::UnitX()).x(), r = s.support(Vector::UnitX()).x();
        const bool chosen =
            std::find(plate.selection().begin(), plate.selection().end(), b.part) != plate.selection().end();
        const QRectF box(QPointF(x(l), y(s.highest())), QPointF(x(r), y(s.lowest())));
        p.setPen(QPen(theme::color(chosen ? Role::Brass : Role::BoneDim), chosen ? 1.8 : 1));
        p.setBrush(theme::color(Role::AshRaised));
        const bool glass = c.parts[b.part].kind == "socket" && b.outside;
        p.drawRoundedRect(box, glass ? box.width() / 3 : 1.5, glass ? box.width() / 3 : 1.5);
    }
    p.setBrush(Qt::NoBrush);
    for (const Face face : plateFaces) {
        if (isLower(face) && !isTower(c)) continue;
        const double top = plateHeight(c, face), low = top - wallsBelow(c);
        p.setPen(QPen(theme::color(Role::Bone), 1.8));
        p.drawLine(QPointF(x(0), y(top)), QPointF(x(c.width), y(top)));
        p.setPen(QPen(theme::color(Role::BoneDim), 1));
        if (c.form == ChassisForm::Plate) continue; // no walls
        for (const double side : {0.0, c.width}) p.drawLine(QPointF(x(side), y(top)), QPointF(x(side), y(low)));
    }
    for (const Pillar& pillar : pillarsOf(c))
        for (const double side : {-pillarDiameter / 2, pillarDiameter / 2})
            p.drawLine(QPointF(x(pillar.x + side), y(-wallsBelow(c))), QPointF(x(pillar.x + side), y(-lowerBy(c))));
    p.setFont(theme::figures(theme::Size::Small));
    const auto mark = [&](double at, const QString& words, Qt::PenStyle style) {
        p.setPen(QPen(theme::color(Role::BoneFaint), 1, style));
        p.drawLine(QPointF(x(0), y(at)), QPointF(x(c.width), y(at)));
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(x(c.width) + 6, y(at) - 8, 90, 16), Qt::AlignLeft | Qt::AlignVCenter, words);
    };
    if (c.lid > 0) mark(c.lid, QString("lid %1").arg(c.lid * 1e3, 0, 'f', 0), Qt::DashLine);
    mark(-depthBelow(c), QString("%1 mm").arg(depthBelow(c) * 1e3, 0, 'f', 0), Qt::SolidLine);
    if (c.lid <= 0) {
        double top = 0;
        for (const PlacedBody& b : layout.assembly.bodies) top = std::max(top, b.solid.highest());
        p.drawText(QRectF(x(c.width) + 6, y(top) - 8, 90, 16), Qt::AlignLeft | Qt::AlignVCenter,
                   QString("%1 mm").arg(top * 1e3, 0, 'f', 0));
    }
    // The weight's line.
    const double mx = x(layout.massCentre.x());
    p.setPen(QPen(theme::color(Role::Brass), 1, Qt::DotLine));
    p.drawLine(QPointF(mx, y(-depthBelow(c))), QPointF(mx, y(-depthBelow(c)) + 10));
    p.drawText(QRectF(mx - 70, y(-depthBelow(c)) + 3, 140, 14), Qt::AlignCenter,
               QString("%1 kg").arg(layout.mass, 0, 'f', 1));
}

} // namespace ember::app
