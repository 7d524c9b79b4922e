#include "template_pdf.h"

#include "app/widgets/words.h"
#include "core/chassis/handling.h"
#include "core/chassis/layout_edits.h"

#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>

#include <cmath>

namespace ember::app {

using namespace chassis;

namespace {

constexpr double sheetWidth = 297, sheetHeight = 210, margin = 12, overlap = 10; // [mm]

/// Everything of the face, in millimetres from its left lower corner, y up.
void drawFace(QPainter& p, const Chassis& c, Face face) {
    const Frame f = frameOf(c, face);
    p.setPen(QPen(Qt::black, 0.25));
    p.drawRect(QRectF(0, 0, f.width * 1e3, f.height * 1e3));
    for (const ListedHole& h : holesOf(c, face)) {
        QPolygonF shape;
        for (const auto& [x, y] : outlineOf(h, 64)) shape << QPointF(x * 1e3, y * 1e3);
        p.setPen(QPen(Qt::black, 0.2, h.given ? Qt::DashLine : Qt::SolidLine));
        p.drawPolygon(shape);
        p.setPen(QPen(Qt::black, 0.12));
        const QPointF at(h.x * 1e3, h.y * 1e3);
        p.drawLine(at - QPointF(2.5, 0), at + QPointF(2.5, 0));
        p.drawLine(at - QPointF(0, 2.5), at + QPointF(0, 2.5));
    }
    p.save();
    p.scale(1, -1);
    QFont font("B612");
    font.setPointSizeF(1);
    font.setPixelSize(3);
    p.setFont(font);
    for (const PlacedPart& part : c.parts)
        if (part.face == face) p.drawText(QPointF(part.x * 1e3 + 3, -part.y * 1e3 - 3), text(tagOf(part)));
    p.restore();
}

} // namespace

Expected<int> writeTemplatePdf(const Chassis& c, Face face, const QString& file) {
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    const Frame f = frameOf(c, face);
    const double w = f.width * 1e3, h = f.height * 1e3;
    const double usableW = sheetWidth - 2 * margin, usableH = sheetHeight - 2 * margin - 12; // the bar stands below
    const int across = std::max(1, static_cast<int>(std::ceil((w - overlap) / (usableW - overlap))));
    const int along = std::max(1, static_cast<int>(std::ceil((h - overlap) / (usableH - overlap))));
    QPdfWriter pdf(&out);
    pdf.setResolution(1200);
    pdf.setPageLayout(QPageLayout(QPageSize(QPageSize::A4), QPageLayout::Landscape, QMarginsF(0, 0, 0, 0)));
    pdf.setTitle(QString("Template: %1").arg(text(std::string(faceName(face)))));
    QPainter p(&pdf);
    const double dots = 1200 / 25.4;
    for (int row = 0; row < along; ++row)
        for (int column = 0; column < across; ++column) {
            if (row || column) pdf.newPage();
            const double left = column * (usableW - overlap),
                         low = row * (usableH - overlap); // of this sheet on the face [mm]
            p.resetTransform();
            p.scale(dots, dots);
            p.save();
            p.setClipRect(QRectF(margin, margin, usableW, usableH));
            p.translate(margin - left, margin + usableH + low);
            p.scale(1, -1);
            drawFace(p, c, face);
            p.restore();
            // Registration: corners of the overlap, on both sheets at the same place of the face.
            p.setPen(QPen(Qt::black, 0.15));
            for (const double x : {margin, margin + overlap, margin + usableW - overlap, margin + usableW})
                for (const double y : {margin, margin + usableH}) {
                    p.drawLine(QPointF(x - 1.5, y), QPointF(x + 1.5, y));
                    p.drawLine(QPointF(x, y - 1.5), QPointF(x, y + 1.5));
                }
            const double barY = sheetHeight - margin;
            p.setPen(QPen(Qt::black, 0.3));
            p.drawLine(QPointF(margin, barY), QPointF(margin + 100, barY));
            for (const double x : {0.0, 50.0, 100.0})
                p.drawLine(QPointF(margin + x, barY - 2), QPointF(margin + x, barY + 2));
            QFont font("B612");
            font.setPixelSize(3);
            p.setFont(font);
            p.drawText(QPointF(margin + 104, barY + 1),
                       QString("100 mm: measure it before drilling. %1, seen from outside; sheet %2 of %3")
                           .arg(text(std::string(faceName(face))))
                           .arg(row * across + column + 1)
                           .arg(across * along));
            p.drawText(QPointF(margin, barY + 6), text(chassis::handlingCaution(c)));
        }
    p.end();
    if (!out.commit()) return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    return across * along;
}

} // namespace ember::app
