#include "published.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>
#include <variant>

namespace ember {

namespace {

struct Flow {
    double plate = 0, screen = 0; ///< [A]
    double winding = 0;           ///< [A] that the whole half winding would have to carry for the same field
    double slope = 0;             ///< [S] of `winding` with the plate's swing
};

bool isTriode(const circuit::PortLaw& law) {
    return std::holds_alternative<circuit::TriodeLaw>(law);
}

Flow flow(const circuit::PortLaw& law, double grid, double screen, double plate, double tap) {
    double i[3], g[9];
    if (isTriode(law)) {
        const double v[2] = {grid, plate};
        circuit::evaluate(law, 1, v, i, g);
        return {i[1], 0, i[1], g[3]};
    }
    const double v[3] = {grid, screen, plate};
    circuit::evaluate(law, 1, v, i, g);
    // The screen's current passes through the part of the winding up to its tap: all of it if strapped.
    return {i[2], i[1], i[2] + tap * i[1], g[8] + tap * (g[7] + g[5] + tap * g[4])};
}

/// A valve or a pair at work; the plates swing symmetrically about their direct volts.
class Swing {
  public:
    Swing(const circuit::PortLaw& valve, const PublishedOperation& operation) : law(valve), as(operation) { begin(); }

    /// Settles the direct volts at this drive [V peak] and gives what follows.
    Operation at(double drive) {
        Operation out;
        // The mean current falls as the cathode rises, so that the balance of its volts has one root: regula falsi
        // (Illinois), with the volts lost in the screens' resistor followed on the way.
        double low = 0, high = as.cathodeOhms > 0 ? supply : 0, lowMiss = 0, highMiss = 0;
        int side = 0;
        for (int round = 0; round < 40; ++round) {
            const double screenBefore = screenSupply;
            cycle(drive);
            screenSupply += 0.7 * (as.screenOhms * screenMean - screenSupply);
            const double miss = as.cathodeOhms * (plateMean + screenMean) - cathode;
            const bool settled = std::abs(screenSupply - screenBefore) < 1e-3;
            if (as.cathodeOhms <= 0 ? settled : std::abs(miss) < 1e-3 && settled) break;
            if (as.cathodeOhms <= 0) continue;
            if (miss > 0) {
                if (side > 0) highMiss /= 2;
                low = cathode, lowMiss = miss, side = 1;
            } else {
                if (side < 0) lowMiss /= 2;
                high = cathode, highMiss = miss, side = -1;
            }
            if (lowMiss > 0 && highMiss < 0)
                cathode = low + (high - low) * lowMiss / (lowMiss - highMiss);
            else // nothing known on the other side yet: by the slope that a valve of equal resistance would have
                cathode = std::clamp(cathode + 0.5 * miss, low, high);
        }
        out.grid = gridRest();
        const bool together = as.strapped || as.together;
        out.plateAmpsFull = plateMean + (together ? screenMean : 0);
        out.screenAmpsFull = together ? 0 : screenMean;
        double fundamental = 0, rest = 0;
        for (int h = 1; h <= 10; ++h) {
            std::complex<double> sum = 0;
            for (int k = 0; k < points; ++k)
                sum += load[index(k)] * std::polar(2.0 / points, -2 * std::numbers::pi * h * k / points);
            (h == 1 ? fundamental : rest) += std::norm(sum);
        }
        out.power = (fundamental + rest) / 2 / as.load;
        out.thdPercent = fundamental > 0 ? 100 * std::sqrt(rest / fundamental) : 0;
        return out;
    }
    [[nodiscard]] double gridRest() const { return as.cathodeOhms > 0 ? -cathode : as.grid; }

  private:
    static constexpr int points = 48; ///< a period, of which half is computed
    static std::size_t index(int k) { return static_cast<std::size_t>(k); }
    [[nodiscard]] double count() const { return as.pushPull ? 2 : 1; }
    [[nodiscard]] double plateRest() const { return supply - cathode; }
    [[nodiscard]] double screenRest() const { return screenAt - cathode - screenSupply; }

    void begin() {
        cathode = 0;
        if (as.cathodeOhms > 0) cathode = 10;
        // Volts to the cathode are as published; a supply is to ground.
        const bool fromCathode = as.plate > 0;
        supply = fromCathode ? as.plate : as.supply;
        screenAt = as.screen > 0 ? as.screen : as.screenSupply > 0 ? as.screenSupply : supply;
        if (as.cathodeOhms <= 0) return;
        // At rest first: where it stands to the cathode fixes the supply to ground.
        for (int round = 0; round < 200; ++round) {
            const double plate = fromCathode ? supply : supply - cathode;
            const double screen =
                as.strapped ? plate : (as.screen > 0 || fromCathode ? screenAt : screenAt - cathode) - screenSupply;
            const Flow f = flow(law, -cathode, screen, plate, tap());
            const double next = as.cathodeOhms * count() * (f.plate + f.screen);
            screenSupply += 0.3 * (as.screenOhms * count() * f.screen - screenSupply);
            const double before = cathode;
            cathode += 0.3 * (next - cathode);
            if (std::abs(cathode - before) < 1e-6) break;
        }
        if (fromCathode) supply += cathode;
        if (as.screen > 0 || (fromCathode && as.screenSupply <= 0)) screenAt += cathode;
    }

    [[nodiscard]] double tap() const { return as.strapped ? 1 : as.screenTap; }
    [[nodiscard]] Flow valve(double grid, double swing) const {
        const double rest = as.strapped ? plateRest() : screenRest();
        return flow(law, grid, rest + tap() * swing, plateRest() + swing, tap());
    }

    /// Half a period from the trough to the crest: the other half mirrors it.
    void cycle(double drive) {
        constexpr int half = points / 2;
        if (meanGuess < 0) meanGuess = valve(gridRest(), 0).winding;
        double plate = 0, screen = 0, winding = 0;
        for (int inner = 0; inner < (as.pushPull ? 1 : 6); ++inner) {
            plate = screen = winding = 0;
            for (int k = 0; k <= half; ++k) {
                const double s = std::sin(std::numbers::pi * (static_cast<double>(k) / half - 0.5));
                const auto [u, a, b] = solve(drive * s);
                const double weight = (k == 0 || k == half ? 0.5 : 1) / half;
                plate += weight * (a.plate + b.plate);
                screen += weight * (a.screen + b.screen);
                winding += weight * a.winding;
                // The crest stands at a quarter period: sample k of the half is sample k - points / 4 of the sine.
                const double volts = as.pushPull ? -2 * u : -u;
                load[index((k + 3 * points / 4) % points)] = volts;
                load[index((points / 2 + points / 4 - k + points) % points)] = volts;
            }
            if (as.pushPull || std::abs(winding - meanGuess) < 1e-7) break;
            meanGuess = winding;
        }
        plateMean = plate;
        screenMean = screen;
    }

    struct Point {
        double swing;
        Flow one, other;
    };
    /// Swing of the first plate at this drive: the winding's current is the load's.
    Point solve(double drive) const {
        const double most = 2 * plateRest() + 200;
        double low = -most, high = most, u = 0;
        const double share = as.pushPull ? 0.5 : 1;
        Flow a, b;
        for (int step = 0; step < 60; ++step) {
            a = valve(gridRest() + share * drive, u);
            b = as.pushPull ? valve(gridRest() - share * drive, -u) : Flow{};
            // Push-pull: (i1 - i2) / 2 flows in the load from 2 u; single-ended: mean - i1 from u.
            const double miss =
                as.pushPull ? (a.winding - b.winding) / 2 + 2 * u / as.load : a.winding - meanGuess + u / as.load;
            const double slope = as.pushPull ? (a.slope + b.slope) / 2 + 2 / as.load : a.slope + 1 / as.load;
            (miss > 0 ? high : low) = u;
            const double next = slope > 0 ? u - miss / slope : (low + high) / 2;
            const double to = next > low && next < high ? next : (low + high) / 2;
            if (std::abs(to - u) < 1e-6 * most) break;
            u = to;
        }
        return {u, a, b};
    }

    const circuit::PortLaw& law;
    const PublishedOperation& as;
    double cathode = 0;              ///< [V] over its resistor
    double supply = 0, screenAt = 0; ///< [V] to ground
    double screenSupply = 0;         ///< [V] lost in the screens' resistor
    double plateMean = 0, screenMean = 0, meanGuess = -1;
    std::array<double, points> load{}; ///< [V] over the load, a period from the sine's zero
};

} // namespace

ValveFigures figuresAt(const circuit::PortLaw& law, double plate, double grid, double screen) {
    ValveFigures f;
    double i[3], g[9];
    if (isTriode(law)) {
        const double v[2] = {grid, plate};
        circuit::evaluate(law, 1, v, i, g);
        f = {i[1], 0, g[2], 0, 0};
        f.rp = g[3] > 0 ? 1 / g[3] : INFINITY;
    } else {
        const double v[3] = {grid, screen, plate};
        circuit::evaluate(law, 1, v, i, g);
        f = {i[2], i[1], g[6], 0, 0};
        f.rp = g[8] > 0 ? 1 / g[8] : INFINITY;
    }
    f.mu = f.gm * f.rp;
    return f;
}

ValveFigures strappedFiguresAt(const circuit::PortLaw& law, double plate, double grid) {
    if (isTriode(law)) return figuresAt(law, plate, grid, 0);
    double i[3], g[9];
    const double v[3] = {grid, plate, plate};
    circuit::evaluate(law, 1, v, i, g);
    ValveFigures f;
    f.plateAmps = i[1] + i[2];
    f.gm = g[3] + g[6];
    const double slope = g[4] + g[5] + g[7] + g[8];
    f.rp = slope > 0 ? 1 / slope : INFINITY;
    f.mu = f.gm * f.rp;
    return f;
}

ValveFigures figuresAt(const circuit::PortLaw& law, const PublishedPoint& at) {
    return at.strapped ? strappedFiguresAt(law, at.plate, at.grid) : figuresAt(law, at.plate, at.grid, at.screen);
}

double gridForCurrent(const circuit::PortLaw& law, const PublishedPoint& at) {
    double low = -2 * at.plate, high = 0;
    PublishedPoint p = at;
    while (high - low > 1e-3) {
        p.grid = (low + high) / 2;
        (figuresAt(law, p).plateAmps > at.plateAmps ? high : low) = p.grid;
    }
    return (low + high) / 2;
}

double gridVoltsTaking(const circuit::PortLaw& law, double amps) {
    const circuit::GridLaw& grid =
        isTriode(law) ? std::get<circuit::TriodeLaw>(law).grid : std::get<circuit::PentodeLaw>(law).grid;
    const double over = std::pow(amps / grid.perveance, 2.0 / 3);
    return grid.onset + (grid.width > 0 ? grid.width * std::log(std::expm1(over / grid.width)) : over);
}

Operation operate(const circuit::PortLaw& law, const PublishedOperation& as) {
    Swing swing(law, as);
    const Operation rest = swing.at(0);
    const auto full = [&](double drive) { return swing.at(drive); };
    Operation out;
    if (as.drive > 0) {
        out = full(as.drive);
    } else {
        // Up to the grid at the cathode's volts; a single valve to the published distortion if that is sooner.
        const double most = -rest.grid * (as.pushPull ? 2 : 1);
        double low = 0.2 * most, high = as.cathodeOhms > 0 ? 1.3 * most : most;
        const auto over = [&](double drive) {
            const Operation o = full(drive);
            return (!as.pushPull && as.thdPercent > 0 && o.thdPercent > as.thdPercent) ||
                   drive / (as.pushPull ? 2 : 1) > -o.grid;
        };
        for (int k = 0; k < 12; ++k) {
            const double middle = (low + high) / 2;
            (over(middle) ? high : low) = middle;
        }
        out = full(low);
    }
    out.grid = rest.grid;
    out.plateAmpsRest = rest.plateAmpsFull;
    out.screenAmpsRest = rest.screenAmpsFull;
    return out;
}

Amplified amplify(const circuit::PortLaw& law, const PublishedStage& as) {
    // Cathode volts rise with the current they limit: the balance is monotone.
    double low = 0, high = as.supply / (as.plateOhms + as.cathodeOhms);
    for (int k = 0; k < 50; ++k) {
        const double i = (low + high) / 2, cathode = i * as.cathodeOhms;
        (figuresAt(law, as.supply - i * as.plateOhms - cathode, -cathode, 0).plateAmps > i ? low : high) = i;
    }
    const double i = (low + high) / 2, cathode = i * as.cathodeOhms;
    const ValveFigures f = figuresAt(law, as.supply - i * as.plateOhms - cathode, -cathode, 0);
    const double load = 1 / (1 / as.plateOhms + 1 / as.nextLeakOhms + 1 / f.rp);
    return {i, f.gm * load};
}

} // namespace ember
