#include "valve_sheet.h"

#include "app/widgets/words.h"
#include "core/catalogue/bases.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// 1, 2 or 5 times a power of ten.
double niceStep(double about) {
    const double decade = std::pow(10, std::floor(std::log10(about)));
    for (const double k : {1.0, 2.0, 5.0})
        if (about <= 1.2 * k * decade) return k * decade;
    return 10 * decade;
}

QString listed(double v, Unit unit) {
    return v > 0 ? text(v, unit) : QString("none published");
}

} // namespace

void BasePicture::show(const ValveType& type) {
    of = &type;
    update();
}

void BasePicture::paintEvent(QPaintEvent*) {
    if (!of) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto form =
        std::find_if(baseForms.begin(), baseForms.end(), [&](const BaseForm& b) { return of->base == b.name; });
    const QPointF c(width() / 2.0, height() / 2.0);
    p.setFont(theme::text(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    if (form == baseForms.end() || of->heaterPins.empty()) {
        p.drawText(rect(), Qt::AlignCenter, "pins not in the catalogue");
        return;
    }
    std::map<int, QString> names;
    for (const int pin : of->heaterPins) names[pin] = "h";
    for (const HeaterWiring& w : of->heater.wirings)
        for (const int pin : w.other)
            if (!names.count(pin)) names[pin] = "h tap";
    for (int n = 1; n <= of->sections(); ++n) {
        const ElectrodePins& e = of->section(n).pins;
        for (const auto& [pins, word] :
             {std::pair(&e.grid, "g"), {&e.screen, "g2"}, {&e.plate, "a"}, {&e.cathode, "k"}})
            for (const int pin : *pins)
                names[pin] += (names[pin].isEmpty() ? "" : ", ") + QString(word) + QString("'").repeated(n - 1);
    }
    const double radius = std::min(width(), height()) / 2.0 - 34;
    p.setBrush(theme::color(Role::AshRaised));
    p.setPen(QPen(theme::color(Role::Line), 1.5));
    p.drawEllipse(c, radius, radius);
    for (int pin = 1; pin <= form->pins; ++pin) {
        // From below, clockwise; the gap (or the key) at the bottom.
        const double turn = (pin - 0.5 + (form->places > form->pins ? 0.5 : 0)) / form->places;
        const double angle = 2 * M_PI * turn + M_PI / 2;
        const QPointF way(std::cos(angle), std::sin(angle));
        p.setPen(Qt::NoPen);
        p.setBrush(theme::color(names.count(pin) ? Role::Brass : Role::Line));
        p.drawEllipse(c + 0.8 * radius * way, 4, 4);
        p.setPen(theme::color(Role::BoneDim));
        const QPointF in = c + 0.5 * radius * way, out = c + (radius + 17) * way;
        p.drawText(QRectF(in.x() - 10, in.y() - 8, 20, 16), Qt::AlignCenter, QString::number(pin));
        p.setPen(theme::color(Role::Bone));
        p.drawText(QRectF(out.x() - 24, out.y() - 8, 48, 16), Qt::AlignCenter, names[pin]);
    }
    if (names.count(topCap)) {
        p.setPen(theme::color(Role::Ember));
        p.drawText(QRectF(0, 0, width(), 14), Qt::AlignCenter, names[topCap] + ": cap on the glass");
    }
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(QRectF(0, height() - 14, width(), 14), Qt::AlignCenter, text(of->base) + " from below");
}

ValveSheet::ValveSheet(QWidget* parent) : QWidget(parent) {
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 0, 0, 0);
    auto* head = new QHBoxLayout;
    title = label("", Size::Title, true);
    head->addWidget(title, 1);
    section = new QComboBox;
    section->setObjectName("valveSection");
    section->setAccessibleName("Section of the bottle");
    head->addWidget(section);
    rows->addLayout(head);
    plot = new QCustomPlot;
    plot->setMinimumHeight(260);
    rows->addWidget(plot, 1);
    auto* foot = new QHBoxLayout;
    base = new BasePicture;
    base->setMinimumSize(200, 190);
    foot->addWidget(base);
    figures = label("");
    figures->setObjectName("valveFigures");
    figures->setWordWrap(true);
    figures->setAlignment(Qt::AlignTop);
    foot->addWidget(figures, 1);
    rows->addLayout(foot);
    connect(section, &QComboBox::currentIndexChanged, this, &ValveSheet::draw);
}

void ValveSheet::show(const ValveType& of) {
    type = &of;
    title->setText(text(of.type));
    const QSignalBlocker quiet(section);
    section->clear();
    for (int n = 1; n <= of.sections(); ++n)
        section->addItem(of.section(n).name.empty() ? QString("section %1").arg(n) : text(of.section(n).name));
    section->setVisible(of.sections() > 1);
    base->show(of);
    draw();
}

void ValveSheet::draw() {
    if (!type) return;
    const TypeSection& s = type->section(section->currentIndex() + 1);
    const ValveLimits& l = s.limits;
    const PublishedPoint first = s.published.points.empty()
                                     ? PublishedPoint{250, 250, -2, 0.005, 0, 0, 0, 0, false, false, {}}
                                     : s.published.points.front();
    const double mostVolts = l.plateVolts > 0 ? 1.1 * l.plateVolts : 1.6 * first.plate;
    const double screen = first.screen > 0 ? first.screen : mostVolts / 2;
    PublishedPoint cut = first;
    cut.plateAmps = 0.02 * first.plateAmps;
    cut.plate = s.pentode ? first.plate : mostVolts, cut.screen = screen;
    const double step = niceStep(-gridForCurrent(s.law, cut) / 9);
    const double zero = figuresAt(s.law, s.pentode ? mostVolts / 2 : mostVolts / 4, 0, screen).plateAmps;
    const double mostAmps = std::max(2.2 * first.plateAmps, std::min(zero, 6 * first.plateAmps));
    plot->clearPlottables();
    plot->clearItems();
    theme::dress(*plot, "plate volts", "plate mA");
    constexpr int points = 120;
    for (int k = 0; k < 12; ++k) {
        const double grid = -k * step;
        QVector<double> x, y;
        for (int n = 0; n <= points; ++n) {
            const double plate = mostVolts * n / points, amps = figuresAt(s.law, plate, grid, screen).plateAmps;
            if (amps > 0.95 * mostAmps) break;
            x.push_back(plate);
            y.push_back(1e3 * amps);
        }
        if (y.size() < 2 || *std::max_element(y.begin(), y.end()) < 0.01e3 * mostAmps) continue;
        auto* curve = plot->addGraph();
        curve->setData(x, y, true);
        curve->setPen(QPen(theme::color(Role::Bone), 1.3));
        auto* word = new QCPItemText(plot);
        word->position->setCoords(x.back(), y.back());
        word->setPositionAlignment(x.back() > 0.97 * mostVolts ? Qt::AlignRight | Qt::AlignBottom
                                                               : Qt::AlignLeft | Qt::AlignBottom);
        word->setText(k == 0 ? "grid 0 V" : text(grid, Unit::Volt));
        word->setFont(theme::figures(Size::Small));
        word->setColor(theme::color(Role::BoneDim));
    }
    if (l.plateWatts > 0) {
        auto* limit = plot->addGraph();
        QVector<double> x, y;
        for (int n = 1; n <= points; ++n) {
            x.push_back(mostVolts * n / points);
            y.push_back(1e3 * l.plateWatts / x.back());
        }
        limit->setData(x, y, true);
        limit->setPen(QPen(theme::color(Role::Stop), 1.2, Qt::DashLine));
    }
    QVector<double> x, y;
    for (const PublishedPoint& p : s.published.points)
        if (!p.cutoff && !p.strapped && (!s.pentode || std::abs(p.screen - screen) < 1)) {
            x.push_back(p.plate);
            y.push_back(1e3 * p.plateAmps);
        }
    auto* published = plot->addGraph();
    published->setData(x, y);
    published->setLineStyle(QCPGraph::lsNone);
    published->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssCircle, theme::color(Role::Brass), theme::color(Role::Brass), 8));
    plot->xAxis->setRange(0, mostVolts);
    plot->yAxis->setRange(0, 1e3 * mostAmps);
    plot->replot();
    const ValveFigures f = figuresAt(s.law, first);
    QStringList words;
    words << QString("%1 at %2: %3, gm %4 mA/V, mu %5, rp %6")
                 .arg(s.pentode
                          ? QString("Screen %1, grid %2").arg(text(screen, Unit::Volt), text(first.grid, Unit::Volt))
                          : QString("Grid %1").arg(text(first.grid, Unit::Volt)),
                      text(first.plate, Unit::Volt), text(f.plateAmps, Unit::Ampere), text(1e3 * f.gm, Unit::None, 2),
                      text(f.mu, Unit::None, 2), text(f.rp, Unit::Ohm, 2));
    words << QString("Limits (%1): plate %2 and %3%4, cathode %5")
                 .arg(l.system == RatingSystem::DesignCentre ? "design centre"
                      : l.system == RatingSystem::Absolute   ? "absolute"
                                                             : "design maximum",
                      listed(l.plateVolts, Unit::Volt), listed(l.plateWatts, Unit::Watt),
                      s.pentode ? QString(", screen %1 and %2")
                                      .arg(listed(l.screenVolts, Unit::Volt), listed(l.screenWatts, Unit::Watt))
                                : QString(),
                      listed(l.cathodeAmps, Unit::Ampere));
    words << QString("Heater %1, %2%3; to cathode at most: %4")
                 .arg(text(type->heater.volts, Unit::Volt), text(type->heater.amps, Unit::Ampere),
                      type->heater.directlyHeated ? ", it is the cathode" : "",
                      type->heater.directlyHeated ? "-" : listed(l.heaterCathodeVolts, Unit::Volt));
    words << (s.fit.predicted > 0
                  ? QString("Model: %1 % off what it was fitted to, %2 % at a published point left out.")
                        .arg(100 * s.fit.fitted, 0, 'f', 0)
                        .arg(100 * s.fit.predicted, 0, 'f', 0)
                  : QString(
                        "Model: %1 % off what it was fitted to; too little is published to say how far off elsewhere.")
                        .arg(100 * s.fit.fitted, 0, 'f', 0));
    if (!type->note.empty()) words << text(type->note);
    words << QString("Pins: a plate, k cathode, g grid%1, h heater%2.")
                 .arg(s.pentode ? ", g2 screen" : "", type->sections() > 1 ? "; with ' of section 2" : "");
    figures->setText(words.join("\n"));
}

} // namespace ember::app
