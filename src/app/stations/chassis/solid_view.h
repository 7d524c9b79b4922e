#pragma once
// The finished amplifier as a solid picture: turned by dragging, in day or evening light, in the chosen finish.

#include "app/document/document.h"

#include "app/widgets/clock.h"
#include "core/chassis/look/render.h"

#include <QImage>
#include <QWidget>

class QLabel;
class QMenu;
class QPushButton;

namespace ember::app {

class SolidView : public QWidget {
    Q_OBJECT
  public:
    explicit SolidView(Document& document, QWidget* parent = nullptr);
    /// 0 .. 3: from the front left, the front, above, the back.
    void look(int saved);
    void setLight(chassis::look::Light light);
    [[nodiscard]] const chassis::look::View& view() const { return from; }
    [[nodiscard]] bool sharp() const { return fine; } ///< at rest: drawn finely
    /// Another chassis in place of the document's, with what it is called; none: the document's.
    void showInstead(std::optional<Chassis> other, const QString& caption);
    void setView(const chassis::look::View& view);
    /// As it is shown, with edges smoothed.
    [[nodiscard]] QImage picture(QSize size);

  Q_SIGNALS:
    void lightChanged(bool evening);
    void viewChanged(const chassis::look::View& view); ///< turned by hand

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void turn(double azimuth, double elevation, double zoom = 1);
    void changed(); ///< drawn coarsely now, finely when it rests
    [[nodiscard]] const chassis::look::Scene& current();
    Document& document;
    std::optional<chassis::look::Scene> scene; ///< none: the build changed since
    std::optional<Chassis> instead;
    QString caption;
    chassis::look::Renderer renderer;
    chassis::look::View from;
    chassis::look::Light light = chassis::look::Light::Day;
    Timer resting;
    QPoint held;
    bool fine = false;
};

/// From the front left by day, 960 x 600, as PNG.
QByteArray solidPng(const Build& build, const plan::Figures& figures);

/// The view with its buttons: saved views, light, finishes, export; and the proportions in a line.
class SolidPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SolidPanel(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] SolidView* picture() const { return view; }
    /// Beside it another: what `chassis` is, called so; none: it stands alone.
    void setBeside(std::optional<Chassis> chassis, const QString& name);
    /// What is shown, 2560 x 1600; two side by side as 1600 x 1200 each.
    Expected<Done> exportTo(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  private:
    void fillFinishes(QMenu& menu);
    void fillBeside(QMenu& menu);
    void showProportions();
    Document& document;
    SolidView *view, *beside;
    QLabel* proportions;
};

} // namespace ember::app
