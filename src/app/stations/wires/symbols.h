#pragma once
// Symbols after IEC 60617, drawn between two points: resistor, capacitor, inductor, diode, ground.

#include <QPainter>

namespace ember::app::symbols {

void resistor(QPainter& p, QPointF a, QPointF b, double unit);
void capacitor(QPainter& p, QPointF a, QPointF b, double unit, bool polarised);
void inductor(QPainter& p, QPointF a, QPointF b, double unit);
void diode(QPainter& p, QPointF a, QPointF b, double unit, bool zener);
void ground(QPainter& p, QPointF at, double unit);

} // namespace ember::app::symbols
