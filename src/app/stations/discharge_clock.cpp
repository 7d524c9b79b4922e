#include "discharge_clock.h"

#include "app/widgets/clock.h"
#include "app/widgets/words.h"
#include "core/plan/discharge.h"

#include <cmath>

namespace ember::app {

namespace {

QString capacitor(const plan::CapacitorDischarge& c) {
    return tag(c.id);
}

} // namespace

DischargeClock::DischargeClock(QWidget* parent) : QLabel(parent), timer(new Timer(this)) {
    setFont(theme::text(theme::Size::Text));
    setWordWrap(true);
    setTextFormat(Qt::RichText);
    setAccessibleName("Discharge");
    connect(timer, &Timer::timeout, this, &DischargeClock::tick);
}

bool DischargeClock::running() const {
    return timer->isActive();
}

QString DischargeClock::byHand() const {
    const auto* c = discharge.slowest();
    if (!c || !(c->start > 50) || c->to50 < 60) return {};
    const auto hand = plan::dischargeByHand(c->farads, c->start);
    return QString("<br>By hand: %1, %2, insulated clips, held %3; read again after a minute, volts come back.")
        .arg(app::text(formatExact(hand.ohms, Unit::Ohm)), app::text(hand.watts, Unit::Watt),
             app::text(hand.seconds, Unit::Second, 2));
}

void DischargeClock::show(const plan::Discharge& d, const plan::Curve& withHotValves) {
    timer->stop();
    discharge = d;
    hot = withHotValves;
    const auto* c = discharge.slowest();
    if (!c) return setText("Unplug, then measure every capacitor before a hand goes in. The meter is the proof.");
    const auto within = [](double t) {
        return std::isnan(t) ? QString("hours") : "at " + app::text(t, Unit::Second, 2);
    };
    QString words =
        QString("After switching off, at worst (valves cold, fuses open): %1 holds %2;<br><b>50 V %3<br>10 V "
                "%4</b>")
            .arg(capacitor(*c), app::text(c->start, Unit::Volt), within(c->to50), within(c->to10));
    if (!hot.seconds.empty())
        if (const double best = hot.below(0, 50); !std::isnan(best))
            words += QString("<br>With the valves still hot: 50 V at %1.").arg(app::text(best, Unit::Second, 2));
    setText(words + byHand() +
            "<br>Unplug, wait, then measure every capacitor. The clock is not proof; the meter is. "
            "Keep children, pets and visitors out of the room.");
}

void DischargeClock::start() {
    since = Clock::now();
    timer->start(200);
    tick();
}

void DischargeClock::tick() {
    const auto* c = discharge.slowest();
    if (!c) return timer->stop();
    const double t = static_cast<double>(Clock::now() - since) / 1000;
    std::size_t k = 0;
    while (k + 1 < discharge.seconds.size() && discharge.seconds[k] < t) ++k;
    QString wait = c->to50 > t ? QString("wait %1 more, then measure").arg(app::text(c->to50 - t, Unit::Second, 2))
                               : QString("now measure every capacitor");
    if (std::isnan(c->to50)) wait = "it holds for hours: discharge it by hand, then measure";
    setText(QString("Off for %1: %2 may still hold <b>%3</b>;<br><b>%4</b>.%5<br>The clock is not proof; the meter is.")
                .arg(app::text(t, Unit::Second, 2), capacitor(*c), app::text(c->volts[k], Unit::Volt), wait, byHand()));
    if (t > discharge.seconds.back() && !std::isnan(c->to50)) timer->stop();
}

} // namespace ember::app
