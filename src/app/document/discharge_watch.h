#pragma once
// What the capacitors may still hold since the amplifier was last switched off, by the worst case: one clock for the
// window, which no change of step, mains, build or station stops, and which a new start of the program takes up again.

#include "app/widgets/clock.h"
#include "core/plan/figures.h"

#include <QObject>
#include <QString>

#include <vector>

namespace ember::app {

class DischargeWatch : public QObject {
    Q_OBJECT
  public:
    /// Takes up what `folder` holds from a program that ended while it ran.
    explicit DischargeWatch(QString folder, QObject* parent = nullptr);

    /// It was switched off now. `worst` may be empty while it is still being computed: adopt() brings it then.
    void start(const QString& amplifier, const plan::Discharge& worst);
    /// The fall of an amplifier that was switched off before its figures were there.
    void adopt(const QString& amplifier, const plan::Discharge& worst);
    /// A meter showed every capacitor of it below 10 V: what has no path to discharge is done with; what has one goes
    /// on until it is below 10 V by the worst case.
    void measured(const QString& amplifier);

    [[nodiscard]] bool running() const { return !offs.empty(); }
    [[nodiscard]] double seconds() const; ///< since the one that is shown was switched off
    [[nodiscard]] double volts() const;   ///< the most that any capacitor may still hold; NaN: not known
    /// "Off for 12 s: a capacitor may still hold 210 V. Wait 34 s more, then measure every capacitor. ..."
    [[nodiscard]] QString sentence() const;

  Q_SIGNALS:
    void moved(); ///< a moment passed, or it began or ended

  private:
    struct Off {
        QString amplifier;
        qint64 since = 0;                                  ///< [ms], by Clock
        std::vector<double> at, most;                      ///< [s], [V] of the capacitor that holds most
        QString capacitor;                                 ///< the last below 50 V
        double to50 = plan::unknown, to10 = plan::unknown; ///< [s] all of them; NaN: never, or not known
        QString byHand;
        bool dischargedByHand = false;
    };
    [[nodiscard]] const Off* worst() const;
    [[nodiscard]] static double secondsOf(const Off& off);
    [[nodiscard]] static double
    secondsLeft(const Off& off); ///< until all are below 10 V; infinite: never, or not known
    [[nodiscard]] static double voltsOf(const Off& off);
    [[nodiscard]] static bool over(const Off& off);
    static void fill(Off& off, const plan::Discharge& discharge);
    void tick();
    void keep() const;
    void takeUp();

    QString file;
    std::vector<Off> offs;
    Timer timer;
};

} // namespace ember::app
