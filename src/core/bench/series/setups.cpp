// What another setup of the bench changes: the level control, the load.

#include "series_run.h"

#include "core/bench/approach.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::bench {

namespace {

/// dB of 1 kHz by single tones of the same input, three an octave; 1 kHz makes the request's watts, or less.
Expected<SeriesLine> responseOf(SeriesRun& run, const Setup& setup, const std::string& name, double from,
                                double share) {
    const auto list = thirds(20, 20e3);
    double reference = plan::unknown, level = 0;
    SeriesLine line{name, {}, {}};
    // 1 kHz into the resistor: into a loudspeaker the watts differ at each frequency, the volts are what counts.
    const double watts = setup.loudspeaker ? std::min(run.request.watts, loudspeakerWatts) : run.request.watts;
    const double volts = std::sqrt(watts * run.channel().loadOhms);
    level = volts / run.gain(setup, run.request.channel);
    if (setup.control >= 0 || setup.loadOhms > 0 || setup.loudspeaker) {
        const auto quiet = run.tone(0.05 * std::min(level, run.context.mostInput), 1000, setup);
        if (!quiet) return quiet.problem();
        level = volts * quiet->inputRms / quiet->rms;
    }
    const auto middle = run.tone(level, 1000, setup);
    if (!middle) return middle.problem();
    level = middle->inputRms, reference = middle->fundamental;
    for (std::size_t k = 0; k < list.size(); ++k) {
        const auto t = list[k] == 1000 ? middle : run.tone(level, list[k], setup);
        if (!t) return t.problem();
        line.x.push_back(list[k]);
        line.y.push_back(20 * std::log10(t->fundamental / reference));
        run.share(from + share * static_cast<double>(k + 1) / static_cast<double>(list.size()));
    }
    return line;
}

void addEnds(SeriesResult& out, const SeriesLine& line) {
    for (const double db : {1.0, 3.0}) {
        const Ends e = endsOf(line, db);
        out.figures.push_back({fmt::format("-{:g} dB low, {}", db, line.name), e.low, Unit::Hertz});
        out.figures.push_back({fmt::format("-{:g} dB high, {}", db, line.name), e.high, Unit::Hertz});
    }
}

SeriesLine lineDifference(const SeriesLine& a, const SeriesLine& b, const std::string& name) {
    SeriesLine out{name, a.x, {}};
    for (std::size_t k = 0; k < a.x.size(); ++k) out.y.push_back(k < b.y.size() ? b.y[k] - a.y[k] : plan::unknown);
    return out;
}

} // namespace

Expected<SeriesResult> runControlTracking(SeriesRun& run) {
    SeriesResult out;
    constexpr std::array positions{1.0, 0.75, 0.5, 0.25, 0.1};
    const auto& channels = run.context.channels;
    for (std::size_t c = 0; c < channels.size(); ++c) {
        if (channels[c].control < 0) continue;
        SeriesLine line{channels[c].name, {}, {}};
        for (std::size_t p = 0; p < positions.size(); ++p) {
            Setup setup;
            setup.control = positions[p];
            // Half a watt with the control fully up; the same input below it.
            const double full = channels[c].gain > 0 ? channels[c].gain : 10;
            const auto t = run.tone(std::sqrt(0.5 * channels[c].loadOhms) / full, run.request.hertz, setup, c);
            if (!t) return t.problem();
            line.x.push_back(100 * positions[p]);
            line.y.push_back(20 * std::log10(t->fundamental / t->inputRms));
            run.share((static_cast<double>(c) + static_cast<double>(p + 1) / positions.size()) /
                      static_cast<double>(channels.size()));
        }
        out.lines.push_back(std::move(line));
    }
    if (out.lines.size() < 2) return out;
    const SeriesLine apart =
        lineDifference(out.lines[0], out.lines[1], out.lines[1].name + " over " + out.lines[0].name);
    for (std::size_t k = 0; k < apart.x.size(); ++k)
        out.figures.push_back({fmt::format("{} at {:g} %", apart.name, apart.x[k]), apart.y[k], Unit::Decibel});
    return out;
}

Expected<SeriesResult> runResponseAtSettings(SeriesRun& run) {
    SeriesResult out;
    constexpr std::array positions{0.25, 0.5, 0.75};
    for (std::size_t k = 0; k < positions.size(); ++k) {
        Setup setup;
        setup.control = positions[k];
        auto line =
            responseOf(run, setup, inWords(setup), static_cast<double>(k) / positions.size(), 1.0 / positions.size());
        if (!line) return line.problem();
        addEnds(out, *line);
        out.lines.push_back(std::move(*line));
    }
    out.lines.push_back(lineDifference(out.lines[2], out.lines[0], "25 % over 75 %"));
    return out;
}

Expected<SeriesResult> runResponseWithLoudspeaker(SeriesRun& run) {
    SeriesResult out;
    Setup loudspeaker;
    loudspeaker.loudspeaker = run.request.loudspeaker.value_or(loudspeakerOf(run.channel().loadOhms));
    auto resistor = responseOf(run, {}, "resistor", 0, 0.5);
    if (!resistor) return resistor.problem();
    auto other = responseOf(run, loudspeaker, "loudspeaker", 0.5, 0.5);
    if (!other) return other.problem();
    addEnds(out, *resistor);
    addEnds(out, *other);
    SeriesLine difference = lineDifference(*resistor, *other, "difference");
    const auto [least, most] = std::minmax_element(difference.y.begin(), difference.y.end());
    out.figures.push_back({"most over the resistor", *most, Unit::Decibel});
    out.figures.push_back({"least", *least, Unit::Decibel});
    out.lines = {std::move(*resistor), std::move(*other), std::move(difference)};
    return out;
}

Expected<SeriesResult> runOutputImpedance(SeriesRun& run) {
    SeriesResult out;
    const double first = run.channel().loadOhms,
                 second = run.request.secondLoad > 0 ? run.request.secondLoad : 2 * first;
    if (std::abs(std::log(second / first)) < 0.1)
        return Problem{"", fmt::format("{} and {} are too near each other: their volts would hardly differ",
                                       formatExact(first, Unit::Ohm), formatExact(second, Unit::Ohm))};
    if (second > 4 * first || second < first / 4)
        return Problem{"", fmt::format("{} is not between a quarter and four times the build's {}: a pentode stage "
                                       "without its load makes dangerous volts, and one into a short no power",
                                       formatExact(second, Unit::Ohm), formatExact(first, Unit::Ohm))};
    const auto list = thirds(20, 20e3);
    Setup other;
    other.loadOhms = second;
    std::vector<double> volts;
    double level = 0;
    SeriesLine line{"output impedance", {}, {}};
    for (int which = 0; which < 2; ++which)
        for (std::size_t k = 0; k < list.size(); ++k) {
            const Setup& setup = which == 0 ? Setup{} : other;
            if (level == 0) {
                const auto t = run.toneOf(run.request.watts, 1000, setup);
                if (!t) return t.problem();
                level = t->inputRms;
            }
            const auto t = run.tone(level, list[k], setup);
            if (!t) return t.problem();
            run.share((which * static_cast<double>(list.size()) + static_cast<double>(k + 1)) / 2 /
                      static_cast<double>(list.size()));
            if (which == 0) {
                volts.push_back(t->fundamental);
                continue;
            }
            // As if it were a resistance: v1 = e R1 / (R1 + z), v2 = e R2 / (R2 + z).
            const double ratio = t->fundamental / volts[k], z = (ratio - 1) * first * second / (second - ratio * first);
            line.x.push_back(list[k]);
            line.y.push_back(z > 0 ? z : plan::unknown);
        }
    for (const double hz : {50.0, 1000.0, 10e3})
        for (std::size_t k = 0; k < line.x.size(); ++k)
            if (std::abs(std::log2(line.x[k] / hz)) < 0.17) {
                out.figures.push_back({"at " + formatExact(hz, Unit::Hertz), line.y[k], Unit::Ohm});
                out.figures.push_back({"damping at " + formatExact(hz, Unit::Hertz), first / line.y[k], Unit::None});
            }
    out.lines.push_back(std::move(line));
    out.trust.push_back("taken for a resistance: where it turns reactive, at the ends, it reads too low");
    return out;
}

} // namespace ember::bench
