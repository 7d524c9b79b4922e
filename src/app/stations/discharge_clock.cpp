#include "discharge_clock.h"

#include "app/widgets/words.h"

#include <QDateTime>
#include <QTimer>

#include <cmath>

namespace ember::app {

DischargeClock::DischargeClock(QWidget* parent) : QLabel(parent), timer(new QTimer(this)) {
    setFont(theme::text(theme::Size::Text));
    setWordWrap(true);
    setTextFormat(Qt::RichText);
    setAccessibleName("Discharge");
    connect(timer, &QTimer::timeout, this, &DischargeClock::tick);
}

bool DischargeClock::running() const {
    return timer->isActive();
}

void DischargeClock::setCurve(const plan::Curve& c) {
    timer->stop();
    curve = c;
    if (curve.seconds.empty())
        return setText("Unplug, then measure every capacitor before a hand goes in. The meter is the proof.");
    const auto fall = [&](double v) {
        const double t = curve.below(0, v);
        return std::isnan(t) ? "over " + app::text(curve.seconds.back(), Unit::Second) : app::text(t, Unit::Second);
    };
    setText(QString("B+1 holds %1 now. After switching off, computed:<br><b>50 V at %2<br>10 V at %3</b><br>Unplug, "
                    "wait, then measure every capacitor. The clock is not proof; the meter is.")
                .arg(app::text(curve.nodes[0].front(), Unit::Volt), fall(50), fall(10)));
}

void DischargeClock::start() {
    since = QDateTime::currentMSecsSinceEpoch();
    timer->start(200);
    tick();
}

void DischargeClock::tick() {
    if (curve.seconds.empty()) return timer->stop();
    const double t = static_cast<double>(QDateTime::currentMSecsSinceEpoch() - since) / 1000;
    std::size_t k = 0;
    while (k + 1 < curve.seconds.size() && curve.seconds[k] < t) ++k;
    const double fifty = curve.below(0, 50);
    QString wait = fifty > t ? QString("wait %1 more, then measure").arg(app::text(fifty - t, Unit::Second, 2))
                             : QString("now measure every capacitor");
    if (std::isnan(fifty)) wait = "it will not fall by itself: discharge through a resistor, then measure";
    setText(
        QString("Off for %1: B+1 should still hold <b>%2</b>;<br><b>%3</b>.<br>The clock is not proof; the meter is.")
            .arg(app::text(t, Unit::Second, 2), app::text(curve.nodes[0][k], Unit::Volt), wait));
    if (t > curve.seconds.back()) timer->stop();
}

} // namespace ember::app
