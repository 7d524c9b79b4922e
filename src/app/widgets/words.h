#pragma once
// Small words of the interface: numbers, ids and labels as every station writes them.

#include "app/theme/theme.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <QLabel>
#include <QString>

namespace ember::app {

inline QString text(const std::string& s) {
    return QString::fromStdString(s);
}
inline QString text(double value, Unit unit, int digits = 3) {
    return text(format(value, unit, digits));
}
/// An id as printed on the drawing: "C1".
inline QString tag(const std::string& id) {
    return text(upper(id));
}

QString coloured(theme::Role role, const QString& plain);
/// `property` is one of the theme's kinds of text: dim, faint.
QLabel* label(const QString& words, theme::Size size = theme::Size::Text, bool bold = false,
              const char* property = nullptr);

} // namespace ember::app
