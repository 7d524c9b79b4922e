#include "words.h"

namespace ember::app {

QString coloured(theme::Role role, const QString& plain) {
    return QString("<span style='color:%1'>%2</span>").arg(theme::color(role).name(), plain.toHtmlEscaped());
}

QLabel* label(const QString& words, theme::Size size, bool bold, const char* property) {
    auto* l = new QLabel(words);
    l->setFont(theme::text(size, bold));
    l->setWordWrap(true);
    if (property) l->setProperty(property, true);
    return l;
}

} // namespace ember::app
