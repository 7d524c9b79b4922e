#pragma once
// The supply through time and frequency: one picture at a time, with a cursor that reads it, zoom, and export.

#include "core/plan/figures.h"

#include "app/theme/theme.h"

#include "core/base/result.h"

#include <QWidget>

class QCPItemLine;
class QCPItemText;
class QCustomPlot;
class QLabel;

namespace ember::app {

class SupplyCurves : public QWidget {
    Q_OBJECT
  public:
    enum class Kind { Cycle, SwitchOn, SwitchOff, SwitchOffCold, Burst, Dip, Impedance, Ripple };
    explicit SupplyCurves(QWidget* parent = nullptr);

    /// `steady`: the one that is looked at, for the cycle; `pinned`: figures to compare with, or nullptr.
    /// `hertz`: of the mains.
    void show(Kind kind, const plan::Figures& figures, const plan::Steady* steady, const plan::Figures* pinned,
              bool solving, double hertz);
    /// By the ending: .png, .svg, or .csv with every series as a column pair.
    Expected<Done> exportTo(const QString& file) const;
    /// What the cursor reads at `x` of the axis.
    [[nodiscard]] QString readAt(double x) const;
    /// How far each curve went from `mark` to `x`.
    [[nodiscard]] QString readBetween(double mark, double x) const;

  protected:
    bool eventFilter(QObject* plot, QEvent* event) override;

  private:
    struct Series {
        QString name;
        QVector<double> x, y;
        theme::Role role = theme::Role::Brass;
        double width = 1.5;
        bool pinned = false, rightAxis = false;
        QString unit = "V";
        bool operator==(const Series&) const = default;
    };
    void gather(Kind kind, const plan::Figures& f, const plan::Steady* steady, bool pinnedOnes);
    void add(Series s) { series.push_back(std::move(s)); }
    void curveSeries(const plan::Curve& c, const QString& name, bool pinnedOne, theme::Role role);
    void draw();
    void moveCursor(double x);
    void setMark(std::optional<double> at);
    QCPItemLine* standing(double x, Qt::PenStyle style); ///< a line across the whole height
    static bool isCompared(const Series& s);             ///< only there to compare the others with
    static double valueAt(const Series& s, double x);    ///< NaN: beyond its ends
    static QString valueText(const Series& s, double y);
    void stepCursor(int pixels);

    QCustomPlot* plot;
    QLabel *note, *reading;
    QCPItemLine *cursor = nullptr, *markLine = nullptr;
    std::optional<double> mark; ///< what the cursor is read against
    std::vector<Series> series, drawn;
    std::optional<std::pair<Kind, theme::Mode>> drawnAs; ///< what `drawn` was drawn as
    Kind kind = Kind::SwitchOn;
    QString xUnit = "s";
    double cursorAt = 0, mainsHertz = 50;
};

} // namespace ember::app
