// A full re-evaluation of a layout after a move, against the 16.7 ms of a frame at 60 a second.

#include "core/build/storage.h"
#include "core/chassis/arrange/arrange.h"
#include "core/chassis/arrange/free_search.h"
#include "core/chassis/bodies.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/solve.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <vector>

using namespace ember;

namespace {

/// A plate of `count` parts of every kind in rows, large enough for them.
Build crowded(const Build& from, int count) {
    Build b = from;
    const int columns = static_cast<int>(std::ceil(std::sqrt(1.5 * count)));
    b.chassis.width = std::min(1.5, 0.07 * columns);
    b.chassis.depth = std::min(1.5, 0.07 * (count / columns + 1));
    b.chassis.parts.clear();
    const char* kinds[] = {"socket-noval-clip", "can", "film", "jack", "resistor-chassis", "choke-upright"};
    for (int k = 0; k < count; ++k) {
        PlacedPart p = *chassis::makePart(kinds[k % 6]);
        p.id = fmt::format("p{}", k);
        p.face = Face::Top;
        p.x = b.chassis.width * (k % columns + 0.5) / columns;
        p.y = b.chassis.depth * (k / columns + 0.5) / (count / columns + 1);
        b.chassis.parts.push_back(std::move(p));
    }
    return b;
}

} // namespace

int main() {
    const auto demo = loadBuild(DEMO);
    const plan::Figures none;
    for (const int count : {20, 100, 400}) {
        Build b = crowded(*demo, count);
        chassis::LayoutSolver solver;
        (void)solver.solve(b, Catalogue::shipped(), none); // the sheet is factored once
        std::vector<double> all;
        for (int k = 0; k < 41; ++k) {
            b.chassis.parts[0].x += 1e-3;
            const auto from = std::chrono::steady_clock::now();
            const auto f = solver.solve(b, Catalogue::shipped(), none);
            all.push_back(1e3 * std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count());
            if (f.mass < 0) return 1;
        }
        std::sort(all.begin(), all.end());
        fmt::print("layout of {:3} parts after a move: median {:.2f} ms, worst {:.2f} ms, {:.2f} of a frame\n", count,
                   all[all.size() / 2], all.back(), all[all.size() / 2] / 16.7);
    }
    // Every arrangement, and what the quietest costs against a search that keeps no rules.
    const plan::Figures figures = plan::solveFigures(*demo, Catalogue::shipped());
    const auto timed = [](auto work) {
        const auto from = std::chrono::steady_clock::now();
        auto result = work();
        return std::pair(std::move(result),
                         std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count());
    };
    const auto pickup = [&](const std::vector<Standing>& places) {
        Build b = *demo;
        b.chassis = chassis::withPlaces(b.chassis, places);
        return chassis::summarise(b, chassis::LayoutSolver().solve(b, Catalogue::shipped(), figures)).exposureDb;
    };
    const auto [all, seconds] =
        timed([&] { return chassis::arrange::arrangements(*demo, Catalogue::shipped(), figures); });
    double quietest = 1e9;
    for (const auto& a : all)
        if (a.misfits == 0) quietest = std::min(quietest, pickup(a.places));
    const auto [free, longer] =
        timed([&] { return chassis::arrange::freeSearch(*demo, Catalogue::shipped(), figures, 3); });
    fmt::print("{} arrangements in {:.2f} s ({:.2f} of the 5 s asked), the quietest {:.1f} dB; a free search {:.2f} s, "
               "{:.1f} dB\n",
               all.size(), seconds, seconds / 5, quietest, longer, pickup(free));
}
