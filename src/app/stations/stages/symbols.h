#pragma once
// Symbols after IEC 60617, drawn between two points: resistor, capacitor, inductor, diode, source, transformer, valve.

#include <QPainter>

namespace ember::app::symbols {

void resistor(QPainter& p, QPointF a, QPointF b, double unit);
void capacitor(QPainter& p, QPointF a, QPointF b, double unit, bool polarised);
void inductor(QPainter& p, QPointF a, QPointF b, double unit);
void potentiometer(QPainter& p, QPointF a, QPointF b, QPointF wiper, double unit);
void currentSource(QPainter& p, QPointF a, QPointF b, double unit);
void diode(QPainter& p, QPointF a, QPointF b, double unit, bool zener);
/// Two windings side by side, the first at `a`.
void transformer(QPainter& p, QPointF a, QPointF b, double unit);
/// Envelope with plate, grids and cathode; pins 1.6 units from the centre.
void valve(QPainter& p, QPointF centre, double unit, bool pentode);
void ground(QPainter& p, QPointF at, double unit);

} // namespace ember::app::symbols
