#include "stimulus.h"

#include "capture.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <random>
#include <utility>

namespace ember::signal {

namespace {

constexpr double turn = 2 * std::numbers::pi;
constexpr std::array<std::pair<const char*, StimulusKind>, 6> kinds{{{"sweep", StimulusKind::Sweep},
                                                                     {"tone", StimulusKind::Tone},
                                                                     {"square", StimulusKind::Square},
                                                                     {"imd", StimulusKind::Intermodulation},
                                                                     {"noise", StimulusKind::Noise},
                                                                     {"burst", StimulusKind::Burst}}};

std::optional<Problem> wrong(const Stimulus& s) {
    const auto outside = [](double x, double low, double high) { return !(x >= low && x <= high); };
    if (outside(s.rate, 8000, 768000))
        return Problem{"--rate", fmt::format("{:g} Hz: a rate from 8 kHz to 768 kHz is expected", s.rate)};
    if (outside(s.seconds, 0.05, 300))
        return Problem{"--seconds", fmt::format("{:g} s: from 0.05 to 300 s is expected", s.seconds)};
    if (outside(s.level, -120, 0))
        return Problem{"--level", fmt::format("{:g} dB of full scale: from -120 to 0 is expected", s.level)};
    const double most = 0.5 * s.rate;
    const bool two = s.kind == StimulusKind::Sweep || s.kind == StimulusKind::Intermodulation,
               one = s.kind == StimulusKind::Tone || s.kind == StimulusKind::Square || s.kind == StimulusKind::Burst;
    if (one && outside(s.hertz, 0.5, 0.999 * most))
        return Problem{"--hz", fmt::format("{:g} Hz: below half the rate, {:g} Hz, is expected", s.hertz, most)};
    if (two && (outside(s.from, 0.5, 0.999 * most) || outside(s.to, 0.5, most) || s.from >= s.to))
        return Problem{"--from", fmt::format("{:g} to {:g} Hz: rising, and up to half the rate, {:g} Hz, is expected",
                                             s.from, s.to, most)};
    return std::nullopt;
}

} // namespace

std::optional<StimulusKind> stimulusKind(const std::string& name) {
    for (const auto& [known, kind] : kinds)
        if (name == known) return kind;
    return std::nullopt;
}

Expected<std::vector<double>> samplesOf(const Stimulus& s) {
    if (auto problem = wrong(s)) return *problem;
    const auto count = static_cast<std::size_t>(std::lround(s.seconds * s.rate));
    std::vector<double> x(count);
    const auto at = [&](std::size_t k) { return static_cast<double>(k) / s.rate; };
    switch (s.kind) {
    case StimulusKind::Sweep: {
        const double L = s.seconds / std::log(s.to / s.from);
        for (std::size_t k = 0; k < count; ++k) x[k] = std::sin(turn * s.from * L * std::expm1(at(k) / L));
        break;
    }
    case StimulusKind::Tone:
        for (std::size_t k = 0; k < count; ++k) x[k] = std::sin(turn * s.hertz * at(k));
        break;
    case StimulusKind::Square:
        for (int h = 1; h * s.hertz < 0.5 * s.rate; h += 2)
            for (std::size_t k = 0; k < count; ++k) x[k] += std::sin(turn * h * s.hertz * at(k)) / h;
        break;
    case StimulusKind::Intermodulation: {
        const double ratio = s.to / s.from < 2 ? 1 : 4;
        for (std::size_t k = 0; k < count; ++k)
            x[k] = (ratio * std::sin(turn * s.from * at(k)) + std::sin(turn * s.to * at(k))) / (ratio + 1);
        break;
    }
    case StimulusKind::Burst:
        for (std::size_t k = count / 10; k < count / 2; ++k) x[k] = std::sin(turn * s.hertz * at(k - count / 10));
        break;
    case StimulusKind::Noise: {
        std::mt19937_64 dice(1);
        std::uniform_real_distribution<double> even(-1, 1);
        for (double& v : x) v = even(dice);
        break;
    }
    }
    double most = crestOf(x);
    if (s.kind == StimulusKind::Sweep || s.kind == StimulusKind::Tone || s.kind == StimulusKind::Burst)
        most = 1; // its crest, whether a sample hits it or not
    const double gain = std::pow(10, s.level / 20) / std::max(1e-12, most);
    const auto fade = std::min(count / 2, static_cast<std::size_t>(std::lround(0.01 * s.seconds * s.rate)));
    for (std::size_t k = 0; k < count; ++k) x[k] *= gain;
    if (s.kind != StimulusKind::Square && s.kind != StimulusKind::Noise)
        for (std::size_t k = 0; k < fade; ++k) {
            const double w =
                0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(k) + 0.5) / static_cast<double>(fade));
            x[k] *= w;
            x[count - 1 - k] *= w;
        }
    x.resize(count + static_cast<std::size_t>(std::lround(silence * s.rate)), 0.0);
    return x;
}

} // namespace ember::signal
