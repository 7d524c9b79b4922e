#include "recolour.h"

#include <QLabel>
#include <QTableWidget>
#include <QWidget>
#include <qcustomplot.h>

#include <utility>
#include <vector>

namespace ember::theme {

namespace {

/// Every colour at once, so that none is changed twice.
QString changed(const QString& text, const std::vector<std::pair<QString, QString>>& names) {
    QString out;
    for (qsizetype k = 0; k < text.size();) {
        const auto* found = text[k] == '#' ? &names.front() : nullptr;
        while (found && found <= &names.back() && QStringView(text).mid(k, found->first.size()) != found->first)
            ++found;
        if (found && found <= &names.back()) {
            out += found->second;
            k += found->first.size();
        } else {
            out += text[k++];
        }
    }
    return out;
}

} // namespace

void recolour(QWidget& root, Mode before) {
    std::vector<std::pair<QString, QString>> names;
    for (int k = 0; k <= static_cast<int>(Role::Stop); ++k) {
        const auto role = static_cast<Role>(k);
        names.emplace_back(color(role, before).name(), color(role).name());
    }
    for (QWidget* w : root.findChildren<QWidget*>()) {
        if (w->styleSheet().contains('#')) w->setStyleSheet(changed(w->styleSheet(), names));
        if (auto* label = qobject_cast<QLabel*>(w); label && label->text().contains('#'))
            label->setText(changed(label->text(), names));
        if (auto* plot = qobject_cast<QCustomPlot*>(w)) {
            for (int k = 0; k < plot->graphCount(); ++k) {
                QCPGraph& g = *plot->graph(k);
                const auto other = [&](QPen pen) {
                    pen.setColor(QColor(changed(pen.color().name(), names)));
                    return pen;
                };
                g.setPen(other(g.pen()));
                QCPScatterStyle style = g.scatterStyle();
                style.setPen(other(style.pen()));
                if (style.brush().style() != Qt::NoBrush)
                    style.setBrush(QColor(changed(style.brush().color().name(), names)));
                g.setScatterStyle(style);
            }
            dress(*plot, plot->xAxis->label(), plot->yAxis->label());
            plot->replot(QCustomPlot::rpQueuedReplot);
        }
        auto* table = qobject_cast<QTableWidget*>(w);
        for (int row = 0; table && row < table->rowCount(); ++row)
            for (int column = 0; column < table->columnCount(); ++column)
                if (QTableWidgetItem* item = table->item(row, column))
                    if (const QBrush brush = item->foreground(); brush.style() != Qt::NoBrush)
                        item->setForeground(QColor(changed(brush.color().name(), names)));
    }
}

} // namespace ember::theme
