#pragma once
// What every chart can do: a cursor with the curves' values, zoom and back, export.

#include <QObject>
#include <QPointer>
#include <QString>

#include <functional>
#include <string>

class QCustomPlot;
class QCPItemLine;
class QCPItemText;

namespace ember::app {

/// The chart as a table: a line for each x that any named curve has, a column for each curve.
std::string tableOf(const QCustomPlot& plot);

/// Cursor at the mouse, or moved by Left and Right (Home, End) while the chart has the focus: the nearest point of the
/// first curve, and every named curve's value there. Wheel and drag zoom and move, Escape and a double click show all
/// of it again. The context menu writes PNG, SVG or CSV.
class PlotTools : public QObject {
    Q_OBJECT
  public:
    /// `stem`: what a written file is proposed to be called. `showAll` brings back the ranges that it began with.
    PlotTools(QCustomPlot* plot, std::function<QString()> stem, std::function<void()> showAll);
    [[nodiscard]] QString readOut() const { return words; } ///< what the cursor says; empty: it is not there
    void place(double x);                                   ///< the cursor
    void take();                                            ///< away

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void step(int by);
    void menu(const QPoint& at);
    QCustomPlot* plot;
    QPointer<QCPItemLine> line; ///< the chart owns them
    QPointer<QCPItemText> text;
    std::function<QString()> stem;
    std::function<void()> showAll;
    QString words;
    double at = 0;
};

} // namespace ember::app
