// The one reading that First Power looks at: where the leads go, its range, what may be wrong, and what is typed.
#include "first_power_station.h"

#include "app/stations/underside/clips_view.h"
#include "app/theme/theme.h"
#include "app/widgets/band_scale.h"
#include "app/widgets/share_bars.h"
#include "app/widgets/words.h"
#include "reading_table.h"

#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>

#include <algorithm>

namespace ember::app {

using procedure::Expectation;
using procedure::Verdict;
using theme::Role;

void FirstPowerStation::showPoint() {
    const Expectation* at = expectation();
    if (!at) return;
    const Expectation& e = *at;
    pointLabel->setText(QString::fromStdString(e.point.label));
    probe->setText(text(e.point.probe + "; meter on " + procedure::meterSetting(e)));
    unit->setText(QString::fromUtf8(symbol(e.point.unit()).data()));
    const LogEntry* have = procedure::shownReading(document.build(), index, e.point, document.strand());
    if (shownPoint != e.point.id) reading->clear(); // what is being typed stays when bands or verdicts arrive
    shownPoint = e.point.id;
    clips->show(e.point.id);
    probe->setAccessibleDescription(clips->inWords());
    reading->setPlaceholderText(have ? text(procedure::readText(have->value, e.point.unit(), 4)) : QString());
    scale->show(e.band.low, e.band.high, e.stopAbove, e.stopBelow, have ? std::optional(have->value) : std::nullopt,
                e.point.unit());
    const QString band = text(procedure::bandText(e.band, e.point.unit()));
    scale->setAccessibleDescription(band);
    const QString expected = e.band.known() ? "Range: " + band : band;
    if (stage()->rough)
        verdict->setText(expected + (have ? ", a first estimate: judged in a moment" : ", a first estimate"));
    else
        verdict->setText(have ? text(procedure::sentence(e, have->value)) : expected);
    verdict->setStyleSheet("color:" + verdictColour(have).name());
    showCauses();
}

/// What may be wrong: by all readings of the stage together, then by this one alone.
void FirstPowerStation::showCauses() {
    const Expectation* at = expectation();
    if (!at) return;
    const Expectation& e = *at;
    const auto list = [&](const QString& head, const std::vector<Expectation::Cause>& all) {
        QString out;
        for (std::size_t k = 0; k < std::min<std::size_t>(4, all.size()); ++k)
            out += QString("<br>%1 <span style='color:%3'>(%2)</span>")
                       .arg(QString::fromStdString(all[k].sentence).toHtmlEscaped(), text(all[k].value, e.point.unit()),
                            theme::color(Role::BoneDim).name());
        return out.isEmpty() ? QString() : "<p><b>" + coloured(Role::Brass, head) + "</b>" + out + "</p>";
    };
    const QString both = list("Below the range", e.ifLow) + list("Above the range", e.ifHigh);
    const procedure::Suspicion* s = document.suspicion(index);
    showSuspects(s);
    if (s) return causes->clear(); // all readings together say more than this one
    if (e.point.kind == procedure::PointKind::Held)
        return causes->setText("Above " + text(procedure::dischargedVolts, Unit::Volt) + ": wait, then read again.");
    causes->setText(both.isEmpty() ? "No single fault of those simulated moves this reading out of its range. Look at "
                                     "the meter, its range and its leads first."
                                   : "<b>If it is wrong</b>" + both);
}

/// What would explain all readings of the step, and which reading would tell most.
void FirstPowerStation::showSuspects(const procedure::Suspicion* s) {
    suspects->setVisible(s);
    if (!s) return;
    std::vector<ShareBars::Row> bars;
    constexpr std::size_t most = 4;
    constexpr double least = 0.01;
    if (s->ranking.healthyShare > least) bars.push_back({"everything is sound", s->ranking.healthyShare, true});
    for (std::size_t k = 0; k < s->ranking.suspects.size() && bars.size() <= most; ++k)
        if (const auto& x = s->ranking.suspects[k]; x.share > least)
            bars.push_back({text(x.fault.sentence), x.share, false});
    bars.push_back({"none of these", s->ranking.noneShare, false});
    shares->show(std::move(bars));
    if (!s->next)
        return nextBest->setText("No other reading of this step would tell more. If two causes are left, exchange the "
                                 "part that is easier to "
                                 "exchange.");
    const procedure::NextReading& n = *s->next;
    nextBest->setText(QString("<b>%1</b><br>%2.<br>%3")
                          .arg(text(n.point.label).toHtmlEscaped(), text(n.why).toHtmlEscaped(),
                               n.powerOff ? QString("Unplug, read every capacitor, then read it on ohms: about %1 min. "
                                                    "Type it in the log line: \"%2 …\".")
                                                .arg(n.minutes, 0, 'f', 0)
                                                .arg(text(n.point.id))
                                          : coloured(Role::Ember, "Under power: both clips on with the plug out.")));
}

void FirstPowerStation::takeTyped() {
    const Expectation* e = expectation();
    if (!e) return;
    const auto v = procedure::parseReading(document.build(), e->point, reading->text().toStdString());
    if (!v) {
        verdict->setText(text(v.problem().sentence));
        verdict->setStyleSheet(QString("color:%1").arg(theme::color(Role::Ember).name()));
        return;
    }
    const QString typed = reading->text();
    reading->clear();
    if (!take(e->point, index, *v, "typed")) reading->setText(typed);
}

bool FirstPowerStation::take(const procedure::TestPoint& point, int at, double value, const std::string& source) {
    const auto size = document.build().log.size();
    const auto taken = document.takeReading(point, at, value, source);
    Q_EMIT said(taken.sentence, taken.good);
    // Enter takes the reading and moves on; what is wrong stays in view.
    const Expectation* here = expectation();
    if (taken.good && at == index && here && here->point.id == point.id && row + 1 < rows->rowCount())
        rows->selectRow(row + 1);
    if (isVisible()) reading->setFocus();
    return document.build().log.size() > size; // else it was not kept
}

void FirstPowerStation::explain() {
    const Expectation* e = expectation();
    const LogEntry* have = e ? procedure::shownReading(document.build(), index, e->point, document.strand()) : nullptr;
    if (!have) return Q_EMIT said("Take a reading first, then explain it.", false);
    LogEntry explained = *have;
    const QString what = text(procedure::sentence(*e, have->value));
    if (procedure::verdictOf(have->verdict) == Verdict::Stop)
        return Q_EMIT said("A reading past a stop limit is not explained: find the cause, then begin the step again.",
                           false);
    const quint64 asked = document.revisionNow();
    bool ok = false;
    const QString words = QInputDialog::getText(this, "Explain the reading", what + "\nWhy is it accepted as it is?",
                                                QLineEdit::Normal, {}, &ok);
    if (!ok || words.trimmed().isEmpty()) return;
    if (asked != document.revisionNow())
        return Q_EMIT said("The build changed meanwhile: look at the reading again.", false);
    explained.time.clear();
    explained.text = words.trimmed().toStdString();
    document.log(explained);
}

} // namespace ember::app
