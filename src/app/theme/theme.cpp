#include "theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QPixmapCache>
#include <qcustomplot.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <tuple>

namespace ember::theme {

namespace {

Mode current = Mode::Dusk;
using Colours = std::array<const char*, 12>;
constexpr Colours dusk{"#1c1815", "#24211c", "#302a24", "#3d362f", "#efe6d6", "#b3a896",
                       "#857b6d", "#f4792e", "#6fb29b", "#d3aa55", "#8fa3b8", "#dc4a3d"};
constexpr Colours daylight{"#f6f1e7", "#ece5d8", "#fffaf0", "#cbc1b0", "#1e1a16", "#4f473d",
                           "#786e61", "#b94a0a", "#23705a", "#80601a", "#3f566e", "#b3261e"};

} // namespace

Mode mode() {
    return current;
}

QColor color(Role role) {
    return color(role, current);
}

QColor color(Role role, Mode mode) {
    return QColor((mode == Mode::Dusk ? dusk : daylight)[static_cast<std::size_t>(role)]);
}

QColor between(Role from, Role to, double share) {
    const QColor a = color(from), b = color(to);
    const auto mix = [&](int x, int y) { return static_cast<int>(x + (y - x) * std::clamp(share, 0.0, 1.0)); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

QColor incandescent(double kelvin) {
    if (kelvin <= 1800) return color(Role::Ember);
    return QColor::fromHslF(static_cast<float>(std::min(0.13, 0.06 + (kelvin - 1800) / 12000)), 1,
                            static_cast<float>(std::min(0.85, 0.6 + (kelvin - 1800) / 3500)));
}

void halo(QPainter& p, QPointF centre, double radius, QColor light, double strength) {
    // The same few lights are painted with every figure that arrives: each is rendered once.
    const double scale = p.device()->devicePixelRatioF();
    const int side = 2 * static_cast<int>(std::ceil(radius)) + 2;
    light.setAlphaF(static_cast<float>(std::clamp(strength, 0.0, 1.0)));
    const QString key = QString("halo %1 %2 %3").arg(side).arg(light.rgba()).arg(scale);
    QPixmap glow;
    if (!QPixmapCache::find(key, &glow)) {
        glow = QPixmap(QSize(side, side) * scale);
        glow.setDevicePixelRatio(scale);
        glow.fill(Qt::transparent);
        QPainter on(&glow);
        QRadialGradient g(QPointF(side, side) / 2, side / 2.0 - 1);
        g.setColorAt(0, light);
        light.setAlphaF(0);
        g.setColorAt(1, light);
        on.fillRect(QRect(0, 0, side, side), g);
        QPixmapCache::insert(key, glow);
    }
    p.drawPixmap(centre - QPointF(side, side) / 2, glow);
}

namespace {

/// Resolving a family's name takes longer than drawing a word in it: each font is made once.
const QFont& face(const char* family, Size size, bool bold) {
    static std::map<std::tuple<std::string_view, Size, bool>, QFont> made;
    const auto [at, fresh] = made.try_emplace({family, size, bold}, family);
    if (fresh) {
        at->second.setPixelSize(static_cast<int>(size));
        at->second.setBold(bold);
    }
    return at->second;
}

} // namespace

QFont text(Size size, bool bold) {
    return face("B612", size, bold);
}

QFont figures(Size size, bool bold) {
    return face("B612", size, bold);
}

void apply(QApplication& app, Mode wanted) {
    static bool loaded = false;
    if (!loaded) {
        for (const char* name : {"B612-Regular", "B612-Bold"})
            QFontDatabase::addApplicationFont(QString(":/fonts/%1.otf").arg(name));
        loaded = true;
    }
    current = wanted;
    QApplication::setStyle("Fusion");
    app.setFont(text(Size::Text));
    QPalette p;
    p.setColor(QPalette::Window, color(Role::Soot));
    p.setColor(QPalette::Base, color(Role::AshRaised));
    p.setColor(QPalette::AlternateBase, color(Role::Ash));
    p.setColor(QPalette::Text, color(Role::Bone));
    p.setColor(QPalette::WindowText, color(Role::Bone));
    p.setColor(QPalette::ButtonText, color(Role::Bone));
    p.setColor(QPalette::Button, color(Role::AshRaised));
    p.setColor(QPalette::ToolTipBase, color(Role::AshRaised));
    p.setColor(QPalette::ToolTipText, color(Role::Bone));
    p.setColor(QPalette::PlaceholderText, color(Role::BoneFaint));
    p.setColor(QPalette::Highlight, color(Role::Brass));
    p.setColor(QPalette::HighlightedText, color(Role::Soot));
    p.setColor(QPalette::Link, color(Role::Ember));
    app.setPalette(p);
    const auto c = [](Role r) { return color(r).name(); };
    app.setStyleSheet(QString(R"(
        QWidget#panel, QWidget#path, QWidget#logLine, QWidget#emberLine { background: %1; }
        QMenuBar, QMenu { background: %1; color: %4; } QMenuBar::item { padding: 3px 10px; }
        QMenuBar::item:selected, QMenu::item:selected { background: %2; }
        QLineEdit, QComboBox, QSpinBox, QPlainTextEdit { background: %2; color: %4; border: 1px solid %3; border-radius: 3px; padding: 3px 6px; }
        QLineEdit:focus, QComboBox:focus, QSpinBox:focus { border-color: %5; } QLineEdit:disabled, QComboBox:disabled, QSpinBox:disabled { color: %6; }
        QLineEdit[inPlace="true"] { background: transparent; border: 1px solid transparent; padding: 1px 2px; }
        QLineEdit[inPlace="true"]:hover { border-color: %3; } QLineEdit[inPlace="true"]:focus { background: %2; border-color: %5; }
        QLineEdit[wrong="true"] { border-color: %8; background: %2; }
        QPushButton { background: %2; color: %4; border: 1px solid %3; border-radius: 3px; padding: 6px 14px; }
        QPushButton:focus { border-color: %5; } QPushButton:disabled { color: %6; }
        QPushButton[main="true"] { background: %8; color: %7; border-color: %8; font-weight: bold; }
        QPushButton[main="true"]:disabled { background: %3; border-color: %3; }
        QPushButton[link="true"] { background: transparent; border: none; border-bottom: 1px solid transparent; padding: 2px 0px; color: %8; text-align: left; }
        QPushButton[link="true"]:focus { border-bottom: 1px solid %5; } QPushButton[quiet="true"] { color: %9; }
        QPushButton[tab="true"] { background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0; padding: 4px 2px; margin-right: 12px; color: %9; }
        QPushButton[tab="true"]:checked { color: %4; border-bottom-color: %8; font-weight: bold; } QPushButton[tab="true"]:focus { color: %5; }
        QTableView { background: %7; alternate-background-color: %1; color: %4; border: none; gridline-color: %3; selection-background-color: %2; selection-color: %4; }
        QHeaderView::section { background: %7; color: %9; border: none; border-bottom: 1px solid %3; padding: 4px; }
        QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
        QScrollBar:vertical { background: transparent; width: 8px; } QScrollBar::handle:vertical { background: %3; border-radius: 4px; min-height: 24px; }
        QScrollBar:horizontal { background: transparent; height: 8px; } QScrollBar::handle:horizontal { background: %3; border-radius: 4px; min-width: 24px; }
        QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
        QLabel[dim="true"] { color: %9; } QLabel[faint="true"] { color: %6; }
        QDialogButtonBox, QMessageBox, QInputDialog { dialogbuttonbox-buttons-have-icons: 0; }
        QToolTip { background: %2; color: %4; border: 1px solid %3; })")
                          .arg(c(Role::Ash), c(Role::AshRaised), c(Role::Line), c(Role::Bone), c(Role::Brass),
                               c(Role::BoneFaint), c(Role::Soot), c(Role::Ember), c(Role::BoneDim)));
}

void dress(QCustomPlot& plot, const QString& xLabel, const QString& yLabel) {
    plot.setBackground(color(Role::Soot));
    for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
        axis->setBasePen(QPen(color(Role::Line)));
        axis->setTickPen(QPen(color(Role::Line)));
        axis->setSubTickPen(Qt::NoPen);
        axis->setTickLabelColor(color(Role::BoneDim));
        axis->setTickLabelFont(figures(Size::Small));
        axis->setLabelColor(color(Role::BoneDim));
        axis->setLabelFont(text(Size::Small));
        axis->grid()->setPen(QPen(color(Role::AshRaised)));
        axis->grid()->setZeroLinePen(QPen(color(Role::Line)));
    }
    plot.xAxis->setLabel(xLabel);
    plot.yAxis->setLabel(yLabel);
}

} // namespace ember::theme
