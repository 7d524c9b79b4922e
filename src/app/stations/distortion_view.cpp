#include "distortion_view.h"

#include "app/document/last_computed.h"
#include "app/theme/theme.h"
#include "app/widgets/plot_tools.h"
#include "app/widgets/words.h"
#include "core/build/flat.h"
#include "core/build/own_types.h"

#include <QVBoxLayout>
#include <QtConcurrent>
#include <qcustomplot.h>

#include <cmath>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// Of the circuits and channels that were looked at last.
LastComputed<std::string, DistortionView::Ends, 8>& knownEnds() {
    static LastComputed<std::string, DistortionView::Ends, 8> known;
    return known;
}

} // namespace

DistortionView::DistortionView(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    words = label("", Size::Text, false, "dim");
    words->setObjectName("distortionWords");
    words->setWordWrap(true);
    layout->addWidget(words);
    plot = new QCustomPlot;
    plot->setAccessibleName("Distortion against power, planned and measured");
    tools = new PlotTools(
        plot, [this] { return text(document.build().name).toLower() + "-distortion"; }, [this] { draw(); });
    connect(tools, &PlotTools::said, this, &DistortionView::said);
    layout->addWidget(plot, 1);
    connect(&document, &Document::opened, this, [this] { measured.clear(); });
    connect(&solving, &QFutureWatcherBase::finished, this, [this] {
        planned = solving.result();
        if (!planned.low.empty() && !planned.high.empty()) knownEnds().keep(asked, planned);
        draw();
    });
}

DistortionView::~DistortionView() {
    stopping.request_stop();
    solving.waitForFinished();
}

void DistortionView::look(std::size_t which) {
    channel = which;
    draw();
    compute();
}

void DistortionView::add(std::size_t which, double watts, double thdPercent) {
    measured.push_back({which, watts, thdPercent});
    draw();
}

void DistortionView::setFloor(double thdPercent) {
    floor = thdPercent;
    draw();
}

void DistortionView::compute() {
    const Document::Solved& solved = document.solved();
    if (solving.isRunning() || document.solving() || !solved.figures.complete || !solved.figures.nominal ||
        channel >= solved.build.channels.size() || !isVisible() ||
        (planned.channel == channel && planned.revision == document.revisionNow() && !planned.low.empty()))
        return;
    asked = std::to_string(channel) + "\n" + flatCircuit(solved.build);
    if (const Ends* known = knownEnds().find(asked)) {
        planned = *known;
        planned.revision = document.revisionNow();
        return draw();
    }
    stopping = std::stop_source();
    solving.setFuture(QtConcurrent::run([b = solved.build, s = *solved.figures.nominal, at = channel,
                                         revision = document.revisionNow(), stop = stopping.get_token()] {
        const Catalogue& c = catalogueOf(b);
        return Ends{at, revision, plan::levelSweep(b, c, s, at, lowHertz, stop),
                    plan::levelSweep(b, c, s, at, highHertz, stop)};
    }));
}

void DistortionView::draw() {
    tools->take();
    plot->clearGraphs();
    const auto& f = document.figures();
    const bool known = channel < f.power.size() && !f.power[channel].sweep.empty();
    const bool line = known && f.power[channel].line();
    theme::dress(*plot, line ? "volts at the output" : "watts in the load", "THD, %");
    for (QCPAxis* axis : {plot->xAxis, plot->yAxis}) {
        axis->setScaleType(QCPAxis::stLogarithmic);
        axis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
        axis->setNumberPrecision(2);
        axis->setNumberFormat("g");
    }
    if (known) {
        const plan::PowerFigures& p = f.power[channel];
        const auto out = [&](const plan::ToneFigures& t) { return line ? t.outputRms : t.watts; };
        const auto add = [&](const std::vector<plan::ToneFigures>& sweep, double width, Qt::PenStyle style,
                             const char* name) {
            QCPGraph* g = plot->addGraph();
            g->setName(name);
            g->setPen(QPen(theme::color(Role::Brass), width, style));
            for (const plan::ToneFigures& t : sweep) g->addData(out(t), t.thdPercent);
        };
        const auto at = [&](const std::vector<plan::ToneFigures>& sweep, double percent) {
            const double volts = plan::readWhere(sweep, &plan::ToneFigures::thdPercent, percent,
                                                 [](const plan::ToneFigures& t) { return t.outputRms; });
            return line ? text(volts, Unit::Volt) : text(volts * volts / p.load, Unit::Watt); // of those volts
        };
        add(p.sweep, 2, Qt::SolidLine, "planned at 1 kHz");
        QString said = QString("Planned (solid): %1, %2, %3 and %4 at 1, 3, 5 and 10 % THD; clipping, 1 dB of gain "
                               "missing or 10 % THD, at %5 with %6 in; %7 % at %8; gain %9 dB.")
                           .arg(at(p.sweep, 1), at(p.sweep, 3), at(p.sweep, 5), at(p.sweep, 10),
                                line ? text(p.clipOutput, Unit::Volt) : text(p.clipWatts, Unit::Watt),
                                text(p.clipInput, Unit::Volt), text(p.thdAtReference, Unit::None, 2), p.reference())
                           .arg(20 * std::log10(p.gain), 0, 'f', 1);
        if (planned.channel == channel && planned.revision == document.revisionNow()) {
            add(planned.low, 1.3, Qt::DashLine, "planned at 20 Hz");
            add(planned.high, 1.3, Qt::DotLine, "planned at 10 kHz");
            said += QString(" 3 % at 20 Hz (dashed): %1; at 10 kHz (dotted): %2.")
                        .arg(at(planned.low, 3), at(planned.high, 3));
        }
        words->setText(said + " Measured: dots.");
    } else {
        words->setText(document.solving() ? "computing what the plan predicts ..."
                                          : "The plan's power could not be computed.");
    }
    if (floor > 0) {
        QCPGraph* g = plot->addGraph();
        g->setPen(QPen(theme::color(Role::Slate), 1.3, Qt::DashDotLine));
        g->setData({0.01, 1000}, {floor, floor}, true);
        words->setText(words->text() + " Dash-dotted: the sound device alone, below which nothing is measured.");
    }
    QCPGraph* dots = plot->addGraph();
    dots->setName("measured");
    dots->setLineStyle(QCPGraph::lsNone);
    dots->setPen(QPen(theme::color(Role::Verdigris)));
    dots->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme::color(Role::Verdigris), 8));
    for (const Dot& d : measured)
        if (d.channel == channel) dots->addData(d.watts, d.thd);
    plot->xAxis->setRange(0.05, line ? 100 : 30);
    if (known && !f.power[channel].sweep.empty() && !line)
        plot->xAxis->setRangeUpper(3 * f.power[channel].sweep.back().watts);
    plot->yAxis->setRange(0.002, 20);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace ember::app
