#include "supply_curves.h"

#include "app/widgets/plot_export.h"
#include "app/widgets/words.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

QVector<double> vector(const std::vector<double>& v) {
    return {v.begin(), v.end()};
}

} // namespace

SupplyCurves::SupplyCurves(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(2);
    auto* line = new QHBoxLayout;
    reading = label("", Size::Small);
    reading->setFont(theme::figures(Size::Small));
    reading->setObjectName("curveReading");
    reading->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // it never makes the window wider
    line->addWidget(reading, 1);
    line->addWidget(note = label("", Size::Text, false, "dim"));
    reading->setWordWrap(false);
    note->setWordWrap(false); // a second line would take the plot's room
    layout->addLayout(line);
    plot = new QCustomPlot;
    plot->setObjectName("supplyPlot");
    plot->setMinimumHeight(140);
    plot->setPlottingHints(QCP::phFastPolylines | QCP::phCacheLabels); // a replot stays within a frame
    plot->setFocusPolicy(Qt::StrongFocus);
    plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plot->setAccessibleName(
        "Curves of the supply; arrows move the cursor, space sets a mark to read against, wheel or + "
        "and - zoom, 0 shows all");
    plot->installEventFilter(this);
    layout->addWidget(plot, 1);
}

void SupplyCurves::curveSeries(const plan::Curve& c, const QString& name, bool pinnedOne, Role role) {
    if (c.seconds.empty()) return;
    std::size_t count = c.seconds.size();
    // After switch-off only the fall is of interest.
    if (kind == Kind::SwitchOff || kind == Kind::SwitchOffCold) {
        const double ten = c.below(0, 10);
        if (!std::isnan(ten))
            while (count > 2 && c.seconds[count - 2] > 1.6 * ten) --count;
    }
    const auto first = [&](const std::vector<double>& v) {
        return QVector<double>(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(count));
    };
    for (std::size_t n = 0; n < c.nodes.size(); ++n)
        add({QString("B+%1%2").arg(n + 1).arg(name), first(c.seconds), first(c.nodes[n]), role, n == 0 ? 2.0 : 1.1,
             pinnedOne});
}

void SupplyCurves::gather(Kind which, const plan::Figures& f, const plan::Steady* steady, bool pinnedOnes) {
    const Role role = pinnedOnes ? Role::Slate : Role::Brass;
    const QString name = pinnedOnes ? " pinned" : "";
    switch (which) {
    case Kind::Cycle: {
        const plan::Steady* s = steady;
        if (!s || s->cycle.seconds.empty()) return;
        QVector<double> ms;
        for (const double t : s->cycle.seconds) ms.push_back(1000 * t);
        if (!pinnedOnes) {
            add({"leg a", ms, vector(s->cycle.legA), Role::BoneFaint, 1});
            add({"leg b", ms, vector(s->cycle.legB), Role::BoneFaint, 1});
        }
        add({"B+1" + name, ms, vector(s->cycle.reservoir), pinnedOnes ? Role::Slate : Role::Ember, 2, pinnedOnes});
        add({"rectifier" + name, ms, vector(s->cycle.rectifierAmps), role, 1.5, pinnedOnes, true, "A"});
        return;
    }
    case Kind::SwitchOn: return curveSeries(f.switchOn, name, pinnedOnes, role);
    case Kind::SwitchOff: return curveSeries(f.switchOff, name, pinnedOnes, role);
    case Kind::SwitchOffCold: return curveSeries(f.switchOffCold, name, pinnedOnes, role);
    case Kind::Burst:
        if (!pinnedOnes) curveSeries(f.burstResistor, ", resistor for choke", false, Role::BoneFaint);
        return curveSeries(f.burst, name, pinnedOnes, role);
    case Kind::Dip: return curveSeries(f.dip, name, pinnedOnes, role);
    case Kind::Ripple:
        if (!f.nominal) return;
        for (std::size_t n = 0; n < f.nominal->nodes.size(); ++n) {
            QVector<double> hertz, volts;
            for (std::size_t k = 0; k < f.nominal->nodes[n].ripple.size(); ++k) {
                hertz.push_back(static_cast<double>(k + 1) * mainsHertz);
                volts.push_back(std::max(1e-6, std::abs(f.nominal->nodes[n].ripple[k]))); // a microvolt is nothing here
            }
            add({QString("B+%1%2").arg(n + 1).arg(name), hertz, volts, role, n == 0 ? 2.0 : 1.1, pinnedOnes});
        }
        return;
    case Kind::Impedance:
        for (std::size_t n = 0; n < f.impedance.ohms.size(); ++n)
            add({QString("B+%1%2").arg(n + 1).arg(name), vector(f.impedance.hertz), vector(f.impedance.ohms[n]), role,
                 n == 0 ? 2.0 : 1.1, pinnedOnes, false, "Ω"});
    }
}

void SupplyCurves::show(Kind which, const plan::Figures& f, const plan::Steady* steady, const plan::Figures* pinned,
                        bool solving, double hertz) {
    kind = which;
    mainsHertz = hertz;
    series.clear();
    if (pinned) gather(which, *pinned, pinned->nominal ? &*pinned->nominal : nullptr, true);
    const std::size_t pinnedOnes = series.size();
    gather(which, f, steady, false);
    const bool arrived = series.size() > pinnedOnes; // beside the pinned ones, which are there at once
    xUnit = which == Kind::Cycle ? "ms" : which == Kind::Impedance || which == Kind::Ripple ? "Hz" : "s";
    QString words;
    const auto fifty = [&](const plan::Curve& c) {
        const auto when = [&](std::size_t node, double volts) {
            const double t = c.below(node, volts);
            return std::isnan(t) ? QString("over %1 s").arg(c.seconds.back(), 0, 'f', 0) : text(t, Unit::Second);
        };
        // Of a long chain the first and the slowest.
        std::size_t slowest = 0;
        for (std::size_t n = 0; n < c.nodes.size(); ++n)
            if (!(c.below(n, 50) <= c.below(slowest, 50))) slowest = n;
        QString list = "50 V, 10 V:";
        for (std::size_t n = 0; n < c.nodes.size(); ++n)
            if (c.nodes.size() <= 4 || n == 0 || n == slowest)
                list += QString(" B+%1 %2, %3;").arg(n + 1).arg(when(n, 50), when(n, 10));
        list.chop(1);
        list += ".";
        return list + " The meter is proof.";
    };
    if (!arrived) {
        words = solving ? "computing ..." : "no curve";
    } else if (which == Kind::Cycle) {
        words = QString("B+1 in ember; rectifier in brass, peak %1").arg(text(steady->rectifierPeak, Unit::Ampere));
    } else if (which == Kind::SwitchOn) {
        words = QString("highest %1").arg(text(f.switchOn.most(0), Unit::Volt));
    } else if (which == Kind::SwitchOff) {
        words = fifty(f.switchOff);
    } else if (which == Kind::SwitchOffCold) {
        words = fifty(f.switchOffCold);
    } else if (which == Kind::Burst) {
        words = QString("full power from 0.2 to 0.7 s: %1 more drawn%2")
                    .arg(text(f.burstAmps, Unit::Ampere),
                         f.burstResistor.seconds.empty() ? QString()
                                                         : QString("; faint: with a resistor instead of the choke"));
    } else if (which == Kind::Dip) {
        words = "the mains 15 % low from 0.2 to 0.7 s";
    } else if (which == Kind::Ripple) {
        words = "ripple at multiples of the mains, RMS";
    } else {
        words =
            QString("source resistance of rectifier and transformer: %1").arg(text(f.impedance.sourceOhms, Unit::Ohm));
    }
    if (words != note->text()) note->setText(words);
    // The same again keeps the zoom, and takes no time.
    if (drawnAs == std::pair{kind, theme::mode()} && series == drawn) return;
    const bool read = cursor && drawnAs && drawnAs->first == kind; // new figures of the curve that is being read
    if (drawnAs && drawnAs->first != kind) mark.reset();           // it was set in another picture
    drawn = series;
    drawnAs = {kind, theme::mode()};
    draw();
    if (read) moveCursor(cursorAt);
}

void SupplyCurves::draw() {
    plot->clearGraphs();
    plot->clearItems();
    cursor = markLine = nullptr;
    const bool logarithmic = kind == Kind::Impedance || kind == Kind::Ripple;
    theme::dress(*plot,
                 kind == Kind::Cycle ? "milliseconds"
                 : logarithmic       ? "hertz"
                                     : "seconds",
                 kind == Kind::Impedance ? "ohms" : "volts");
    for (QCPAxis* axis : {plot->xAxis, plot->yAxis}) {
        axis->setScaleType(logarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
        axis->setTicker(logarithmic ? QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog)
                                    : QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
        axis->setNumberFormat("g");
    }
    plot->yAxis2->setVisible(kind == Kind::Cycle);
    double right = 0;
    for (const Series& s : series) {
        auto* g = plot->addGraph(plot->xAxis, s.rightAxis ? plot->yAxis2 : plot->yAxis);
        g->setPen(QPen(theme::color(s.role), s.width, s.pinned ? Qt::DashDotLine : Qt::SolidLine));
        g->setData(s.x, s.y, true);
        if (kind == Kind::Ripple) { // between multiples there is nothing
            g->setLineStyle(QCPGraph::lsImpulse);
            g->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, 5));
        }
        if (s.rightAxis)
            for (const double v : s.y) right = std::max(right, v);
    }
    plot->rescaleAxes();
    if (kind == Kind::Cycle) {
        plot->yAxis2->setTickLabelColor(theme::color(Role::Brass));
        plot->yAxis2->setTickLabelFont(theme::figures(Size::Small));
        plot->yAxis2->setBasePen(QPen(theme::color(Role::Line)));
        plot->yAxis2->setTickPen(QPen(theme::color(Role::Line)));
        plot->yAxis2->setSubTickPen(Qt::NoPen);
        plot->yAxis2->setLabel("rectifier, A");
        plot->yAxis2->setLabelColor(theme::color(Role::Brass));
        plot->yAxis2->setRange(0, 2.5 * right);
    } else if (!logarithmic && !series.empty()) {
        const QCPRange x = plot->xAxis->range(), y = plot->yAxis->range();
        plot->xAxis->setRange(x.lower, x.lower + x.size() * 1.07);
        const bool through = kind == Kind::Burst || kind == Kind::Dip;
        plot->yAxis->setRange(through ? y.lower - 0.06 * y.size() : 0, y.upper + 0.12 * (through ? y.size() : y.upper));
    }
    std::vector<double> labelled;
    qsizetype place = 0; // each at another point of its curve, so that near ones can be told apart
    for (const Series& s : series) {
        if (s.pinned || kind == Kind::Cycle || s.y.isEmpty() || s.role == Role::BoneFaint) continue;
        const double span = plot->yAxis->range().size();
        if (!logarithmic && std::any_of(labelled.begin(), labelled.end(),
                                        [&](double l) { return std::abs(l - s.y.last()) < 0.06 * span; }))
            continue;
        labelled.push_back(s.y.last());
        place += kind == Kind::Ripple ? 1 : s.x.size() / 12;
        const qsizetype at = logarithmic ? std::min(kind == Kind::Ripple ? 1 : place, s.x.size() - 1) : s.x.size() - 1;
        auto* t = new QCPItemText(plot);
        t->position->setCoords(s.x[at], s.y[at]);
        t->setText(" " + s.name);
        t->setColor(theme::color(s.role));
        t->setFont(theme::text(Size::Small));
        t->setPositionAlignment(Qt::AlignLeft | (logarithmic ? Qt::AlignBottom : Qt::AlignVCenter));
    }
    reading->clear();
    note->show();
    if (mark) markLine = standing(*mark, Qt::SolidLine);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

bool SupplyCurves::isCompared(const Series& s) {
    return s.pinned || s.role == Role::BoneFaint;
}

double SupplyCurves::valueAt(const Series& s, double x) {
    if (s.x.size() < 2 || x < s.x.first() || x > s.x.last()) return plan::unknown;
    const auto at = std::lower_bound(s.x.begin(), s.x.end(), x);
    const auto k = std::clamp<qsizetype>(at - s.x.begin(), 1, s.x.size() - 1);
    const double share = s.x[k] > s.x[k - 1] ? (x - s.x[k - 1]) / (s.x[k] - s.x[k - 1]) : 0;
    return s.y[k - 1] + share * (s.y[k] - s.y[k - 1]);
}

QString SupplyCurves::valueText(const Series& s, double y) {
    return text(y, s.unit == "A" ? Unit::Ampere : s.unit == "V" ? Unit::Volt : Unit::Ohm, 4);
}

QString SupplyCurves::readAt(double x) const {
    QString out;
    for (const bool compared : {false, true}) // what is first is seen first
        for (const Series& s : series)
            if (const double y = valueAt(s, x); isCompared(s) == compared && !std::isnan(y))
                out += QString("   %1 %2").arg(s.name, valueText(s, y));
    return out.isEmpty() ? out : QString("%1 %2").arg(x, 0, 'g', 4).arg(xUnit) + out;
}

QString SupplyCurves::readBetween(double from, double x) const {
    QString out = QString("relative to the mark %1%2 %3").arg(x < from ? "" : "+").arg(x - from, 0, 'g', 3).arg(xUnit);
    for (const Series& s : series) {
        const double change = valueAt(s, x) - valueAt(s, from);
        if (!isCompared(s) && !std::isnan(change))
            out += QString("   %1 %2%3").arg(s.name, change < 0 ? "" : "+", valueText(s, change));
    }
    return out;
}

QCPItemLine* SupplyCurves::standing(double x, Qt::PenStyle style) {
    auto* line = new QCPItemLine(plot);
    line->setPen(QPen(theme::color(Role::BoneDim), 1, style));
    line->start->setTypeY(QCPItemPosition::ptAxisRectRatio);
    line->end->setTypeY(QCPItemPosition::ptAxisRectRatio);
    line->start->setCoords(x, 0);
    line->end->setCoords(x, 1);
    return line;
}

void SupplyCurves::moveCursor(double x) {
    cursorAt = x;
    if (cursor) plot->removeItem(cursor);
    cursor = standing(x, Qt::DotLine);
    const QString words = mark ? readBetween(*mark, x) : readAt(x);
    reading->setText(words);
    reading->setToolTip(words);
    note->hide(); // its room is wanted, until the picture is drawn anew
    plot->replot(QCustomPlot::rpQueuedReplot);
}

void SupplyCurves::setMark(std::optional<double> at) {
    if (markLine) plot->removeItem(markLine);
    markLine = at ? standing(*at, Qt::SolidLine) : nullptr;
    mark = at;
    if (cursor) moveCursor(cursorAt);
}

void SupplyCurves::stepCursor(int pixels) {
    const double from = cursor ? plot->xAxis->coordToPixel(cursorAt) : plot->axisRect()->center().x();
    moveCursor(plot->xAxis->pixelToCoord(from + pixels));
}

bool SupplyCurves::eventFilter(QObject* o, QEvent* e) {
    if (e->type() == QEvent::MouseMove) {
        const auto* m = static_cast<QMouseEvent*>(e);
        if (m->buttons() == Qt::NoButton) moveCursor(plot->xAxis->pixelToCoord(m->position().x()));
    } else if (e->type() == QEvent::MouseButtonDblClick) {
        draw();
    } else if (e->type() == QEvent::KeyPress) {
        const auto* k = static_cast<QKeyEvent*>(e);
        const int step = k->modifiers() & Qt::ShiftModifier ? 1 : 10;
        const auto zoom = [&](double factor) {
            plot->xAxis->scaleRange(factor, cursor ? cursorAt : plot->xAxis->range().center());
            plot->replot(QCustomPlot::rpQueuedReplot);
        };
        switch (k->key()) {
        case Qt::Key_Left: return stepCursor(-step), true;
        case Qt::Key_Right: return stepCursor(step), true;
        case Qt::Key_Plus:
        case Qt::Key_Equal: return zoom(0.7), true;
        case Qt::Key_Minus: return zoom(1 / 0.7), true;
        case Qt::Key_0: return draw(), true;
        case Qt::Key_Space: return setMark(mark || !cursor ? std::nullopt : std::optional(cursorAt)), true;
        case Qt::Key_Escape:
            if (!mark) break;
            return setMark(std::nullopt), true;
        default: break;
        }
    }
    return QWidget::eventFilter(o, e);
}

Expected<Done> SupplyCurves::exportTo(const QString& file) const {
    if (series.empty()) return Problem{file.toStdString(), "there is no curve to write yet"};
    QString out;
    qsizetype most = 0;
    for (const Series& s : series) {
        out += QString("%1%2 %3,%2 %4").arg(out.isEmpty() ? "" : ",", s.name, xUnit, s.unit);
        most = std::max(most, s.x.size());
    }
    out += '\n';
    for (qsizetype k = 0; k < most; ++k) {
        for (std::size_t n = 0; n < series.size(); ++n) {
            const Series& s = series[n];
            if (n) out += ',';
            out += k < s.x.size() ? QString("%1,%2").arg(s.x[k], 0, 'g', 9).arg(s.y[k], 0, 'g', 9) : QString(",");
        }
        out += '\n';
    }
    return exportPlot(*plot, file, out.toStdString());
}

} // namespace ember::app
