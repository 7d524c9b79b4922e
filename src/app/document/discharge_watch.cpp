#include "discharge_watch.h"

#include "app/widgets/words.h"
#include "core/plan/discharge.h"
#include "core/procedure/progress.h"

#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSaveFile>

#include <algorithm>
#include <cmath>

namespace ember::app {

namespace {

constexpr int tickMs = 500;
constexpr double longest = 24 * 3600; // [s] for which one that has no path to discharge is shown

QJsonArray array(const std::vector<double>& values) {
    QJsonArray out;
    for (const double v : values) out.append(v);
    return out;
}

std::vector<double> numbers(const QJsonValue& value) {
    std::vector<double> out;
    for (const QJsonValue& v : value.toArray()) out.push_back(v.toDouble());
    return out;
}

} // namespace

DischargeWatch::DischargeWatch(QString folder, QObject* parent)
    : QObject(parent),
      file(std::move(folder) + "/switched-off.json") {
    connect(&timer, &Timer::timeout, this, &DischargeWatch::tick);
    takeUp();
    if (running()) timer.start(tickMs);
}

void DischargeWatch::fill(Off& off, const plan::Discharge& d) {
    off.at = d.seconds;
    off.most.clear();
    for (std::size_t k = 0; k < d.seconds.size(); ++k) off.most.push_back(d.highest(d.seconds[k]));
    const plan::CapacitorDischarge* last = d.slowest();
    off.capacitor = last ? tag(last->id) : QString();
    off.to50 = last ? last->to50 : plan::unknown;
    off.to10 = d.capacitors.empty() ? plan::unknown : d.allBelow10();
    off.byHand = d.byHand ? text(plan::inWords(d.byHand)) : QString();
}

void DischargeWatch::start(const QString& amplifier, const plan::Discharge& worst) {
    Off off;
    off.amplifier = amplifier;
    off.since = Clock::now();
    fill(off, worst);
    // The same amplifier once more is charged anew. Another of the same name may hold longer: that one stays.
    std::erase_if(offs, [&](const Off& o) { return o.amplifier == amplifier && secondsLeft(o) <= secondsLeft(off); });
    offs.push_back(std::move(off));
    timer.start(tickMs);
    keep();
    Q_EMIT moved();
}

void DischargeWatch::adopt(const QString& amplifier, const plan::Discharge& worst) {
    for (Off& o : offs)
        if (o.amplifier == amplifier && o.at.empty() && !worst.seconds.empty()) {
            fill(o, worst);
            keep();
            Q_EMIT moved();
        }
}

void DischargeWatch::measured(const QString& amplifier) {
    for (Off& o : offs)
        if (o.amplifier == amplifier) o.dischargedByHand = true;
    tick();
}

double DischargeWatch::secondsOf(const Off& o) {
    return static_cast<double>(Clock::now() - o.since) / 1000;
}

double DischargeWatch::secondsLeft(const Off& o) {
    return std::isfinite(o.to10) ? o.to10 - secondsOf(o) : INFINITY;
}

double DischargeWatch::voltsOf(const Off& o) {
    if (o.at.empty()) return plan::unknown;
    const auto after = std::upper_bound(o.at.begin(), o.at.end(), secondsOf(o));
    return o.most[static_cast<std::size_t>(std::max<std::ptrdiff_t>(1, after - o.at.begin()) - 1)];
}

bool DischargeWatch::over(const Off& o) {
    if (std::isfinite(o.to10)) return secondsOf(o) > o.to10;
    return o.dischargedByHand || secondsOf(o) > longest;
}

const DischargeWatch::Off* DischargeWatch::worst() const {
    const Off* out = nullptr;
    for (const Off& o : offs)
        if (!out || secondsLeft(o) > secondsLeft(*out)) out = &o;
    return out;
}

double DischargeWatch::seconds() const {
    return worst() ? secondsOf(*worst()) : 0;
}

double DischargeWatch::volts() const {
    return worst() ? voltsOf(*worst()) : 0;
}

QString DischargeWatch::sentence() const {
    const Off* o = worst();
    if (!o) return {};
    const double t = secondsOf(*o);
    const auto spoken = [](double s) {
        return s < 60     ? QString("%1 s").arg(std::ceil(s))
               : s < 3600 ? QString("%1 min %2 s").arg(static_cast<int>(s) / 60).arg(static_cast<int>(s) % 60)
                          : QString("%1 h").arg(s / 3600, 0, 'f', 1);
    };
    const QString off = QString("%1, off for %2: ").arg(o->amplifier, spoken(t));
    if (o->at.empty())
        return off + "what its capacitors hold is not computed. Pull the plug and measure every capacitor.";
    const QString held = QString("a capacitor may still hold %1. ").arg(text(voltsOf(*o), Unit::Volt, 2));
    if (std::isnan(o->to50)) return off + held + o->capacitor + " takes hours to fall. " + o->byHand;
    const QString wait = o->to50 > t ? QString("Wait %1 more, then measure every capacitor.").arg(spoken(o->to50 - t))
                                     : QString("Measure every capacitor now.");
    return off + held + wait + " The clock is not proof; the meter is.";
}

void DischargeWatch::tick() {
    const auto before = offs.size();
    std::erase_if(offs, over);
    if (offs.empty()) timer.stop();
    if (offs.size() != before) keep();
    Q_EMIT moved();
}

void DischargeWatch::keep() const {
    if (offs.empty()) {
        QFile::remove(file);
        return;
    }
    QJsonArray all;
    for (const Off& o : offs) {
        QJsonObject one{{"amplifier", o.amplifier}, {"since", static_cast<double>(o.since)},
                        {"at", array(o.at)},        {"most", array(o.most)},
                        {"capacitor", o.capacitor}, {"byHand", o.byHand}};
        if (std::isfinite(o.to50)) one["to50"] = o.to50;
        if (std::isfinite(o.to10)) one["to10"] = o.to10;
        all.append(one);
    }
    QDir().mkpath(QFileInfo(file).path());
    QSaveFile out(file);
    if (out.open(QIODevice::WriteOnly)) {
        out.write(QJsonDocument(all).toJson(QJsonDocument::Compact));
        out.commit();
    }
}

void DischargeWatch::takeUp() {
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly)) return;
    for (const QJsonValue& v : QJsonDocument::fromJson(in.readAll()).array()) {
        const QJsonObject one = v.toObject();
        Off o;
        o.amplifier = one["amplifier"].toString();
        o.since = static_cast<qint64>(one["since"].toDouble());
        o.at = numbers(one["at"]);
        o.most = numbers(one["most"]);
        if (o.most.size() != o.at.size()) o.at.clear();
        o.capacitor = one["capacitor"].toString();
        o.byHand = one["byHand"].toString();
        o.to50 = one["to50"].toDouble(plan::unknown);
        o.to10 = one["to10"].toDouble(plan::unknown);
        if (!over(o)) offs.push_back(std::move(o));
    }
}

} // namespace ember::app
