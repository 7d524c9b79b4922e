#include "plot_tools.h"

#include "app/theme/theme.h"
#include "plot_export.h"

#include <QFileDialog>
#include <QKeyEvent>
#include <QMenu>
#include <fmt/format.h>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::app {

using theme::Role;

namespace {

/// Curves that have a name, in their order; bands and marks have none.
std::vector<QCPGraph*> named(const QCustomPlot& plot) {
    std::vector<QCPGraph*> out;
    for (int k = 0; k < plot.graphCount(); ++k)
        if (!plot.graph(k)->name().isEmpty() && plot.graph(k)->visible() && plot.graph(k)->dataCount() > 0)
            out.push_back(plot.graph(k));
    return out;
}

/// The curve's point nearest to x; NaN where it has none within its ends.
std::pair<double, double> nearest(const QCPGraph& g, double x, bool logarithmic) {
    const auto data = g.data();
    double bestX = 0, bestY = std::nan(""), least = 1e300;
    for (auto p = data->constBegin(); p != data->constEnd(); ++p) {
        const double off = logarithmic && p->key > 0 && x > 0 ? std::abs(std::log(p->key / x)) : std::abs(p->key - x);
        if (off < least && std::isfinite(p->value)) least = off, bestX = p->key, bestY = p->value;
    }
    return {bestX, bestY};
}

QString shown(double v) {
    return std::isfinite(v) ? QString::number(v, 'g', 4) : QString("-");
}

} // namespace

std::string tableOf(const QCustomPlot& plot) {
    const auto curves = named(plot);
    std::map<double, std::vector<double>> rows;
    const auto plain = [](QString s) { return s.replace(',', ';').toStdString(); };
    std::string out = plain(plot.xAxis->label());
    for (std::size_t c = 0; c < curves.size(); ++c) {
        out += "," + plain(curves[c]->name());
        const auto data = curves[c]->data();
        for (auto p = data->constBegin(); p != data->constEnd(); ++p) {
            auto& row = rows[p->key];
            row.resize(curves.size(), std::nan(""));
            row[c] = p->value;
        }
    }
    out += "\n";
    for (const auto& [x, row] : rows) {
        out += fmt::format("{:.10g}", x);
        for (const double v : row) out += std::isfinite(v) ? fmt::format(",{:.10g}", v) : ",";
        out += "\n";
    }
    return out;
}

PlotTools::PlotTools(QCustomPlot* p, std::function<QString()> name, std::function<void()> all)
    : QObject(p),
      plot(p),
      stem(std::move(name)),
      showAll(std::move(all)) {
    plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plot->setFocusPolicy(Qt::StrongFocus);
    plot->setMouseTracking(true);
    plot->setToolTip(
        "Left and Right move the cursor; wheel and drag zoom and move, a double click shows all again; the "
        "context menu exports.");
    plot->installEventFilter(this);
    plot->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(plot, &QWidget::customContextMenuRequested, this, &PlotTools::menu);
    connect(plot, &QCustomPlot::mouseMove, this, [this](QMouseEvent* e) {
        if (e->buttons() == Qt::NoButton && plot->axisRect()->rect().contains(e->pos()))
            place(plot->xAxis->pixelToCoord(e->pos().x()));
    });
    connect(plot, &QCustomPlot::mouseDoubleClick, this, [this] { showAll(); });
}

void PlotTools::take() {
    words.clear();
    if (line) line->setVisible(false);
    if (text) text->setVisible(false);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

void PlotTools::place(double x) {
    const auto curves = named(*plot);
    if (curves.empty()) return take();
    const bool logarithmic = plot->xAxis->scaleType() == QCPAxis::stLogarithmic;
    at = nearest(*curves.front(), x, logarithmic).first;
    words = QString("%1: %2").arg(plot->xAxis->label().section('(', 0, 0).trimmed(), shown(at));
    for (const QCPGraph* g : curves)
        words += QString("\n%1: %2").arg(g->name(), shown(nearest(*g, at, logarithmic).second));
    if (!line) {
        line = new QCPItemLine(plot);
        text = new QCPItemText(plot);
        text->setPadding(QMargins(5, 3, 5, 3));
        text->setTextAlignment(Qt::AlignLeft);
        text->position->setTypeX(QCPItemPosition::ptPlotCoords);
        text->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    }
    line->setPen(QPen(theme::color(Role::BoneDim), 1));
    line->start->setTypeY(QCPItemPosition::ptAxisRectRatio);
    line->end->setTypeY(QCPItemPosition::ptAxisRectRatio);
    line->start->setCoords(at, 0);
    line->end->setCoords(at, 1);
    const bool right = plot->xAxis->coordToPixel(at) > plot->axisRect()->center().x();
    text->setFont(theme::figures(theme::Size::Small));
    text->setColor(theme::color(Role::Bone));
    QColor under = theme::color(Role::Ash);
    under.setAlphaF(0.9f);
    text->setBrush(under);
    text->setPositionAlignment(Qt::AlignTop | (right ? Qt::AlignRight : Qt::AlignLeft));
    text->position->setCoords(at, 0.02);
    text->setText(words);
    line->setVisible(true);
    text->setVisible(true);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

void PlotTools::step(int by) {
    const auto curves = named(*plot);
    if (curves.empty()) return;
    const auto data = curves.front()->data();
    const int count = data->size();
    const auto here = std::lower_bound(data->constBegin(), data->constEnd(), at,
                                       [](const QCPGraphData& d, double x) { return d.key < x; });
    const int index = std::clamp(static_cast<int>(here - data->constBegin()) + by, 0, count - 1);
    place(words.isEmpty() ? data->at(count / 2)->key : data->at(index)->key);
}

bool PlotTools::eventFilter(QObject* watched, QEvent* event) {
    if (!qobject_cast<QCustomPlot*>(watched)) return false; // on its way to be destroyed
    if (event->type() == QEvent::Leave && !plot->hasFocus()) take();
    if (event->type() != QEvent::KeyPress) return false;
    const auto* key = static_cast<QKeyEvent*>(event);
    const int far = key->modifiers() & Qt::ShiftModifier ? 10 : 1;
    switch (key->key()) {
    case Qt::Key_Left: step(-far); return true;
    case Qt::Key_Right: step(far); return true;
    case Qt::Key_Home: step(-1'000'000); return true;
    case Qt::Key_End: step(1'000'000); return true;
    case Qt::Key_Escape: take(), showAll(); return true;
    default: return false;
    }
}

void PlotTools::menu(const QPoint& where) {
    auto* all = new QMenu(plot);
    all->setAttribute(Qt::WA_DeleteOnClose);
    all->addAction("Show all of it", this, [this] { showAll(); });
    all->addSeparator();
    for (const auto& [caption, ending] :
         {std::pair{"Picture, PNG...", ".png"}, {"Picture, SVG...", ".svg"}, {"Figures, CSV...", ".csv"}})
        all->addAction(caption, this, [this, ending = ending] {
            const QString name = QFileDialog::getSaveFileName(plot, "Export", stem() + ending);
            if (name.isEmpty()) return;
            const auto done = exportPlot(*plot, name, tableOf(*plot));
            Q_EMIT said(done ? "written: " + name : QString::fromStdString(done.problem().text()), done.ok());
        });
    all->popup(plot->mapToGlobal(where));
}

} // namespace ember::app
