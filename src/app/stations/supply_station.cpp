#include "supply_station.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <qcustomplot.h>

#include <cmath>

namespace ember::app {

using theme::Role;

namespace {
QString volts(double v) {
    return text(v, Unit::Volt);
}
QVector<double> vector(const std::vector<double>& v) {
    return {v.begin(), v.end()};
}
} // namespace

SupplyStation::SupplyStation(Document& d, QWidget* parent) : Station(d, called, parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(24, 14, 12, 8);
    auto* head = new QHBoxLayout;
    auto* name = new QLabel("Supply");
    name->setFont(theme::text(theme::Size::Title, true));
    head->addWidget(name);
    subtitle = new QLabel;
    subtitle->setProperty("dim", true);
    head->addWidget(subtitle);
    head->addStretch();
    auto* label = new QLabel("mains");
    label->setProperty("dim", true);
    head->addWidget(label);
    const auto tabs = [this](std::vector<QPushButton*>& to, QHBoxLayout* in, const QStringList& names, int checked,
                             auto chosenOne) {
        auto* group = new QButtonGroup(this);
        for (int k = 0; k < names.size(); ++k) {
            auto* b = new QPushButton(names[k]);
            b->setProperty("tab", true);
            b->setCheckable(true);
            b->setChecked(k == checked);
            group->addButton(b, k);
            in->addWidget(b);
            to.push_back(b);
        }
        connect(group, &QButtonGroup::idClicked, this, chosenOne);
    };
    tabs(mainsTabs, head, {"low", "nominal", "high"}, mainsChoice, [this](int k) {
        mainsChoice = k;
        refresh();
    });
    layout->addLayout(head);
    fall = new FallView(document);
    connect(fall, &FallView::said, this, &Station::said);
    layout->addWidget(fall, 5);
    auto* curves = new QHBoxLayout;
    tabs(curveTabs, curves, {"one cycle", "switch-on", "switch-off", "switch-off, valves out"}, curve,
         [this](int k) { showCurve(k); });
    curves->addStretch();
    note = new QLabel;
    note->setProperty("dim", true);
    curves->addWidget(note);
    layout->addLayout(curves);
    plot = new QCustomPlot;
    plot->setMinimumHeight(150);
    plot->setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    plot->setAccessibleName("Curves of the supply through time");
    layout->addWidget(plot, 3);
    connect(&document, &Document::figuresChanged, this, &SupplyStation::refresh);
    refresh();
}

const plan::Steady* SupplyStation::chosen() const {
    const plan::Figures& f = document.figures();
    const auto& s = mainsChoice == 0 ? f.low : mainsChoice == 1 ? f.nominal : f.high;
    return s ? &*s : nullptr;
}

double SupplyStation::shareDone() const {
    if (!document.figures().nominal) return 0;
    double share = 1;
    for (const auto& f : document.findings())
        if (f.station == "supply" && !f.waived) share -= 0.2;
    return std::max(0.1, share);
}

void SupplyStation::refresh() {
    const Build& b = document.build();
    const double mains[3] = {b.mains.low, b.mains.volts, b.mains.high};
    for (std::size_t k = 0; k < 3; ++k) mainsTabs[k]->setText(volts(mains[k]));
    bool choke = false;
    for (const Section& s : b.supply.sections) choke = choke || s.kind == SectionKind::Choke;
    subtitle->setText(QString("%1 rectifier, %2, %3 nodes")
                          .arg(QString::fromStdString(b.supply.rectifier.type), choke ? "choke" : "resistors")
                          .arg(supplyNodes(b.supply)));
    fall->showSteady(chosen(), document.figures().cold ? &*document.figures().cold : nullptr);
    drawCurve();
}

void SupplyStation::showCurve(int which) {
    curve = which;
    curveTabs[static_cast<std::size_t>(which)]->setChecked(true);
    drawCurve();
}

void SupplyStation::drawCurve() {
    plot->clearGraphs();
    plot->clearItems();
    theme::dress(*plot, "seconds", "volts");
    plot->yAxis2->setVisible(false);
    note->clear();
    const plan::Figures& f = document.figures();
    const auto label = [this](double x, double y, const QString& text, Role role, Qt::Alignment align) {
        auto* t = new QCPItemText(plot);
        t->position->setCoords(x, y);
        t->setText(text);
        t->setColor(theme::color(role));
        t->setFont(theme::text(theme::Size::Small));
        t->setPositionAlignment(align);
    };
    if (curve == 0) {
        const plan::Steady* s = chosen();
        if (s && !s->cycle.seconds.empty()) {
            QVector<double> ms;
            for (const double t : s->cycle.seconds) ms.push_back(1000 * t);
            plot->xAxis->setLabel("milliseconds");
            const auto add = [&](const std::vector<double>& y, Role role, double width, QCPAxis* axis) {
                auto* g = plot->addGraph(plot->xAxis, axis);
                g->setPen(QPen(theme::color(role), width));
                g->setData(ms, vector(y), true);
            };
            add(s->cycle.legA, Role::BoneFaint, 1, plot->yAxis);
            add(s->cycle.legB, Role::BoneFaint, 1, plot->yAxis);
            add(s->cycle.reservoir, Role::Ember, 2, plot->yAxis);
            plot->yAxis2->setVisible(true);
            plot->yAxis2->setTickLabelColor(theme::color(Role::Brass));
            plot->yAxis2->setTickLabelFont(theme::figures(theme::Size::Small));
            plot->yAxis2->setBasePen(QPen(theme::color(Role::Line)));
            plot->yAxis2->setTickPen(QPen(theme::color(Role::Line)));
            plot->yAxis2->setSubTickPen(Qt::NoPen);
            plot->yAxis2->setLabel("rectifier, A");
            plot->yAxis2->setLabelColor(theme::color(Role::Brass));
            add(s->cycle.rectifierAmps, Role::Brass, 1.5, plot->yAxis2);
            plot->rescaleAxes();
            plot->yAxis2->setRange(0, 2.5 * s->rectifierPeak);
            note->setText(QString("B+1 in ember; rectifier current in brass, peak %1")
                              .arg(QString::fromStdString(format(s->rectifierPeak, Unit::Ampere))));
        }
    } else {
        const plan::Curve& c = curve == 1 ? f.switchOn : curve == 2 ? f.switchOff : f.switchOffCold;
        if (!c.seconds.empty()) {
            double end = c.seconds.back();
            if (curve >= 2) end = std::isnan(c.below(0, 10)) ? end : std::min(end, 1.6 * c.below(0, 10));
            for (std::size_t n = 0; n < c.nodes.size(); ++n) {
                auto* g = plot->addGraph();
                g->setPen(QPen(theme::color(Role::Brass), n == 0 ? 2 : 1.1));
                g->setData(vector(c.seconds), vector(c.nodes[n]), true);
                if (curve == 1 && (n == 0 || std::abs(c.nodes[n].back() - c.nodes[n - 1].back()) > 0.06 * c.most(0)))
                    label(end, c.nodes[n].back(), QString(" B+%1").arg(n + 1), Role::Brass,
                          Qt::AlignLeft | Qt::AlignVCenter);
            }
            const double most = c.most(0);
            plot->xAxis->setRange(0, end * 1.06);
            plot->yAxis->setRange(0, most * 1.2);
            if (curve == 1) {
                std::size_t at = 0;
                for (std::size_t k = 0; k < c.seconds.size(); ++k)
                    if (c.nodes[0][k] > c.nodes[0][at]) at = k;
                label(c.seconds[at], most,
                      QString("%1 at %2")
                          .arg(volts(most), QString::fromStdString(format(c.seconds[at], Unit::Second, 2))),
                      Role::Ember, Qt::AlignHCenter | Qt::AlignBottom);
            } else {
                const double fifty = c.below(0, 50), ten = c.below(0, 10);
                note->setText(QString("B+1: 50 V at %1, 10 V at %2. The clock is not proof; the meter is.")
                                  .arg(std::isnan(fifty) ? QString("over %1 s").arg(c.seconds.back(), 0, 'f', 0)
                                                         : QString::fromStdString(format(fifty, Unit::Second)),
                                       std::isnan(ten) ? QString("over %1 s").arg(c.seconds.back(), 0, 'f', 0)
                                                       : QString::fromStdString(format(ten, Unit::Second))));
            }
        } else if (document.solving()) {
            note->setText("computing ...");
        }
    }
    plot->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace ember::app
