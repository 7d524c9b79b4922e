#include "solid_view.h"

#include "app/theme/theme.h"
#include "app/widgets/words.h"
#include "core/build/build_json.h"
#include "core/chassis/arrange/storeys.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/look/operating.h"
#include "core/chassis/tower.h"

#include <QBuffer>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWheelEvent>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::app {

using namespace chassis::look;

namespace {

struct SavedView {
    const char* words;
    View view;
};
constexpr std::array<SavedView, 4> savedViews{{{"front left", {-30, 24, 1, 0, 0}},
                                               {"front", {0, 10, 1, 0, 0}},
                                               {"above", {0, 84, 1, 0, 0}},
                                               {"back", {155, 24, 1, 0, 0}}}};

} // namespace

SolidView::SolidView(Document& d, QWidget* parent) : QWidget(parent), document(d), from(savedViews[0].view) {
    setObjectName("solidView");
    setAccessibleName("The finished amplifier");
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(240);
    setToolTip("Drag, or the arrow keys: turn. Wheel, + and -: nearer and farther. 1 to 4: saved views. E: evening.");
    resting.setSingleShot(true);
    resting.setInterval(160);
    connect(&resting, &Timer::timeout, this, [this] {
        fine = true;
        update();
    });
    const auto stale = [this] {
        scene.reset();
        changed();
    };
    connect(&document, &Document::buildChanged, this, stale);
    connect(&document, &Document::opened, this, stale);
    connect(&document, &Document::figuresChanged, this, stale); // what glows
    resting.start();
}

const Scene& SolidView::current() {
    if (!scene)
        scene =
            sceneOf(instead ? *instead : document.build().chassis, operatingOf(document.build(), document.figures()));
    return *scene;
}

void SolidView::changed() {
    fine = false;
    resting.start();
    update();
}

void SolidView::look(int saved) {
    from = savedViews[static_cast<std::size_t>(std::clamp(saved, 0, 3))].view;
    changed();
    Q_EMIT viewChanged(from);
}

void SolidView::showInstead(std::optional<Chassis> other, const QString& name) {
    instead = std::move(other);
    caption = name;
    scene.reset();
    changed();
}

void SolidView::setView(const View& to) {
    from = to;
    changed();
}

void SolidView::setLight(Light to) {
    if (light == to) return;

    light = to;
    changed();
    Q_EMIT lightChanged(light == Light::Evening);
}

void SolidView::turn(double azimuth, double elevation, double zoom) {
    from.azimuth = std::remainder(from.azimuth + azimuth, 360);
    from.elevation = std::clamp(from.elevation + elevation, -8.0, 89.0);
    from.zoom = std::clamp(from.zoom * zoom, 0.4, 6.0);
    changed();
    Q_EMIT viewChanged(from);
}

void SolidView::paintEvent(QPaintEvent*) {
    const double ratio = devicePixelRatioF();
    const int wide = std::max(1, static_cast<int>(width() * ratio)),
              high = std::max(1, static_cast<int>(height() * ratio));
    const Picture& p = renderer.draw(current(), from, light, wide, high, fine ? 2 : 1);
    const QImage image(reinterpret_cast<const uchar*>(p.pixels.data()), p.width, p.height, QImage::Format_RGB32);
    QPainter painter(this);
    painter.drawImage(rect(), image);
    if (!caption.isEmpty()) {
        painter.setFont(theme::text(theme::Size::Small));
        const QRect words = painter.fontMetrics().boundingRect(caption).adjusted(-6, -3, 6, 3);
        const QRect at(8, 8, words.width(), words.height());
        painter.fillRect(at, theme::color(theme::Role::Ash));
        painter.setPen(theme::color(theme::Role::Bone));
        painter.drawText(at, Qt::AlignCenter, caption);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::color(theme::Role::Ember), 1));
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void SolidView::mousePressEvent(QMouseEvent* e) {
    held = e->pos();
}

void SolidView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) return;
    const QPoint by = e->pos() - held;
    held = e->pos();
    turn(-0.4 * by.x(), 0.3 * by.y());
}

void SolidView::wheelEvent(QWheelEvent* e) {
    turn(0, 0, std::pow(1.0015, e->angleDelta().y()));
    e->accept();
}

void SolidView::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
    case Qt::Key_Left: return turn(-5, 0);
    case Qt::Key_Right: return turn(5, 0);
    case Qt::Key_Up: return turn(0, 4);
    case Qt::Key_Down: return turn(0, -4);
    case Qt::Key_Plus: return turn(0, 0, 1.15);
    case Qt::Key_Minus: return turn(0, 0, 1 / 1.15);
    case Qt::Key_E: return setLight(light == Light::Day ? Light::Evening : Light::Day);
    default: break;
    }
    if (e->key() >= Qt::Key_1 && e->key() <= Qt::Key_4) return look(e->key() - Qt::Key_1);
    QWidget::keyPressEvent(e);
}

QImage SolidView::picture(QSize size) {
    Renderer own;
    const Picture& p = own.draw(current(), from, light, size.width(), size.height(), 2);
    return QImage(reinterpret_cast<const uchar*>(p.pixels.data()), p.width, p.height, QImage::Format_RGB32).copy();
}

QByteArray solidPng(const Build& build, const plan::Figures& figures) {
    Renderer renderer;
    const Picture& p =
        renderer.draw(sceneOf(build.chassis, operatingOf(build, figures)), savedViews[0].view, Light::Day, 960, 600, 2);
    QByteArray out;
    QBuffer buffer(&out);
    buffer.open(QIODevice::WriteOnly);
    QImage(reinterpret_cast<const uchar*>(p.pixels.data()), p.width, p.height, QImage::Format_RGB32)
        .save(&buffer, "PNG");
    return out;
}

SolidPanel::SolidPanel(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 0, 0, 0);
    auto* views = new QHBoxLayout;
    views->addWidget(view = new SolidView(document), 1);
    views->addWidget(beside = new SolidView(document), 1);
    beside->setObjectName("solidBeside");
    beside->setAccessibleName("Another one beside it");
    beside->hide();
    rows->addLayout(views, 1);
    for (const auto& [one, other] : {std::pair(view, beside), {beside, view}}) {
        connect(one, &SolidView::viewChanged, other, &SolidView::setView);
        connect(one, &SolidView::lightChanged, other,
                [to = other](bool evening) { to->setLight(evening ? Light::Evening : Light::Day); });
    }
    rows->addWidget(proportions = label("", theme::Size::Small, false, "dim"));
    proportions->setObjectName("proportions");
    auto* row = new QHBoxLayout;
    for (std::size_t k = 0; k < savedViews.size(); ++k) {
        auto* b = new QPushButton(savedViews[k].words);
        b->setObjectName(QString("view-%1").arg(k + 1));
        b->setProperty("tab", true);
        b->setToolTip(QString("%1").arg(k + 1));
        connect(b, &QPushButton::clicked, this, [this, k] { view->look(static_cast<int>(k)); });
        row->addWidget(b);
    }
    row->addStretch();
    auto* evening = new QPushButton("evening");
    evening->setObjectName("evening");
    evening->setProperty("tab", true);
    evening->setCheckable(true);
    connect(evening, &QPushButton::clicked, this,
            [this](bool on) { view->setLight(on ? Light::Evening : Light::Day); });
    connect(view, &SolidView::lightChanged, evening, &QPushButton::setChecked);
    row->addWidget(evening);
    auto* finish = new QPushButton("Finish");
    finish->setObjectName("finish");
    auto* menu = new QMenu(finish);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        menu->clear();
        fillFinishes(*menu);
    });
    finish->setMenu(menu);
    row->addWidget(finish);
    auto* with = new QPushButton("Beside");
    with->setObjectName("beside");
    with->setToolTip("Two variants side by side: as it is now against another finish or layout");
    auto* choices = new QMenu(with);
    connect(choices, &QMenu::aboutToShow, this, [this, choices] {
        choices->clear();
        fillBeside(*choices);
    });
    with->setMenu(choices);
    row->addWidget(with);
    auto* write = new QPushButton("Picture...");
    write->setObjectName("solidExport");
    connect(write, &QPushButton::clicked, this, [this] {
        const QString f = QFileDialog::getSaveFileName(
            this, "Write the picture", text(document.build().name).toLower() + ".png", "Pictures (*.png)");
        if (f.isEmpty()) return;
        const auto done = exportTo(f);
        Q_EMIT said(done ? "written: " + f : text(done.problem().text()), done.ok());
    });
    row->addWidget(write);
    rows->addLayout(row);
    connect(&document, &Document::figuresChanged, this, &SolidPanel::showProportions);
    showProportions();
}

void SolidPanel::setBeside(std::optional<Chassis> chassis, const QString& name) {
    beside->setVisible(chassis.has_value());
    view->showInstead(std::nullopt, chassis ? "now" : QString());
    beside->setView(view->view());
    beside->showInstead(std::move(chassis), name);
}

void SolidPanel::fillBeside(QMenu& menu) {
    const Chassis& c = document.build().chassis;
    connect(menu.addAction("as it is now, to compare what is changed"), &QAction::triggered, this,
            [this] { setBeside(document.build().chassis, "before"); });
    for (const KeptLayout& k : c.kept)
        connect(menu.addAction("the layout " + text(k.name)), &QAction::triggered, this,
                [this, k] { setBeside(withPlaces(document.build().chassis, k.places), text(k.name)); });
    QAction* alone = menu.addAction("nothing");
    alone->setEnabled(beside->isVisible());
    connect(alone, &QAction::triggered, this, [this] { setBeside(std::nullopt, {}); });
}

Expected<Done> SolidPanel::exportTo(const QString& file) {
    QImage image;
    if (beside->isHidden()) {
        image = view->picture({2560, 1600});
    } else {
        constexpr QSize each(1600, 1200);
        image = QImage(2 * each.width(), each.height(), QImage::Format_RGB32);
        QPainter p(&image);
        p.drawImage(0, 0, view->picture(each));
        p.drawImage(each.width(), 0, beside->picture(each));
    }
    if (!image.save(file)) return Problem{"", "the picture could not be written to " + file.toStdString()};
    return Done{};
}

void SolidPanel::fillFinishes(QMenu& menu) {
    QMenu* forms = menu.addMenu("form");
    const Chassis& c = document.build().chassis;
    for (std::size_t k = 0; k < chassisFormNames.size(); ++k) {
        const auto form = static_cast<ChassisForm>(k);
        const bool board = form == ChassisForm::Board;
        QAction* a = forms->addAction(board ? QString("bench board") : text(std::string(chassisFormNames[k])));
        a->setCheckable(true);
        a->setChecked(form == c.form);
        connect(a, &QAction::triggered, this, [this, form] {
            const auto done = document.edit(inForm(document.build().chassis, form));
            if (!done) Q_EMIT said(text(done.problem().text()), false);
        });
    }
    if (canBeTower(c)) {
        forms->addSeparator();
        QAction* a = forms->addAction("a second chassis below, for the supply");
        a->setCheckable(true);
        a->setChecked(isTower(c));
        connect(a, &QAction::triggered, this, [this](bool on) {
            const Build& b = document.build();
            const auto done =
                document.edit(on ? usePlaces("the supply on a chassis below", b.chassis, placesOf(arrange::asTower(b)))
                                 : toOneChassis(b.chassis));
            if (!done) Q_EMIT said(text(done.problem().text()), false);
        });
    }
    static constexpr std::array<std::pair<const char*, const char*>, 5> what{{{"plate", "plateFinish"},
                                                                              {"walls", "wallFinish"},
                                                                              {"iron", "ironFinish"},
                                                                              {"sockets", "socketTrim"},
                                                                              {"cover", "cover"}}};
    for (const Setting& s : settingsOf(document.build()))
        for (const auto& [words, key] : what) {
            if (s.pointer != std::string("/chassis/") + key) continue;
            QMenu* group = menu.addMenu(words);
            for (const std::string& choice : s.choices) {
                QAction* a = group->addAction(text(choice).replace('-', ' '));
                a->setCheckable(true);
                a->setChecked(choice == s.text);
                connect(a, &QAction::triggered, this, [this, pointer = s.pointer, choice, words = words] {
                    const auto done = document.edit(setText(std::string(words) + " " + choice, pointer, choice));
                    if (!done) Q_EMIT said(text(done.problem().text()), false);
                });
            }
        }
}

void SolidPanel::showProportions() {
    const auto& layout = document.figures().layout;
    const auto& c = document.build().chassis;
    if (!layout || layout->assembly.of.size() != c.parts.size()) return proportions->clear();
    const Proportions p = proportionsOf(c, *layout);
    const auto off = [](double metres, const char* more, const char* less) {
        return QString("%1 mm %2").arg(std::abs(1e3 * metres), 0, 'f', 0).arg(metres >= 0 ? more : less);
    };
    proportions->setText(
        QString("%1 % of the plate under iron; the tallest %2 mm, %3 times the mean; the centre of mass %4 "
                "and %5 of the middle")
            .arg(100 * p.underIron, 0, 'f', 0)
            .arg(1e3 * p.tallest, 0, 'f', 0)
            .arg(p.overMean, 0, 'f', 1)
            .arg(off(p.massX, "right", "left"), off(p.massY, "behind", "before")));
}

} // namespace ember::app
