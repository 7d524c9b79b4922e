#include "discharge_clock.h"

#include "app/widgets/words.h"
#include "core/plan/discharge.h"

#include <cmath>

namespace ember::app {

DischargeClock::DischargeClock(DischargeWatch& of, QWidget* parent) : QLabel(parent), watch(of) {
    setFont(theme::text(theme::Size::Text));
    setWordWrap(true);
    setTextFormat(Qt::RichText);
    setAccessibleName("Discharge");
    connect(&watch, &DischargeWatch::moved, this, &DischargeClock::refresh);
}

void DischargeClock::show(const plan::Discharge& discharge, const plan::Curve& hot) {
    const auto* c = discharge.slowest();
    if (!c) {
        planned = "Unplug, then measure every capacitor before a hand goes in. The meter is the proof.";
        return refresh();
    }
    const auto within = [](double t) {
        return std::isnan(t) ? QString("takes hours") : "at " + app::text(t, Unit::Second, 2);
    };
    planned = QString("After switching off, at worst (mains high, valves cold, fuses open): %1 holds %2.<br><b>50 V "
                      "%3<br>10 V %4</b>")
                  .arg(tag(c->id), app::text(c->start, Unit::Volt), within(c->to50), within(c->to10));
    if (!hot.seconds.empty())
        if (const double best = hot.below(0, 50); !std::isnan(best))
            planned += QString("<br>With the valves still hot: 50 V at %1.").arg(app::text(best, Unit::Second, 2));
    if (discharge.byHand) planned += "<br>" + app::text(plan::inWords(discharge.byHand)).toHtmlEscaped();
    planned += "<br>Unplug, wait, then measure every capacitor. The clock is not proof; the meter is. "
               "Keep children, pets and visitors out of the room.";
    refresh();
}

void DischargeClock::refresh() {
    setText(watch.running() ? "<b>" + watch.sentence().toHtmlEscaped() + "</b><br>" + planned : planned);
}

} // namespace ember::app
