#include "bias_fall.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/plan/bias_range.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

constexpr std::array sources{std::pair{BiasSource::Winding, "its own winding, or a tap of one"},
                             std::pair{BiasSource::PlateResistor, "the plate winding, through a resistor"},
                             std::pair{BiasSource::PlateCapacitor, "the plate winding, through a capacitor"}};

} // namespace

BiasFall::BiasFall(Document& d, QWidget* parent)
    : QWidget(parent),
      document(d),
      fields(d, this),
      picture(this, [this] {
          std::vector<TurnedPicture::Piece> all{[this](QPainter& p) { paintScale(p); }};
          const auto add = [&](auto paint) {
              all.emplace_back([this, paint](QPainter& p) {
                  if (solvedHere()) paint(p);
              });
          };
          add([this](QPainter& p) {
              paintSource(p);
              paintSeries(p);
          });
          add([this](QPainter& p) {
              paintPlateau(p, reservoirLeft, document.figures().nominal->biasReservoir, "reservoir");
          });
          add([this](QPainter& p) { paintPlateau(p, railLeft(), document.figures().nominal->biasRail, "bias rail"); });
          add([this](QPainter& p) { paintAdjusters(p); });
          return all;
      }) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setMinimumHeight(150);
    setAccessibleName("The bias supply below ground: source, reservoir, rail, and what each adjuster reaches");
    source = new QPushButton(this);
    source->setObjectName("biasSource");
    source->setProperty("link", true);
    source->move(28, 0);
    connect(source, &QPushButton::clicked, this, [this] {
        QMenu menu(this);
        fillMenu(menu);
        menu.exec(source->mapToGlobal(QPoint(0, source->height())));
    });
    renewal.setSingleShot(true);
    connect(&renewal, &Timer::timeout, this, [this] {
        fields.dress();
        placeFields();
        picture.renew();
    });
    connect(&document, &Document::buildChanged, this, [this] {
        rebuildFields();
        fields.refresh();
    });
    connect(&document, &Document::figuresChanged, this, [this] { renewal.start(); });
    connect(&fields, &PlacedFields::said, this, &BiasFall::said);
    rebuildFields();
}

void BiasFall::rebuildFields() {
    const BiasSupply& bias = document.build().bias;
    const std::string now = std::to_string(static_cast<int>(bias.from));
    if (now == shape) return;
    shape = now;
    static constexpr std::array words{"own winding", "plate winding, R", "plate winding, C"};
    source->setText(words[static_cast<std::size_t>(bias.from)]);
    source->setAccessibleName(QString("Bias supply fed from ") + words[static_cast<std::size_t>(bias.from)]);
    source->adjustSize();
    fields.clear();
    if (bias.from == BiasSource::Winding) {
        fields.add("/transformer/biasVolts", "Bias winding, volts");
    } else {
        fields.add("/bias/feed", "Resistor that feeds the bias supply");
        if (bias.from == BiasSource::PlateCapacitor)
            fields.add("/bias/feedCapacitance", "Capacitor that feeds the bias supply");
    }
    fields.add("/bias/reservoir/capacitance", "Bias reservoir");
    fields.add("/bias/reservoir/volts", "Bias reservoir's rating", true);
    fields.add("/bias/series/resistance", "Resistor between the two");
    fields.add("/bias/second/capacitance", "Bias rail's capacitor");
    fields.add("/bias/second/volts", "Bias rail's capacitor's rating", true);
    fields.add("/bias/adjuster", "Each adjuster");
    fields.add("/bias/floor", "From each adjuster's hot end to ground");
    fields.add("/bias/failSafe", "From each wiper to the rail");
    fields.refresh();
    placeFields();
    picture.renew();
}

double BiasFall::lowest() const {
    const plan::Figures& f = document.figures();
    double least = -10;
    for (const auto* s : {&f.low, &f.nominal, &f.high})
        if (*s && std::isfinite((*s)->biasReservoir)) least = std::min(least, (*s)->biasReservoir);
    return 5 * std::floor(1.06 * least / 5);
}

double BiasFall::barPitch() const {
    const double valves = std::max(1.0, static_cast<double>(adjustersOf(document.build()).size()));
    return std::clamp((width() - figuresRight - barsLeft()) / valves, 10.0, 34.0);
}

double BiasFall::y(double volts) const {
    return top + (height() - top - bottomGap) * volts / lowest();
}

QRectF BiasFall::placeOf(const PlacedFields::Field& f) const {
    const double foot = height() - bottomGap;
    const auto capacitor = [&](double x, bool rating) {
        return rating ? QRectF(x + plateau / 2 + 18, 4, 56, 18) : QRectF(x + plateau / 2 - 72, 4, 88, 18);
    };
    if (f.pointer == "/transformer/biasVolts" || f.pointer == "/bias/feed") return {34, foot + 6, 92, 20};
    if (f.pointer == "/bias/feedCapacitance") return {34, foot + 26, 92, 20};
    if (f.pointer == "/bias/reservoir/capacitance") return capacitor(reservoirLeft, false);
    if (f.pointer == "/bias/reservoir/volts") return capacitor(reservoirLeft, true);
    if (f.pointer == "/bias/second/capacitance") return capacitor(railLeft(), false);
    if (f.pointer == "/bias/second/volts") return capacitor(railLeft(), true);
    if (f.pointer == "/bias/series/resistance") return {reservoirLeft + plateau + slope / 2 - 44, foot + 6, 88, 20};
    const double x = adjustersLeft();
    if (f.pointer == "/bias/failSafe") return {x + 70, 4, 76, 18};
    if (f.pointer == "/bias/adjuster") return {x + 70, foot + 6, 76, 18};
    if (f.pointer == "/bias/floor") return {x + 70, foot + 25, 76, 18};
    return {};
}

void BiasFall::placeFields() {
    fields.place([this](const PlacedFields::Field& f) { return placeOf(f); });
}

void BiasFall::resizeEvent(QResizeEvent*) {
    placeFields();
}

void BiasFall::paintSource(QPainter& p) const {
    const Build& b = document.build();
    constexpr double x0 = 46, x1 = 124;
    p.setPen(QPen(theme::color(Role::BoneDim), 1.3));
    const plan::Steady& solved = *document.figures().nominal;
    const double rms = b.bias.from == BiasSource::Winding
                           ? b.transformer.biasVolts * solved.conditions.mainsVolts / b.transformer.primaryVolts
                           : solved.legVolts;
    QPainterPath wave; // of each period the half that the diode takes; what is beyond the picture ends at its foot
    for (int k = 0; k <= 80; ++k) {
        const double v = rms * std::numbers::sqrt2 * std::max(0.0, std::sin(std::numbers::pi * k / 20));
        const QPointF at(x0 + (x1 - x0) * k / 80, y(-std::min(v, -lowest())));
        k ? wave.lineTo(at) : wave.moveTo(at);
    }
    p.drawPath(wave);
    // The diode lets current out of the reservoir: its cathode is at the winding.
    const QPointF at((x1 + reservoirLeft) / 2, y(solved.biasReservoir));
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    p.drawLine(QPointF(x1 - 6, at.y()), QPointF(reservoirLeft, at.y()));
    p.setBrush(theme::color(Role::Soot));
    p.drawPolygon(QPolygonF({at + QPointF(7, -6), at + QPointF(7, 6), at + QPointF(-6, 0)}));
    p.drawLine(at + QPointF(-6, -6), at + QPointF(-6, 6));
    p.setBrush(Qt::NoBrush);
}

/// The capacitor hangs between ground and its plateau, the positive end at ground.
void BiasFall::paintPlateau(QPainter& p, double x, double volts, const char* name) const {
    const double centre = x + plateau / 2, at = y(volts);
    p.setPen(QPen(theme::color(Role::BoneFaint), 1.2));
    p.drawLine(QPointF(centre, top + 14), QPointF(centre, at));
    p.setPen(QPen(theme::color(Role::Bone), 2));
    p.drawLine(QPointF(centre, top), QPointF(centre, top + 8));
    for (const double plate : {8.0, 14.0})
        p.drawLine(QPointF(centre - 13, top + plate), QPointF(centre + 13, top + plate));
    p.drawLine(QPointF(centre - 24, top + 5), QPointF(centre - 17, top + 5)); // its positive end
    p.drawLine(QPointF(centre - 20.5, top + 1.5), QPointF(centre - 20.5, top + 8.5));
    p.fillRect(QRectF(x, at - 1.5, plateau, 3), theme::color(Role::Slate));
    p.setFont(theme::figures(static_cast<Size>(18), true));
    p.setPen(theme::color(Role::Bone));
    p.drawText(QRectF(x - 12, at - 26, plateau + 24, 22), Qt::AlignCenter, text(volts, Unit::Volt));
    p.setFont(theme::text(Size::Small));
    p.setPen(theme::color(Role::BoneDim));
    p.drawText(QRectF(x, at + 4, plateau, 16), Qt::AlignCenter, name);
}

/// What each wiper reaches: a bar from hottest to coldest, a mark where it stands.
void BiasFall::paintAdjusters(QPainter& p) const {
    const Build& b = document.build();
    const plan::Figures& f = document.figures();
    const plan::BiasRange now = plan::biasRange(b.bias, *f.nominal);
    const double foot = height() - bottomGap, pitch = barPitch(), right = barsLeft() + barsWidth();
    const double enough = plan::coldEnough(b, catalogueOf(b), *f.nominal);
    const bool reaches = now.coldest <= enough;
    p.setFont(theme::text(Size::Small));
    std::size_t k = 0;
    for (const AdjusterAt& adjuster : adjustersOf(b)) {
        const double at = barsLeft() + (static_cast<double>(k) + 0.5) * pitch;
        p.setPen(QPen(theme::color(Role::Brass), 3));
        p.drawLine(QPointF(at, y(now.hottest)), QPointF(at, y(now.coldest)));
        if (k < f.nominal->wipers.size()) {
            p.setPen(QPen(theme::color(Role::Bone), 3));
            p.drawLine(QPointF(at - 0.26 * pitch, y(f.nominal->wipers[k])),
                       QPointF(at + 0.26 * pitch, y(f.nominal->wipers[k])));
        }
        p.setPen(theme::color(Role::BoneDim));
        const StageValve* valve = b.channels[adjuster.channel].stages[adjuster.stage].valve(adjuster.at);
        if (pitch > 20)
            p.drawText(QRectF(at - pitch / 2, top - 18, pitch, 16), Qt::AlignCenter,
                       valve ? tag(valve->bottle) : QString::fromStdString(adjuster.at).toUpper());
        ++k;
    }
    p.setFont(theme::figures(Size::Small));
    const auto figure = [&](double v, Role role) {
        p.setPen(theme::color(role));
        p.drawText(QRectF(right + 4, y(v) - 8, figuresRight, 16), Qt::AlignLeft | Qt::AlignVCenter,
                   text(v, Unit::Volt));
    };
    figure(now.hottest, Role::BoneDim);
    figure(now.coldest, Role::BoneDim);
    if (std::isfinite(enough) && enough > lowest()) {
        p.setPen(QPen(theme::color(reaches ? Role::Verdigris : Role::Ember), 1.4, Qt::DashLine));
        p.drawLine(QPointF(barsLeft(), y(enough)), QPointF(right, y(enough)));
        const bool clear = std::abs(y(enough) - y(now.coldest)) > 14 && std::abs(y(enough) - y(now.hottest)) > 14;
        if (clear) figure(enough, reaches ? Role::Verdigris : Role::Ember);
    }
    // Beside them: the ends of the mains, a cold start, and a wiper that opens.
    struct Line {
        QString words;
        Role role = Role::BoneDim;
    };
    std::vector<Line> lines;
    const auto at = [&](const char* what, double volts, double mains) {
        lines.push_back({QString("%1 %2 at %3").arg(what, text(volts, Unit::Volt), text(mains, Unit::Volt))});
    };
    if (f.high) at("hottest", plan::biasRange(b.bias, *f.high).hottest, b.mains.high);
    if (f.low) at("coldest", plan::biasRange(b.bias, *f.low).coldest, b.mains.low);
    if (std::isfinite(enough))
        lines.push_back({"cold start needs " + text(enough, Unit::Volt), reaches ? Role::Verdigris : Role::Ember});
    lines.push_back(std::isfinite(now.openWiper) ? Line{"if a wiper opens: coldest"}
                                                 : Line{"if a wiper opens: no bias", Role::Ember});
    p.setFont(theme::text(Size::Small));
    const double x = adjustersLeft();
    for (std::size_t n = 0; n < lines.size(); ++n) {
        p.setPen(theme::color(lines[n].role));
        p.drawText(QRectF(x, top + 8 + 18 * static_cast<double>(n), 168, 16), Qt::AlignLeft, lines[n].words);
    }
    p.setPen(theme::color(Role::BoneDim));
    for (const auto& [words, row] : {std::pair{"fail-safe", 5.0}, {"adjuster", foot + 7}, {"its floor", foot + 26}})
        p.drawText(QRectF(x, row, 66, 16), Qt::AlignLeft, words);
}

bool BiasFall::solvedHere() const {
    return document.figures().nominal && std::isfinite(document.figures().nominal->biasReservoir);
}

void BiasFall::paintScale(QPainter& p) const {
    p.fillRect(rect(), theme::color(Role::Soot));
    p.setFont(theme::figures(Size::Small));
    if (!solvedHere()) {
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(rect(), Qt::AlignCenter,
                   document.solving() && !document.figures().nominal
                       ? "computing ..."
                       : "No bias supply: the winding gives 0 V. Set its volts, or feed it from the plate winding "
                         "with the menu key.");
        return;
    }
    const double step = lowest() < -60 ? 20 : lowest() < -30 ? 10 : 5, right = barsLeft() + barsWidth();
    const auto line = [&](double v, double from, double to) { p.drawLine(QPointF(from, y(v)), QPointF(to, y(v))); };
    for (int k = 0; - step * k >= lowest() - 0.1; ++k) {
        const double v = k == 0 ? 0 : -step * k;
        p.setPen(QPen(theme::color(v == 0 ? Role::BoneFaint : Role::AshRaised), 1));
        line(v, 42, v == 0 ? right : railLeft() + plateau);
        if (v != 0) line(v, barsLeft(), right); // words stand between
        p.setPen(theme::color(Role::BoneDim));
        p.drawText(QRectF(0, y(v) - 8, 36, 16), Qt::AlignRight | Qt::AlignVCenter,
                   v == 0 ? QString("0 V") : QString::number(v));
    }
}

void BiasFall::paintSeries(QPainter& p) const {
    const plan::Steady& s = *document.figures().nominal;
    const double a = y(s.biasReservoir), z = y(s.biasRail);
    const double x0 = reservoirLeft + plateau, x1 = railLeft(), middle = (x0 + x1) / 2, my = (a + z) / 2;
    p.setPen(QPen(theme::color(Role::Bone), 1.5));
    p.setBrush(theme::color(Role::Soot));
    p.drawLine(QPointF(x0, a), QPointF(x1, z));
    p.drawRect(QRectF(middle - 19, my - 7, 38, 14)); // IEC 60617
    p.setBrush(Qt::NoBrush);
}

void BiasFall::paintEvent(QPaintEvent*) {
    QPainter p(this);
    picture.paint(p);
}

void BiasFall::feedFrom(BiasSource from) {
    if (from == document.build().bias.from) return;
    static constexpr std::array<const char*, 3> names{"winding", "plate-resistor", "plate-capacitor"};
    const auto k = static_cast<std::size_t>(from);
    const auto done =
        document.edit(setText(std::string("feed the bias from ") + sources[k].second, "/bias/from", names[k]));
    if (!done) Q_EMIT said(text(done.problem().sentence), false);
}

void BiasFall::fillMenu(QMenu& menu) {
    menu.addSection("Feed the bias supply from");
    for (const auto& [from, words] : sources) {
        QAction* a = menu.addAction(words);
        a->setCheckable(true);
        a->setChecked(from == document.build().bias.from);
        connect(a, &QAction::triggered, this, [this, from = from] { feedFrom(from); });
    }
}

void BiasFall::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    fillMenu(menu);
    menu.exec(e->globalPos());
}

} // namespace ember::app
