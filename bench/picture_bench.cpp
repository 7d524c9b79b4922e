// The chassis from below with 400 wires: milliseconds a picture, beside the same lines drawn bare.
//   picture-bench [ROUNDS]

#include "median.h"

#include "app/document/document.h"
#include "app/stations/underside/underside_picture.h"
#include "app/theme/theme.h"
#include "core/build/edit.h"
#include "core/build/storage.h"
#include "core/chassis/look/operating.h"
#include "core/chassis/look/render.h"

#include <QApplication>
#include <QImage>
#include <QPainter>
#include <QTemporaryDir>

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

using namespace ember;

namespace {

constexpr std::size_t wanted = 400;

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication program(argc, argv);
    theme::apply(program, theme::Mode::Dusk);
    const int rounds = argc > 1 ? std::max(3, std::atoi(argv[1])) : 61;
    auto build = loadBuild(DEMO);
    if (!build) return fmt::print(stderr, "{}\n", build.problem().text()), 1;
    const wires::Harness own = wires::harnessOf(*build, Catalogue::shipped());
    for (std::size_t k = 0; own.runs.size() + build->wiring.wires.size() < wanted + 10; ++k) {
        const wires::Run& r = own.runs[k % own.runs.size()];
        Wire w;
        w.id = fmt::format("more{}", k), w.from = r.wire.from, w.to = r.wire.to;
        build->wiring.wires.push_back(w);
    }
    const QTemporaryDir state;
    app::Document document(state.path());
    document.setBuild(*build, {});
    document.waitForSolve();
    app::UndersidePicture picture(document);
    picture.resize(800, 500);
    QImage image(800, 500, QImage::Format_ARGB32_Premultiplied);
    const std::size_t drawn = document.solved().figures.wires->harness.runs.size();
    const auto whole = [&] { // everything anew, as after an edit
        picture.setLit({});
        picture.render(&image);
    };
    const double ms = medianOf(rounds, [&] { picture.render(&image); }), anew = medianOf(rounds, whole);
    const double bare = medianOf(rounds, [&] {
        QPainter p(&image);
        p.setRenderHint(QPainter::Antialiasing);
        for (const wires::Run& r : document.solved().figures.wires->harness.runs) {
            QPolygonF line;
            for (const wires::Vector& v : r.path) line << QPointF(2000 * v.x(), 2000 * v.y());
            p.setPen(QPen(Qt::white, 1.6));
            p.drawPolyline(line);
        }
    });
    document.discardJournal();
    fmt::print(
        "{} wires: {:.2f} ms a frame while one is dragged, at most {:.1f} ms for 60 a second; everything anew {:.1f} "
        "ms, {:.1f} times the bare lines\n",
        drawn, ms, 1000.0 / 60, anew, anew / bare);
    // The finished amplifier while it is turned, beside a memory's copy of as many pixels.
    using namespace chassis::look;
    const Scene scene = sceneOf(document.build().chassis, operatingOf(document.build(), document.figures()));
    Renderer renderer;
    View view;
    const double turned = medianOf(rounds, [&] {
        view.azimuth += 2;
        renderer.draw(scene, view, Light::Evening, 1280, 800);
    });
    QImage large(1280, 800, QImage::Format_RGB32);
    const double copied = medianOf(rounds, [&] {
        large.detach();
        const QImage copy = large.copy();
        large.setPixel(0, 0, copy.pixel(1, 1));
    });
    fmt::print("solid picture of 1280 x 800: {:.1f} ms, at most {:.1f} ms for 30 a second; {:.0f} times a copy of it\n",
               turned, 1000.0 / 30, turned / copied);
    return ms <= 1000.0 / 60 && turned <= 1000.0 / 30 ? 0 : 1;
}
