#include "wiring_pdf.h"

#include "app/theme/paper.h"
#include "app/widgets/words.h"
#include "core/chassis/assembly.h"
#include "core/chassis/layout_edits.h"
#include "core/wires/continuity.h"

#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>

#include <cmath>

namespace ember::app {

using namespace wires;

namespace {

constexpr double pageWidth = 210, pageHeight = 297, pageMargin = 12; // [mm]
constexpr int dotsPerInch = 600;

QFont fontOf(double millimetres, bool bold = false) {
    QFont font("B612");
    font.setPixelSize(std::max(1, static_cast<int>(std::lround(10 * millimetres)))); // drawn at a tenth
    font.setBold(bold);
    return font;
}

/// Text in millimetres: letters have no fractions of a pixel, so that they are drawn ten times as large.
void write(QPainter& p, const QRectF& box, int flags, const QString& words, double size, bool bold = false) {
    p.save();
    p.scale(0.1, 0.1);
    p.setFont(fontOf(size, bold));
    p.drawText(QRectF(box.topLeft() * 10, box.size() * 10), flags, words);
    p.restore();
}

/// Parts and every wire of one chassis faint, one wire bold, seen from where it is wired: the front is at the bottom;
/// from below left and right change sides.
void drawPlate(QPainter& p, const QRectF& box, const Build& b, const Harness& h, const Run& lit, Face plate) {
    const chassis::Frame top = chassis::frameOf(b.chassis, plate);
    const double scale = std::min(box.width() / top.width, box.height() / top.height);
    const QPointF corner(box.center().x() - top.width * scale / 2, box.center().y() + top.height * scale / 2);
    const bool below = chassis::wiredFromBelow(b.chassis);
    const auto at = [&](double x, double y) {
        return QPointF(corner.x() + (below ? top.width - x : x) * scale, corner.y() - y * scale);
    };
    p.setPen(QPen(Qt::black, 0.2));
    p.drawRect(QRectF(at(top.width, top.height), at(0, 0)).normalized());
    p.setPen(QPen(theme::paperGrey, 0.15));
    for (const PlacedPart& part : b.chassis.parts) {
        if (isLower(part.face) != isLower(plate)) continue;
        const chassis::Vector place = chassis::frameOf(b.chassis, part).origin;
        const QPointF c = at(place.x(), place.y());
        p.drawEllipse(c, 0.8, 0.8);
        write(p, QRectF(c.x() + 1, c.y() - 1.4, 14, 2.8), Qt::AlignLeft | Qt::AlignVCenter, text(chassis::tagOf(part)),
              1.9);
    }
    const auto draw = [&](const Run& r) {
        for (const auto& piece : piecesUnder(b.chassis, isLower(plate), r.path)) {
            QPolygonF way;
            for (const Vector& v : piece) way << at(v.x(), v.y());
            p.drawPolyline(way);
        }
    };
    p.setPen(QPen(theme::paperPaleGrey, 0.15));
    for (const Run& r : h.runs) draw(r);
    p.setPen(QPen(Qt::black, 0.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    draw(lit);
    for (const auto& piece : piecesUnder(b.chassis, isLower(plate), lit.path))
        for (const Vector* end : {&piece.front(), &piece.back()}) {
            const bool own = *end == lit.path.front() || *end == lit.path.back(); // else it goes to the other chassis
            p.setBrush(own ? Qt::black : Qt::white);
            p.drawEllipse(at(end->x(), end->y()), own ? 0.9 : 1.2, own ? 0.9 : 1.2);
        }
    p.setBrush(Qt::NoBrush);
}

/// Both chassis of a tower beside each other where the wire goes from one to the other.
void drawRun(QPainter& p, const QRectF& box, const Build& b, const Harness& h, const Run& lit) {
    std::vector<Face> plates;
    for (const Face plate : plateFaces)
        if (!piecesUnder(b.chassis, isLower(plate), lit.path).empty()) plates.push_back(plate);
    const double each = box.width() / static_cast<double>(std::max<std::size_t>(1, plates.size()));
    for (std::size_t k = 0; k < plates.size(); ++k) {
        QRectF part(box.x() + static_cast<double>(k) * each, box.y(), each - (plates.size() > 1 ? 2 : 0), box.height());
        if (chassis::isTower(b.chassis)) {
            p.setPen(Qt::black);
            write(p, QRectF(part.x(), part.bottom() - 3, part.width(), 3), Qt::AlignCenter,
                  isLower(plates[k]) ? "lower chassis" : "upper chassis", 2.2);
            part.setBottom(part.bottom() - 3.5);
        }
        drawPlate(p, part, b, h, lit, plates[k]);
    }
}

QString ohms(double value) {
    return std::isfinite(value) ? text(value, Unit::Ohm) : QString("open");
}

void drawRuns(QPainter& p, QPdfWriter& pdf, const Build& b, const Harness& h, int& pages) {
    constexpr int across = 2, along = 3;
    constexpr double width = (pageWidth - 2 * pageMargin) / across, height = (pageHeight - 2 * pageMargin) / along,
                     words = 20;
    const ContinuityNetwork network(b, h);
    for (std::size_t k = 0; k < h.runs.size(); ++k) {
        const Run& r = h.runs[k];
        const auto place = static_cast<int>(k) % (across * along);
        if (place == 0 && pages++ > 0) pdf.newPage();
        const QRectF box(pageMargin + place % across * width, pageMargin + place / across * height, width - 4,
                         height - 4);
        if (!r.path.empty()) drawRun(p, box.adjusted(0, words, 0, 0), b, h, r);
        p.setPen(Qt::black);
        write(p, QRectF(box.x(), box.y(), box.width(), 5), Qt::AlignLeft | Qt::AlignVCenter,
              QString("%1  %2 to %3").arg(k + 1).arg(text(spoken(r.wire.from)), text(spoken(r.wire.to))), 3.4, true);
        QString more = QString("%1, %2 mm², cut %3 mm, strip %4 mm")
                           .arg(text(r.wire.colour))
                           .arg(r.wire.area * 1e6, 0, 'g', 3)
                           .arg(r.length * 1e3, 0, 'f', 0)
                           .arg(strip * 1e3, 0, 'f', 0);
        if (r.pair() && !r.wire.straight) more += QString(", twisted %1 mm a turn").arg(r.wire.pitch * 1e3, 0, 'f', 0);
        if (r.screened) more += ", screened";
        const Continuity c = network.of(r);
        write(p, QRectF(box.x(), box.y() + 5, box.width(), 14), Qt::AlignLeft | Qt::TextWordWrap,
              QString("%1\n%2, joins %3\nohmmeter, all wired, plug and valves out, after reading 0 V: %4 at %5")
                  .arg(more, nameOf(r.kind), text(r.net), ohms(c.ohms), text(spoken(c.at))),
              2.7);
    }
}

void drawLabels(QPainter& p, QPdfWriter& pdf, const Harness& h, int& pages) {
    constexpr double width = 38, height = 14;
    const int across = static_cast<int>((pageWidth - 2 * pageMargin) / width),
              along = static_cast<int>((pageHeight - 2 * pageMargin) / height);
    for (std::size_t k = 0; k < 2 * h.runs.size(); ++k) {
        const int place = static_cast<int>(k) % (across * along);
        if (place == 0 && pages++ > 0) pdf.newPage();
        const QRectF box(pageMargin + place % across * width, pageMargin + place / across * height, width, height);
        const Run& r = h.runs[k / 2];
        const bool first = k % 2 == 0;
        p.setPen(QPen(theme::paperGrey, 0.1, Qt::DashLine));
        p.drawRect(box);
        p.setPen(Qt::black);
        const QRectF inner = box.adjusted(1, 1, -1, -1);
        write(p, inner, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
              QString("%1  %2").arg(k / 2 + 1).arg(text(spoken(first ? r.wire.from : r.wire.to))), 2.8, true);
        write(p, inner, Qt::AlignLeft | Qt::AlignBottom | Qt::TextWordWrap,
              QString("from %1, %2").arg(text(spoken(first ? r.wire.to : r.wire.from)), text(r.wire.colour)), 2.4);
    }
}

} // namespace

Expected<int> writeWiringPdf(const Build& b, const Harness& h, const QString& file) {
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    int pages = 0;
    QPdfWriter pdf(&out);
    pdf.setResolution(dotsPerInch);
    pdf.setPageLayout(QPageLayout(QPageSize(QPageSize::A4), QPageLayout::Portrait, QMarginsF(0, 0, 0, 0)));
    pdf.setTitle(QString("Wiring of %1").arg(text(b.name)));
    QPainter p(&pdf);
    p.scale(dotsPerInch / 25.4, dotsPerInch / 25.4);
    drawRuns(p, pdf, b, h, pages);
    drawLabels(p, pdf, h, pages);
    p.end();
    if (!out.commit()) return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    return pages;
}

} // namespace ember::app
