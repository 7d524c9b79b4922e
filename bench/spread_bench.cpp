// A thousand builds of the demo, and a solve against the number of sections.
#include "core/build/storage.h"
#include "core/plan/as_built.h"
#include "core/plan/supply_case.h"
#include "core/plan/tolerance_run.h"

#include <fmt/format.h>

#include <chrono>
#include <cmath>

using namespace ember;

namespace {

double milliseconds(const auto& work) {
    const auto from = std::chrono::steady_clock::now();
    work();
    return 1e3 * std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

/// A full-wave supply of `sections` RC sections.
plan::SupplyCase chain(int sections) {
    plan::SupplyCase c;
    c.rectifier = *Catalogue::shipped().rectifier("5V4G");
    c.emf = 300;
    c.sourceOhms = 60;
    for (int k = 0; k < sections; ++k) {
        Section capacitor, resistor;
        capacitor.id = fmt::format("c{}", k);
        capacitor.capacitance = 30e-6;
        resistor.id = fmt::format("r{}", k);
        resistor.kind = SectionKind::Resistor;
        resistor.resistance = 150;
        if (k) c.supply.sections.push_back(resistor);
        c.supply.sections.push_back(capacitor);
    }
    c.loads = {{sections, 5000, 0}};
    return c;
}

} // namespace

int main() {
    const auto demo = loadBuild(DEMO);
    plan::ToleranceOptions o;
    const double ms = milliseconds([&] {
        const auto run = plan::toleranceRun(*demo, Catalogue::shipped(), plan::asBuilt, o);
        if (!run || run->failed > 0) fmt::print("some builds failed\n");
    });
    fmt::print("{} builds of the demo: {:.0f} ms, {:.2f} of the second allowed\n", o.builds, ms, ms / 1000);
    double five = 0;
    for (const int n : {5, 10, 20}) {
        const plan::SupplyCase c = chain(n);
        double best = 1e9;
        for (int k = 0; k < 20; ++k) best = std::min(best, milliseconds([&] { (void)plan::solveCase(c); }));
        if (n == 5) five = best;
        fmt::print("{:2} sections: {:.2f} ms; {:.1f} times five sections, quadratic would be {:.0f}\n", n, best,
                   best / five, std::pow(n / 5.0, 2));
    }
}
