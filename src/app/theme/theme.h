#pragma once
// The look by named roles. Nothing else in the program names a colour or a font.

#include <QColor>
#include <QFont>
#include <QPointF>

class QApplication;
class QCustomPlot;
class QPainter;

namespace ember::theme {

enum class Mode { Dusk, Daylight };
/// Soot, ash: surfaces. Bone: text. Ember: live or wanting attention. Verdigris: in range. Brass: selection and the
/// plan's own curves. Slate: measured earlier. Stop: stop limits alone.
enum class Role { Soot, Ash, AshRaised, Line, Bone, BoneDim, BoneFaint, Ember, Verdigris, Brass, Slate, Stop };

QColor color(Role role);
QColor color(Role role, Mode mode);
/// From one role (share 0) to another (share 1).
QColor between(Role from, Role to, double share);
/// A filament's colour: ember as it begins to glow, paler as it whitens.
QColor incandescent(double kelvin);
/// The one ornament: light around something alive, `strength` 0 .. 1 in its middle.
void halo(QPainter& painter, QPointF centre, double radius, QColor light, double strength);
Mode mode();
/// Fonts, palette and style sheet for the whole program.
void apply(QApplication& app, Mode mode);

enum class Size { Small = 11, Text = 13, Title = 19, Figure = 15, Big = 30 };
QFont text(Size size, bool bold = false);
QFont figures(Size size, bool bold = false); ///< tabular

void dress(QCustomPlot& plot, const QString& xLabel, const QString& yLabel);

} // namespace ember::theme
