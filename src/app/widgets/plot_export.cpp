#include "plot_export.h"

#include "core/build/storage.h"

#include <QSvgGenerator>
#include <qcustomplot.h>

namespace ember::app {

Expected<Done> exportPlot(QCustomPlot& plot, const QString& file, const std::string& table) {
    const Problem refused{file.toStdString(),
                          "the picture was not written: is the folder there, and may you write in it?"};
    if (file.endsWith(".csv", Qt::CaseInsensitive)) return saveText(table, file.toStdString());
    if (file.endsWith(".png", Qt::CaseInsensitive)) {
        if (plot.savePng(file, plot.width(), plot.height(), 2)) return Done{};
        return refused;
    }
    if (!file.endsWith(".svg", Qt::CaseInsensitive))
        return Problem{file.toStdString(), "the ending says what is written: .png, .svg or .csv"};
    QSvgGenerator svg;
    svg.setFileName(file);
    svg.setSize(plot.size());
    svg.setViewBox(QRect(QPoint(), plot.size()));
    QCPPainter painter;
    if (!painter.begin(&svg)) return refused;
    painter.setMode(QCPPainter::pmVectorized);
    painter.fillRect(QRect(QPoint(), plot.size()), plot.palette().window());
    plot.toPainter(&painter, plot.width(), plot.height());
    painter.end();
    return Done{};
}

} // namespace ember::app
