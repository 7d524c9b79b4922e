// dim-ember [BUILD] [--demo] [--pictures FOLDER]

#include "app/stations/chassis/chassis_station.h"
#include "app/stations/chassis/layouts_dialog.h"
#include "app/stations/first_power_station.h"
#include "app/stations/measure_station.h"
#include "app/stations/stages/stages_station.h"
#include "app/stations/stages/valve_dialog.h"
#include "app/stations/station.h"
#include "app/stations/supply/supply_station.h"
#include "app/theme/theme.h"
#include "app/window/first_paint.h"
#include "app/window/main_window.h"
#include "app/window/start_dialog.h"
#include "core/build/own_types.h"
#include "core/chassis/arrange/arrange.h"
#include "core/chassis/kept_layouts.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTimer>

#include <algorithm>
#include <cstdio>
#include <optional>

using namespace ember::app;

namespace {

void settle(int ms) {
    QElapsedTimer t;
    t.start();
    while (t.elapsed() < ms) QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
}

/// The demo's plate made two of 260 x 200 mm, its supply on the lower one.
std::optional<ember::Edit> towerOf(const Document& d) {
    ember::Build b = d.build();
    b.chassis.width = 0.26, b.chassis.depth = 0.2;
    const auto all = ember::chassis::arrange::families();
    const auto tower = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.below != nullptr; });
    const auto arranged =
        ember::chassis::arrange::arrangements(b, ember::catalogueOf(b), d.figures(), {.only = &*tower});
    if (arranged.empty()) return std::nullopt;
    return ember::together("a tower", {ember::setValue("", "/chassis/width", b.chassis.width),
                                       ember::setValue("", "/chassis/depth", b.chassis.depth),
                                       ember::chassis::usePlaces("", b.chassis, arranged[0].places)});
}

/// The main views of the demo, worked through on the practice bench, as PNG.
int pictures(MainWindow& w, const QString& folder) {
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
    plate->look({ember::Face::Top, true});
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
                           [&d, point = e.point, stage](ember::Expected<double> v) {
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
    measure->chooseSeries(ember::bench::SeriesKind::Power);
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

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QCoreApplication::setOrganizationName("dim-ember");
    QCoreApplication::setApplicationName("dim-ember");
    QCoreApplication::setApplicationVersion("0.1.0");
    QCommandLineParser parser;
    parser.setApplicationDescription("A bench companion for people who build valve amplifiers.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("BUILD", "a build to open, *.ember.json");
    const QCommandLineOption demo("demo", "open the demo build"),
        folder("pictures", "write pictures of the main views to FOLDER and end", "FOLDER");
    const QCommandLineOption paint("quit-after-paint", "end after the first paint (for timing)");
    parser.addOptions({demo, folder, paint});
    parser.process(app);
    ember::theme::apply(app, QSettings().value("theme").toInt() == 1 ? ember::theme::Mode::Daylight
                                                                     : ember::theme::Mode::Dusk);
    QString state = QDir::fromNativeSeparators(qEnvironmentVariable("XDG_STATE_HOME"));
    if (state.isEmpty()) state = QDir::homePath() + "/.local/state";
    state += parser.isSet(folder) || parser.isSet(paint) ? "/dim-ember/scratch" : "/dim-ember";
    MainWindow window(state);
    if (parser.isSet(folder)) {
        window.openDemo();
        return pictures(window, parser.value(folder));
    }
    // The window first, what it holds right after: an old file or a question must not keep the screen empty.
    afterFirstPaint(window, [&] {
        if (parser.isSet(paint)) return sayPaintedAndQuit();
        window.showSafetyWordsOnce();
        window.offerRecovery();
        if (window.document().holdsBuild()) return;
        if (!parser.positionalArguments().isEmpty()) window.openFile(parser.positionalArguments().constFirst());
        if (!window.document().holdsBuild()) window.openDemo();
    });
    window.show();
    return QApplication::exec();
}
