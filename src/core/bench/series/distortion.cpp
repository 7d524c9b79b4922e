// Distortion at one power: against frequency, and driven by the input or by the level control.

#include "series_run.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::bench {

Expected<SeriesResult> runDistortionByFrequency(SeriesRun& run) {
    SeriesResult out;
    out.lines = {{"THD", {}, {}}, {"H2", {}, {}}, {"H3", {}, {}}};
    Setup setup;
    setup.everyChannel = run.request.everyChannel;
    // Up to where the recorder still has the third harmonic: THD without it would be another figure.
    const auto list = thirds(20, 0.49 * takeRate / 3, 3);
    for (std::size_t k = 0; k < list.size(); ++k) {
        const auto t = run.toneOf(run.request.watts, list[k], setup);
        if (run.cancelled()) return Problem{"", "cancelled"};
        if (!t) {
            out.trust.push_back(fmt::format("{}: {}", format(list[k], Unit::Hertz), t.problem().sentence));
            continue;
        }
        const auto add = [&](std::size_t line, double y) {
            out.lines[line].x.push_back(list[k]);
            out.lines[line].y.push_back(y > 0 ? y : plan::unknown);
        };
        add(0, t->thdPercent);
        add(1, t->percent[2]);
        add(2, t->percent[3]);
        run.share(static_cast<double>(k + 1) / static_cast<double>(list.size()));
    }
    if (out.lines[0].x.empty()) return Problem{"", out.trust.front()};
    for (const double hz : {100.0, 1000.0, 4000.0})
        for (std::size_t k = 0; k < out.lines[0].x.size(); ++k)
            if (std::abs(std::log2(out.lines[0].x[k] / hz)) < 0.4)
                out.figures.push_back(
                    {"THD at " + format(out.lines[0].x[k], Unit::Hertz), out.lines[0].y[k], Unit::Percent});
    return out;
}

Expected<SeriesResult> runDriveByControl(SeriesRun& run) {
    SeriesResult out;
    const std::array<double, 3> positions{1.0, run.channel().control, 0.5 * run.channel().control};
    for (std::size_t k = 0; k < positions.size(); ++k) {
        Setup setup;
        setup.control = positions[k];
        setup.everyChannel = run.request.everyChannel;
        const auto t = run.toneOf(run.request.watts, run.request.hertz, setup);
        if (run.cancelled()) return Problem{"", "cancelled"};
        if (!t) {
            out.trust.push_back(inWords(setup) + ": " + t.problem().sentence);
            continue;
        }
        SeriesLine line{fmt::format("{}, {} in", inWords(setup), format(t->inputRms, Unit::Volt, 2)), {}, {}};
        for (int h = 2; h <= 10; ++h) {
            line.x.push_back(h);
            line.y.push_back(t->percent[static_cast<std::size_t>(h)] > 0 ? t->percent[static_cast<std::size_t>(h)]
                                                                         : plan::unknown);
        }
        out.figures.push_back({"THD, " + inWords(setup), t->thdPercent, Unit::Percent});
        out.lines.push_back(std::move(line));
        run.share(static_cast<double>(k + 1) / static_cast<double>(positions.size()));
    }
    if (out.lines.empty()) return Problem{"", out.trust.front()};
    return out;
}

} // namespace ember::bench
