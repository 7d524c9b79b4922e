// Measurements on the plan's netlist: how long a prediction takes.
#include "../tests/support/demo.h"

#include "core/bench/model_bench.h"
#include "core/bench/series/series.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/solve.h"

#include <chrono>
#include <fmt/format.h>

using namespace ember;

int main() {
    const Catalogue& catalogue = Catalogue::shipped();
    const Build demo = demoBuild();
    plan::WarmStart warm;
    plan::Figures figures = plan::solveFigures(demo, catalogue, {}, &warm);
    plan::completeFigures(demo, catalogue, figures);
    const bench::SeriesContext context = bench::seriesContextOf(demo, figures);
    for (const bench::SeriesForm& form : bench::seriesForms()) {
        bench::SeriesRequest r;
        r.kind = form.kind;
        int takes = 0;
        auto model = bench::ModelBench::at(demo, catalogue, 230);
        const auto begun = std::chrono::steady_clock::now();
        const auto out = bench::measure(r, context, [&](const bench::TakeRequest& t) {
            ++takes;
            return model->take(t);
        });
        const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
        fmt::print("{:34} {:4} takes {:7.0f} ms{}\n", form.caption, takes, ms, out ? "" : "  " + out.problem().text());
        if (out)
            for (const auto& f : out->figures) fmt::print("      {:30} {}\n", f.name, format(f.value, f.unit));
        if (out)
            for (const auto& t : out->trust) fmt::print("      ! {}\n", t);
    }
}
