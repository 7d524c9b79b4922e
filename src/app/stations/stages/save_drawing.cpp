// The circuit on a sheet of paper, or as SVG.
#include "path_picture.h"
#include "stages_station.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/report/circuit_part.h"

#include <QFileDialog>
#include <QFontMetricsF>
#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>

#include <algorithm>

namespace ember::app {

void StagesStation::saveDrawing() {
    const Build& b = document.build();
    const QString file = QFileDialog::getSaveFileName(
        this, "Save the drawing", QString("%1 %2.pdf").arg(text(b.name), text(b.channels[path->channel()].name)),
        "PDF (*.pdf);;SVG (*.svg)");
    if (file.isEmpty()) return;
    const auto done = writeDrawing(file);
    Q_EMIT said(done ? "Written: " + file : text(done.problem().text()), done.ok());
}

namespace {

QPointF point(const drawing::Point& p) {
    return {p.x, p.y};
}

/// Black on white, a unit a millimetre.
void paint(QPainter& p, const drawing::Drawing& d) {
    const auto pen = [](double width) { return QPen(Qt::black, width); };
    p.setPen(pen(0.3));
    for (const drawing::Wire& w : d.wires)
        for (std::size_t k = 1; k < w.points.size(); ++k) p.drawLine(point(w.points[k - 1]), point(w.points[k]));
    for (const drawing::Line& l : d.lines) {
        QPolygonF line;
        for (const drawing::Point& q : l.points) line << point(q);
        p.setPen(pen(l.width));
        p.setBrush(l.filled ? Qt::white : Qt::transparent);
        if (l.closed)
            p.drawPolygon(line);
        else
            p.drawPolyline(line);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(pen(0.35));
    for (const drawing::Ring& r : d.rings) p.drawEllipse(point(r.centre), r.radius, r.radius);
    p.setBrush(Qt::black);
    p.setPen(Qt::NoPen);
    for (const drawing::Point& dot : d.dots) p.drawEllipse(point(dot), 0.6, 0.6);
    p.setPen(Qt::black);
    QFont font = theme::text(theme::Size::Small);
    font.setPixelSize(100); // fonts are whole pixels: a large one, made small
    p.setFont(font);
    const QFontMetricsF metrics(font, p.device());
    for (const drawing::Word& w : d.words) {
        const QString words = text(w.text);
        const double scale =
            std::min(0.8 * w.box.height / 100, w.box.width / std::max(1.0, metrics.horizontalAdvance(words)));
        const auto align = w.align == drawing::Align::Left    ? Qt::AlignLeft
                           : w.align == drawing::Align::Right ? Qt::AlignRight
                                                              : Qt::AlignHCenter;
        p.save();
        p.translate(w.box.x, w.box.y);
        p.scale(scale, scale);
        p.drawText(QRectF(0, 0, w.box.width / scale, w.box.height / scale), align | Qt::AlignVCenter | Qt::TextDontClip,
                   words);
        p.restore();
    }
}

} // namespace

Expected<Done> StagesStation::writeDrawing(const QString& file) const {
    const Document::Solved& solved = document.solved();
    const auto& nominal = solved.figures.nominal;
    const plan::Steady* steady = nominal ? &*nominal : nullptr;
    const Catalogue& catalogue = catalogueOf(solved.build);
    if (file.endsWith(".svg", Qt::CaseInsensitive))
        return saveText(report::circuitSvg(solved.build, catalogue, path->channel(), steady), file.toStdString());
    const drawing::Drawing d = report::circuitDrawing(solved.build, catalogue, path->channel(), steady);
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    QPdfWriter pdf(&out);
    // The smallest sheet from A4 to A2 that holds it in full size, lying.
    const QSizeF size(d.width, d.height);
    constexpr double margin = 10;
    for (const auto sheet : {QPageSize::A4, QPageSize::A3, QPageSize::A2}) {
        pdf.setPageLayout(
            {QPageSize(sheet), QPageLayout::Landscape, {margin, margin, margin, margin}, QPageLayout::Millimeter});
        const QSizeF room = pdf.pageLayout().paintRect(QPageLayout::Millimeter).size();
        if (size.width() <= room.width() && size.height() <= room.height()) break;
    }
    pdf.setTitle(QString("%1, %2").arg(text(solved.build.name), text(solved.build.channels[path->channel()].name)));
    QPainter painter(&pdf);
    const double perMillimetre = pdf.resolution() / 25.4;
    const double scale = std::min({perMillimetre, pdf.width() / size.width(), pdf.height() / size.height()});
    painter.scale(scale, scale);
    paint(painter, d);
    painter.end();
    if (!out.commit()) return Problem{file.toStdString(), "not written: " + out.errorString().toStdString()};
    return Done{};
}

} // namespace ember::app
