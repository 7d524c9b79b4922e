// Power at the onset of flattening, at each THD, and where the gain is 1 dB down; distortion on the way there.

#include "series_run.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::bench {

namespace {

constexpr double rungStep = 1.2589;                  // 2 dB
constexpr double flatAt = 0.02;                      // of the crest, at which flattening begins
constexpr double compressedAt = 0.8913;              // 1 dB
constexpr double thdTop = 0.49 * takeRate / 3;       // [Hz] above which the recorder has no third harmonic
constexpr std::array thdLevels{3.0, 1.0, 5.0, 10.0}; // the first is what power is usually told at

/// Tones of rising level at one frequency.
struct Ladder {
    std::vector<ToneTaken> rungs;
    std::string ended; ///< why before its end; empty: at it
    [[nodiscard]] double firstGain() const { return rungs.front().fundamental / rungs.front().inputRms; }
    [[nodiscard]] double compression(const ToneTaken& t) const { return t.fundamental / t.inputRms / firstGain(); }
};

/// From an eighth of a watt, or 26 dB below clipping, up to 10 % THD and 1 dB short.
Expected<Ladder> climb(SeriesRun& run, double hertz, const Setup& setup) {
    Ladder out;
    const SeriesChannel& c = run.channel();
    const double watts = std::min(0.125, std::isfinite(c.clipWatts) ? c.clipWatts / 400 : 0.125);
    auto t = run.toneOf(watts, hertz, setup);
    if (!t) return t.problem();
    out.rungs.push_back(*t);
    while (out.rungs.size() < 40) {
        const ToneTaken& last = out.rungs.back();
        const bool distorted = last.thdPercent > 10 || hertz > thdTop;
        if ((distorted && out.compression(last) < 0.87) || out.compression(last) < 0.5) break;
        if (last.inputRms >= run.context.mostInput) {
            out.ended =
                fmt::format("{} at the input are the most that is played", format(last.inputRms, Unit::Volt, 2));
            break;
        }
        auto next = run.tone(last.inputRms * rungStep, hertz, setup);
        if (run.cancelled()) return Problem{"", "cancelled"};
        if (!next) {
            out.ended = next.problem().sentence;
            break;
        }
        out.rungs.push_back(*next);
    }
    return out;
}

/// Watts where a quantity first passes `wanted`: between two rungs, then by tones between them. NaN: it does not.
template <typename Of>
double wattsWhere(SeriesRun& run, Ladder& l, double hertz, const Setup& setup, double wanted, Of of) {
    for (std::size_t k = 1; k < l.rungs.size(); ++k) {
        if (!(of(l.rungs[k - 1]) <= wanted && of(l.rungs[k]) > wanted)) continue;
        ToneTaken below = l.rungs[k - 1], above = l.rungs[k];
        const auto place = [&] { // in the logarithm of the level
            const double a = std::max(1e-9, of(below)), z = std::max(1e-9, of(above));
            return std::clamp(std::log(wanted / a) / std::log(z / a), 0.02, 0.98);
        };
        for (int round = 0; round < 3 && above.inputRms > 1.02 * below.inputRms; ++round) {
            const auto t = run.tone(below.inputRms * std::pow(above.inputRms / below.inputRms, place()), hertz, setup);
            if (!t) break;
            (of(*t) > wanted ? above : below) = *t;
        }
        return below.watts * std::pow(above.watts / below.watts, place());
    }
    return plan::unknown;
}

std::string atPercent(double percent) {
    return fmt::format("{:g} % THD", percent);
}

} // namespace

Expected<SeriesResult> runPower(SeriesRun& run) {
    SeriesResult out;
    Setup setup;
    setup.everyChannel = run.request.everyChannel;
    for (const double p : thdLevels) out.lines.push_back({atPercent(p), {}, {}});
    out.lines.push_back({"flattening", {}, {}});
    out.lines.push_back({"1 dB short", {}, {}});
    std::vector<double> list = run.request.frequencies;
    // 1 kHz first: it tells what the others start from.
    std::stable_sort(list.begin(), list.end(),
                     [](double a, double b) { return std::abs(std::log(a / 1000)) < std::abs(std::log(b / 1000)); });
    for (std::size_t k = 0; k < list.size(); ++k) {
        const double hz = list[k];
        auto ladder = climb(run, hz, setup);
        if (!ladder) {
            if (run.cancelled() || out.lines[0].x.empty()) return ladder.problem();
            out.trust.push_back(fmt::format("{}: {}", format(hz, Unit::Hertz), ladder.problem().sentence));
            continue;
        }
        if (!ladder->ended.empty())
            out.trust.push_back(fmt::format("{}: ended early, {}", format(hz, Unit::Hertz), ladder->ended));
        const auto add = [&](std::size_t line, double watts) {
            out.lines[line].x.push_back(hz);
            out.lines[line].y.push_back(watts);
        };
        const auto at = [&](double wanted, auto of) { return wattsWhere(run, *ladder, hz, setup, wanted, of); };
        for (std::size_t p = 0; p < thdLevels.size(); ++p)
            add(p, hz > thdTop ? plan::unknown : at(thdLevels[p], [](const ToneTaken& t) { return t.thdPercent; }));
        add(thdLevels.size(), at(flatAt, [](const ToneTaken& t) { return t.flattening; }));
        add(thdLevels.size() + 1, at(1 / compressedAt, [&](const ToneTaken& t) { return 1 / ladder->compression(t); }));
        if (k == 0) {
            const ToneTaken& small = ladder->rungs.front();
            for (const SeriesLine& l : out.lines) out.figures.push_back({l.name, l.y.front(), Unit::Watt});
            out.figures.push_back({"gain", 20 * std::log10(small.rms / small.inputRms), Unit::Decibel});
            const double rated = out.lines.front().y.front(); // 3 %
            if (std::isfinite(rated))
                for (std::size_t r = 1; r < ladder->rungs.size(); ++r)
                    if (ladder->rungs[r].watts >= rated) {
                        const ToneTaken &b = ladder->rungs[r - 1], &a = ladder->rungs[r];
                        const double share = std::log(rated / b.watts) / std::log(a.watts / b.watts);
                        out.figures.push_back(
                            {"input for 3 %", b.inputRms * std::pow(a.inputRms / b.inputRms, share), Unit::Volt});
                        out.figures.push_back(
                            {"output at 3 %", std::sqrt(rated * run.ohms(setup, run.request.channel)), Unit::Volt});
                        break;
                    }
        }
        run.share(static_cast<double>(k + 1) / static_cast<double>(list.size()));
    }
    if (std::any_of(list.begin(), list.end(), [](double hz) { return hz > thdTop; }))
        out.trust.push_back(
            "above 7.8 kHz the third harmonic is beyond a recorder of 48 kHz: read \"1 dB short\" there");
    for (SeriesLine& l : out.lines) { // by frequency
        std::vector<std::size_t> order(l.x.size());
        for (std::size_t k = 0; k < order.size(); ++k) order[k] = k;
        std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return l.x[a] < l.x[b]; });
        SeriesLine sorted{l.name, {}, {}};
        for (const std::size_t k : order) sorted.x.push_back(l.x[k]), sorted.y.push_back(l.y[k]);
        l = std::move(sorted);
    }
    return out;
}

Expected<SeriesResult> runDistortionByPower(SeriesRun& run) {
    SeriesResult out;
    Setup setup;
    setup.everyChannel = run.request.everyChannel;
    auto ladder = climb(run, run.request.hertz, setup);
    if (!ladder) return ladder.problem();
    if (!ladder->ended.empty()) out.trust.push_back("ended early: " + ladder->ended);
    out.lines = {{"THD", {}, {}}, {"THD + noise", {}, {}}};
    for (int h = 2; h <= 5; ++h) out.lines.push_back({fmt::format("H{}", h), {}, {}});
    for (const ToneTaken& t : ladder->rungs) {
        const auto add = [&](std::size_t line, double y) {
            out.lines[line].x.push_back(t.watts);
            out.lines[line].y.push_back(y);
        };
        add(0, t.thdPercent);
        add(1, t.thdNoisePercent);
        for (std::size_t h = 2; h <= 5; ++h) add(h, t.percent[h] > 0 ? t.percent[h] : plan::unknown);
    }
    for (const double p : thdLevels)
        out.figures.push_back(
            {atPercent(p),
             wattsWhere(run, *ladder, run.request.hertz, setup, p, [](const ToneTaken& t) { return t.thdPercent; }),
             Unit::Watt});
    return out;
}

} // namespace ember::bench
