#include "prediction.h"

#include "core/bench/model_bench.h"
#include "core/bench/spread.h"
#include "core/plan/as_built.h"

#include <algorithm>
#include <cmath>

namespace ember::bench {

namespace {

/// A line's y at some x: straight between its points, in the logarithm of x where its axis is logarithmic. NaN outside.
double valueAt(const SeriesLine& l, double x, bool logarithmic) {
    const bool falling = l.x.size() > 1 && l.x.back() < l.x.front();
    for (std::size_t k = 0; k < l.x.size(); ++k)
        if (std::abs(l.x[k] - x) <= 1e-9 * std::abs(x)) return l.y[k];
    for (std::size_t k = 1; k < l.x.size(); ++k) {
        const std::size_t a = falling ? k : k - 1, z = falling ? k - 1 : k;
        if (!(l.x[a] <= x && l.x[z] >= x)) continue;
        const double share =
            logarithmic ? std::log(x / l.x[a]) / std::log(l.x[z] / l.x[a]) : (x - l.x[a]) / (l.x[z] - l.x[a]);
        return l.y[a] + share * (l.y[z] - l.y[a]);
    }
    return plan::unknown;
}

/// Amplifiers on an ideal wave and on a flattened one are two crowds: the band holds both.
struct TwoSpreads {
    Spread ideal, flattened;
    void put(double& low, double& high) const {
        const auto a = ideal.range(), z = flattened.range();
        low = std::fmin(a.first, z.first), high = std::fmax(a.second, z.second);
    }
};

} // namespace

Expected<SeriesPrediction> predict(const SeriesRequest& request, const Build& build, const Catalogue& catalogue,
                                   double mainsVolts, const SeriesContext& context, int samples, std::stop_token stop,
                                   const std::function<void(const SeriesPrediction&)>& early) {
    const auto run = [&](Build b) -> Expected<SeriesResult> {
        auto model = ModelBench::at(std::move(b), catalogue, mainsVolts, stop);
        if (!model) return model.problem();
        return measure(request, context, [&](const TakeRequest& r) { return model->take(r, {{}, stop}); }, {{}, stop});
    };
    auto nominal = run(build);
    if (!nominal) return nominal.problem();
    SeriesPrediction out;
    out.nominal = std::move(*nominal);
    if (early) early(out);
    const SeriesForm& form = formOf(request.kind);
    const auto scaled = [&](double v) { return form.y.logarithmic ? (v > 0 ? std::log(v) : plan::unknown) : v; };
    const auto back = [&](double v) { return form.y.logarithmic ? std::exp(v) : v; };
    // Everything but decibels is positive: spread by its logarithm, it stays so.
    const auto byUnit = [](const SeriesFigure& f, double v) {
        return f.unit == Unit::Decibel ? v : v > 0 ? std::log(v) : plan::unknown;
    };
    std::vector<std::vector<TwoSpreads>> spread;
    for (const SeriesLine& l : out.nominal.lines) spread.emplace_back(l.x.size());
    std::vector<TwoSpreads> figures(out.nominal.figures.size());
    for (int k = 1; k <= samples && !stop.stop_requested(); ++k) {
        const auto seed = static_cast<std::uint64_t>(k);
        const auto sample = run(k % 2 ? plan::asBuiltOnRealMains(build, seed) : plan::asBuilt(build, seed));
        if (!sample) continue;
        for (std::size_t n = 0; n < out.nominal.lines.size(); ++n)
            if (const SeriesLine* l = n < sample->lines.size() ? &sample->lines[n] : nullptr)
                for (std::size_t p = 0; p < spread[n].size(); ++p)
                    (k % 2 ? spread[n][p].flattened : spread[n][p].ideal)
                        .add(scaled(valueAt(*l, out.nominal.lines[n].x[p], form.x.logarithmic)));
        for (std::size_t n = 0; n < figures.size(); ++n)
            (k % 2 ? figures[n].flattened : figures[n].ideal)
                .add(byUnit(out.nominal.figures[n], sample->figure(out.nominal.figures[n].name)));
        ++out.samples;
    }
    if (stop.stop_requested()) return Problem{"", "cancelled"};
    if (out.samples == 0) return out;
    for (const auto& line : spread) {
        SeriesBand band;
        for (const TwoSpreads& s : line) {
            double low = 0, high = 0;
            s.put(low, high);
            band.low.push_back(back(low)), band.high.push_back(back(high));
        }
        out.bands.push_back(std::move(band));
    }
    for (std::size_t n = 0; n < figures.size(); ++n) {
        double low = 0, high = 0;
        figures[n].put(low, high);
        const bool decibels = out.nominal.figures[n].unit == Unit::Decibel;
        out.figureBands.push_back({{decibels ? low : std::exp(low)}, {decibels ? high : std::exp(high)}});
    }
    return out;
}

double shareWithin(const SeriesResult& measured, const SeriesPrediction& p) {
    int inside = 0, all = 0;
    for (std::size_t n = 0; n < std::min<std::size_t>({1, measured.lines.size(), p.bands.size()}); ++n)
        for (std::size_t k = 0; k < measured.lines[n].x.size(); ++k) {
            SeriesLine low{"", p.nominal.lines[n].x, p.bands[n].low}, high{"", low.x, p.bands[n].high};
            const double y = measured.lines[n].y[k], a = valueAt(low, measured.lines[n].x[k], false),
                         z = valueAt(high, measured.lines[n].x[k], false);
            if (!std::isfinite(y) || !std::isfinite(a) || !std::isfinite(z)) continue;
            ++all;
            inside += y >= a && y <= z;
        }
    return all > 0 ? static_cast<double>(inside) / all : plan::unknown;
}

} // namespace ember::bench
