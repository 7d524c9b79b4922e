// The main views as pictures: what the README shows, and every station of any build to look at.
#include "pictures.h"

#include "app/stations/chassis/chassis_station.h"
#include "app/stations/chassis/layouts_dialog.h"
#include "app/stations/find_value_dialog.h"
#include "app/stations/first_power_station.h"
#include "app/stations/measure_station.h"
#include "app/stations/stages/stages_station.h"
#include "app/stations/stages/valve_dialog.h"
#include "app/stations/supply/supply_station.h"
#include "app/theme/theme.h"
#include "core/build/own_types.h"
#include "core/chassis/arrange/arrange.h"
#include "core/chassis/kept_layouts.h"
#include "main_window.h"
#include "parts_dialog.h"
#include "start_dialog.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <optional>

namespace ember::app {

namespace {

void settle(int ms) {
    QElapsedTimer t;
    t.start();
    while (t.elapsed() < ms) QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
}

/// The demo's plate made two of 260 x 200 mm, its supply on the lower one.
std::optional<Edit> towerOf(const Document& d) {
    Build b = d.build();
    b.chassis.width = 0.26, b.chassis.depth = 0.2;
    const auto all = chassis::arrange::families();
    const auto tower = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.below != nullptr; });
    const auto arranged = chassis::arrange::arrangements(b, catalogueOf(b), d.figures(), {.only = &*tower});
    if (arranged.empty()) return std::nullopt;
    return together("a tower",
                    {setValue("", "/chassis/width", b.chassis.width), setValue("", "/chassis/depth", b.chassis.depth),
                     chassis::usePlaces("", b.chassis, arranged[0].places)});
}

} // namespace

int demoPictures(MainWindow& w, const QString& folder) {
    QDir().mkpath(folder);
    w.resize(1280, 800);
    w.show();
    Document& d = w.document();
    d.waitForSolve();
    bool written = true;
    const auto shot = [&](const QString& name) {
        d.waitForSolve();
        settle(120);
        written = w.grab().save(folder + "/" + name + ".png") && written;
    };
    w.go("chassis");
    auto* plate = w.station<ChassisStation>()->plateView();
    const auto layer = [&](const char* name, bool on) {
        w.findChild<QPushButton*>(QString("layer-") + name)->setChecked(on);
    };
    layer("field", true);
    plate->select({3});
    shot("chassis");
    layer("field", false);
    layer("heat", true);
    plate->look({Face::Top, true});
    shot("chassis-underside");
    plate->look({});
    layer("heat", false);
    plate->select({});
    w.station<ChassisStation>()->showSolid(true);
    w.findChild<QPushButton*>("evening")->click();
    settle(600); // until it rests, and is drawn finely
    shot("solid");
    w.findChild<QPushButton*>("evening")->click();
    w.station<ChassisStation>()->showSolid(false);
    auto* layouts = w.station<ChassisStation>()->showLayouts();
    layouts->resize(1280, 800);
    layouts->propose();
    while (layouts->proposing()) settle(50);
    settle(200);
    written = layouts->grab().save(folder + "/layouts.png") && written;
    layouts->close();
    if (const auto tower = towerOf(d)) {
        written = d.edit(*tower).ok() && written;
        d.waitForSolve();
        w.station<ChassisStation>()->showSolid(true);
        settle(600);
        shot("tower");
        w.station<ChassisStation>()->showSolid(false);
        d.undoStack().undo();
    }
    w.go("supply");
    shot("supply");
    auto* supply = w.station<SupplyStation>();
    w.applyTheme(1);
    supply->showCurve(SupplyStation::biasPicture);
    shot("supply-daylight");
    supply->showCurve(1);
    w.applyTheme(0);
    w.go("stages");
    shot("stages");
    w.station<StagesStation>()->showChart(true);
    shot("voltage-chart");
    w.station<StagesStation>()->showChart(false);
    w.go("heaters");
    shot("heaters");
    w.go("grounds");
    shot("grounds");
    w.go("wiring");
    shot("wiring");
    StartDialog begin(&w);
    begin.resize(1280, 800);
    begin.show();
    begin.choose(4);
    for (int k = 0; k < 60 && begin.findChild<QLabel*>("startDoes")->text().contains("computing"); ++k) settle(250);
    written = begin.grab().save(folder + "/starts.png") && written;
    ValveDialog valve(d, "EL84", &w);
    valve.resize(1280, 800);
    valve.findChild<QLineEdit*>("valveSearch")->setText("el8");
    valve.show();
    written = valve.grab().save(folder + "/valve.png") && written;
    begin.close();
    d.startPractice(7, {});
    auto* power = w.station<FirstPowerStation>();
    const auto readAll = [&](int stage, int most, bool pass) {
        d.stage(stage, d.build().mains.volts);
        d.waitForSolve();
        const auto* s = d.stage(stage, d.build().mains.volts);
        int n = 0;
        for (const auto& e : s->expectations) {
            if (n++ == most) break;
            d.readPractice(stage, d.build().mains.volts, QString::fromStdString(e.point.id),
                           [&d, point = e.point, stage](Expected<double> v) {
                               if (v) d.takeReading(point, stage, *v, "practice");
                           });
            d.waitForSolve();
        }
        if (pass) written = d.passStage(stage) && written;
    };
    for (int k = 0; k < 4; ++k) readAll(k, 99, true);
    readAll(4, 8, false);
    w.go("first-power");
    power->showStage(4);
    shot("first-power");
    for (int k = 4; k < 7; ++k) readAll(k, 99, true);
    w.go("bias");
    shot("bias");
    w.go("measure");
    w.station<MeasureStation>()->take();
    for (int k = 0; k < 40 && w.station<MeasureStation>()->distortionView()->ends().low.empty(); ++k) settle(250);
    shot("measure");
    auto* measure = w.station<MeasureStation>();
    measure->chooseSeries(bench::SeriesKind::Power);
    measure->take();
    for (int k = 0;
         k < 600 && (d.taking() || !measure->seriesView()->measured() || measure->seriesView()->predicting()); ++k)
        settle(250);
    shot("measure-power");
    w.go("logbook");
    shot("logbook");
    std::fprintf(written ? stdout : stderr, "%s\n", written ? "pictures written" : "the pictures could not be written");
    return written ? 0 : 1;
}

namespace {

/// All of them small, side by side, each with its name.
QImage sheetOf(const std::vector<std::pair<QString, QImage>>& all) {
    constexpr int wide = 420, columns = 4, words = 18;
    const double ratio = all.empty() ? 0.6 : static_cast<double>(all[0].second.height()) / all[0].second.width();
    const int high = static_cast<int>(wide * ratio), rows = (static_cast<int>(all.size()) + columns - 1) / columns;
    QImage out(columns * wide, std::max(1, rows * (high + words)), QImage::Format_RGB32);
    out.fill(Qt::black);
    QPainter p(&out);
    p.setPen(Qt::white);
    for (std::size_t k = 0; k < all.size(); ++k) {
        const int x = static_cast<int>(k) % columns * wide, y = static_cast<int>(k) / columns * (high + words);
        QImage small = all[k].second;
        small.setDevicePixelRatio(1);
        p.drawText(QRect(x + 4, y, wide - 8, words), Qt::AlignVCenter | Qt::AlignLeft, all[k].first);
        p.drawImage(x, y + words, small.scaled(wide - 4, high, Qt::KeepAspectRatio, Qt::SmoothTransformation));
    }
    return out;
}

} // namespace

int picturesOf(MainWindow& w, const QStringList& builds, const QString& folder, QSize size) {
    QDir().mkpath(folder);
    w.resize(size);
    w.show();
    bool written = true;
    std::vector<std::pair<QString, QImage>> all;
    for (const QString& file : builds) {
        if (const auto opened = w.document().open(file); !opened) { // none of the builds that were worked on
            std::fprintf(stderr, "%s: %s\n", qPrintable(file), opened.problem().text().c_str());
            return 1;
        }
        const QString name = QFileInfo(file).fileName().section('.', 0, 0);
        const auto keep = [&](const QString& view, QWidget& of) {
            w.document().waitForSolve();
            settle(150);
            const QImage image = of.grab().toImage();
            written = image.save(folder + "/" + name + "-" + view + ".png") && written;
            all.emplace_back(name + " " + view, image);
        };
        for (int k = 0; k < w.stationCount(); ++k) {
            w.go(k);
            keep(w.stationId(k), w);
        }
        w.go("stages");
        FindValueDialog* find = w.station<StagesStation>()->findValue();
        keep("find-a-value", *find);
        find->close();
        PartsDialog parts(w.document(), &w);
        parts.resize(size);
        parts.show();
        keep("parts", parts);
        parts.close();
    }
    written = sheetOf(all).save(folder + "/sheet.png") && written;
    std::fprintf(written ? stdout : stderr, "%s\n", written ? "pictures written" : "the pictures could not be written");
    return written ? 0 : 1;
}

} // namespace ember::app
