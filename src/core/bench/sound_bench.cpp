#include "sound_bench.h"

#include "take.h"

#include "core/build/storage.h"
#include "core/quantity/quantity.h"
#include "core/signal/delay.h"
#include "core/signal/steady_part.h"
#include "core/signal/stimulus.h"
#include "core/signal/tone_analysis.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <numbers>

namespace ember::bench {

using nlohmann::json;

namespace {

constexpr const char* formatName = "dim-ember/sound";

/// The file's keys, once.
template <class Calibration, class Text, class Number>
void eachField(Calibration& c, Text text, Number number) {
    text("player", c.player), text("recorder", c.recorder);
    text("player_mixer", c.playerMixer), text("recorder_mixer", c.recorderMixer);
    number("played_volts", c.playedVolts), number("recorded_volts", c.recordedVolts);
    number("second_volts", c.secondVolts);
    number("own_thd_percent", c.ownThdPercent), number("own_noise", c.ownNoise), number("latency", c.latency);
}

Expected<std::vector<SoundCalibration>> readAll(const std::filesystem::path& file) {
    std::ifstream in(file);
    if (!in) return std::vector<SoundCalibration>{};
    const json j = json::parse(in, nullptr, false);
    const Problem wrong{file.string(), "these are no calibrations of sound devices; move the file away"};
    if (!j.is_object() || j.value("format", json{}) != formatName || !j.contains("devices") || !j["devices"].is_array())
        return wrong;
    std::vector<SoundCalibration> out;
    for (const json& d : j["devices"]) {
        if (!d.is_object()) return wrong;
        SoundCalibration c;
        eachField(
            c,
            [&](const char* key, std::string& to) {
                if (d.contains(key) && d[key].is_string()) to = d[key];
            },
            [&](const char* key, double& to) {
                if (d.contains(key) && d[key].is_number()) to = d[key];
            });
        if (d.contains("loop") && d["loop"].is_array() && d["loop"].size() < 5000)
            for (const json& p : d["loop"])
                if (p.is_array() && p.size() == 2 && p[0].is_number() && p[1].is_number())
                    c.loop.push_back({p[0].get<double>(), p[1].get<double>()});
        if (d.contains("input") && d["input"].is_number_integer()) c.input = std::clamp(d["input"].get<int>(), 1, 64);
        if (d.contains("second_input") && d["second_input"].is_number_integer())
            c.secondInput = std::clamp(d["second_input"].get<int>(), 0, 64);
        out.push_back(std::move(c));
    }
    return out;
}

const SoundPort* findPort(const std::vector<SoundPort>& ports, const std::string& id) {
    const auto at = std::find_if(ports.begin(), ports.end(), [&](const SoundPort& p) { return p.id == id; });
    return at == ports.end() ? nullptr : &*at;
}

/// In shares of full scale; `second` is empty where the calibration has no second input.
struct RecordedBoth {
    std::vector<double> first, second;
    double startsAt = 0; ///< [s] behind the start of what was recorded
};

/// What was recorded on the calibration's inputs, from the first played sample on, as long as what was played.
Expected<RecordedBoth> record(const SoundCalibration& c, const std::vector<double>& samples, double rate,
                              const TakeWatch& watch, int only = -1) {
    SoundTake take{c.player, c.recorder, rate};
    take.watch = watch;
    take.only = only;
    auto recorded = playAndRecord(samples, take);
    if (!recorded) return recorded.problem();
    const auto count = static_cast<int>(recorded->channels.size());
    if (const int asked = std::max(c.input, c.secondInput); asked > count)
        return Problem{"sound",
                       fmt::format("the recorder has {} channels, and channel {} was asked for", count, asked)};
    RecordedBoth out;
    out.first = std::move(recorded->channels[static_cast<std::size_t>(c.input - 1)]);
    if (c.secondInput > 0 && c.secondInput != c.input)
        out.second = std::move(recorded->channels[static_cast<std::size_t>(c.secondInput - 1)]);
    std::size_t from = signal::delayOf(out.first, samples);
    out.startsAt = static_cast<double>(from) / rate;
    from = std::min(from, out.first.size() - std::min(out.first.size(), samples.size()));
    for (std::vector<double>* all : {&out.first, &out.second}) {
        if (all->empty()) continue;
        all->erase(all->begin(), all->begin() + static_cast<std::ptrdiff_t>(std::min(from, all->size())));
        all->resize(std::min(all->size(), samples.size()));
    }
    return out;
}

} // namespace

std::filesystem::path calibrationFile() {
    const auto value = [](const char* name) {
        const char* v = std::getenv(name);
        return std::filesystem::path(v ? v : "");
    };
    const auto settings = value("XDG_CONFIG_HOME");
    return (settings.empty() ? value("HOME") / ".config" : settings) / "dim-ember" / "sound.json";
}

Expected<SoundCalibration> readCalibration(const std::filesystem::path& file, const std::string& player,
                                           const std::string& recorder) {
    const auto all = readAll(file);
    if (!all) return all.problem();
    for (const SoundCalibration& c : *all)
        if (c.player == player && c.recorder == recorder) return c;
    SoundCalibration fresh;
    fresh.player = player, fresh.recorder = recorder;
    return fresh;
}

Expected<SoundCalibration> lastCalibration(const std::filesystem::path& file) {
    const auto all = readAll(file);
    if (!all) return all.problem();
    if (all->empty()) return Problem{"sound", "no sound device has been calibrated yet"};
    return all->back();
}

Expected<Done> writeCalibration(const std::filesystem::path& file, const SoundCalibration& calibration) {
    auto all = readAll(file);
    if (!all) return all.problem();
    std::erase_if(*all, [&](const SoundCalibration& c) {
        return c.player == calibration.player && c.recorder == calibration.recorder;
    });
    all->push_back(calibration);
    json devices = json::array();
    for (SoundCalibration& c : *all) {
        json d{{"input", c.input}, {"second_input", c.secondInput}};
        eachField(
            c, [&](const char* key, const std::string& v) { d[key] = v; },
            [&](const char* key, double v) {
                if (std::isfinite(v)) d[key] = v;
            });
        for (const signal::ResponsePoint& p : c.loop) d["loop"].push_back({p.hertz, std::round(1e4 * p.db) / 1e4});
        devices.push_back(std::move(d));
    }
    std::error_code ignored;
    std::filesystem::create_directories(file.parent_path(), ignored);
    return saveText(json{{"format", formatName}, {"devices", devices}}.dump(2) + "\n", file);
}

std::string staleness(const SoundCalibration& c, const SoundPorts& ports) {
    const SoundPort *player = findPort(ports.players, c.player), *recorder = findPort(ports.recorders, c.recorder);
    if (!player) return fmt::format("the player {} is not there", c.player);
    if (!recorder) return fmt::format("the recorder {} is not there", c.recorder);
    if (!std::isfinite(c.playedVolts) || !std::isfinite(c.recordedVolts))
        return "it has not been calibrated with a voltmeter";
    if (player->mixer != c.playerMixer || recorder->mixer != c.recorderMixer)
        return fmt::format("the mixer was changed since it was calibrated (player {} then, {} now; recorder {}, {})",
                           c.playerMixer, player->mixer, c.recorderMixer, recorder->mixer);
    return {};
}

Expected<signal::Capture> SoundBench::play(std::size_t channel, const std::vector<double>& volts, double rate,
                                           const TakeWatch& watch) {
    return playOn(static_cast<int>(channel), volts, rate, watch);
}

Expected<signal::Capture> SoundBench::playOn(int only, const std::vector<double>& volts, double rate,
                                             const TakeWatch& watch) {
    const auto ports = soundPorts();
    if (!ports) return ports.problem();
    if (const auto stale = staleness(calibration, *ports); !stale.empty())
        return Problem{"sound", fmt::format("The sound device cannot be used: {}.", stale)};
    std::vector<double> samples = volts;
    for (double& v : samples) v /= calibration.playedVolts;
    if (signal::crestOf(samples) > 1)
        return Problem{"sound", fmt::format("{} are asked for and the device reaches {}: lower the input level",
                                            format(signal::crestOf(volts) / std::sqrt(2.0), Unit::Volt),
                                            format(calibration.playedVolts / std::sqrt(2.0), Unit::Volt))};
    auto recorded = record(calibration, samples, rate, watch, only);
    if (!recorded) return recorded.problem();
    signal::Capture out{std::move(recorded->first), rate, calibration.recordedVolts, calibration.recorder};
    for (double& v : out.volts) v *= calibration.recordedVolts;
    if (std::isfinite(calibration.secondVolts)) out.second = std::move(recorded->second);
    for (double& v : out.second) v *= calibration.secondVolts;
    return out;
}

Expected<signal::Capture> SoundBench::take(const TakeRequest& r, const TakeWatch& watch) {
    if (r.node > 0)
        return Problem{"sound", "a supply node's volts are not for a sound device: capture them with a scope and its "
                                "probe, and open the table"};
    if (r.setup.second != SecondInput::Nothing &&
        (calibration.secondInput == 0 || calibration.secondInput == calibration.input ||
         !std::isfinite(calibration.secondVolts)))
        return Problem{"sound", "the recorder's second input is not calibrated: choose it in \"Sound device\" and read "
                                "its volts once"};
    auto volts = voltsOf(r);
    if (!volts) return volts.problem();
    auto out = playOn(r.setup.everyChannel ? -1 : static_cast<int>(r.channel), *volts, takeRate, watch);
    if (!out) return out;
    if (r.setup.second == SecondInput::Nothing) out->second.clear();
    if (r.kind == TakeKind::Tone)
        for (auto* of : {&out->volts, &out->second})
            for (double& v : *of) v *= std::pow(10, -calibration.loopAt(r.hertz) / 20);
    return out;
}

namespace {

double crestOfTone(const signal::ToneAnalysis& a) {
    return a.harmonics[0].rms * std::numbers::sqrt2;
}

/// A tone of 1 kHz as it comes back, the part in which it plays.
struct ToneBack {
    signal::ToneAnalysis analysis;
    double second = 0;      ///< crest of it in the second input, share of full scale; 0: none
    double playedCrest = 0; ///< share of full scale
};
constexpr const char* notCaptured = "The tone was not captured: check leads, levels in the mixer, and the channel.";
Expected<ToneBack> toneBack(const SoundCalibration& c, double seconds, double level, const TakeWatch& watch) {
    const signal::Stimulus tone{
        .kind = signal::StimulusKind::Tone, .hertz = 1000, .seconds = seconds, .rate = takeRate, .level = level};
    const auto samples = signal::samplesOf(tone);
    if (!samples) return samples.problem();
    ToneBack out;
    out.playedCrest = std::pow(10.0, level / 20);
    const auto captured = record(c, *samples, tone.rate, watch);
    if (!captured) return captured.problem();
    const auto a = signal::analyseTone(signal::steadyPart(captured->first, tone.rate), tone.rate, 1);
    if (!a || std::abs(a->fundamental - tone.hertz) > 5) return Problem{"sound", notCaptured};
    if (a->clipped) return Problem{"sound", "The capture is clipped: turn the recorder's level down in the mixer."};
    out.analysis = *a;
    if (const auto b = signal::analyseTone(signal::steadyPart(captured->second, tone.rate), tone.rate, 1);
        b && std::abs(b->fundamental - tone.hertz) <= 5)
        out.second = crestOfTone(*b);
    return out;
}

} // namespace

Expected<CapturedTone> captureCalibrationTone(const SoundCalibration& calibration, const TakeWatch& watch) {
    const auto back = toneBack(calibration, calibrationSeconds, calibrationLevel, watch);
    if (!back) return back.problem();
    return CapturedTone{crestOfTone(back->analysis), back->second};
}

double playedFullScale(double readRms) {
    return readRms * std::numbers::sqrt2 / std::pow(10.0, calibrationLevel / 20);
}

double recordedFullScale(double readRms, double capturedCrest) {
    return readRms * std::numbers::sqrt2 / capturedCrest;
}

void takeMixer(SoundCalibration& c, const SoundPorts& ports) {
    if (const SoundPort* player = findPort(ports.players, c.player)) c.playerMixer = player->mixer;
    if (const SoundPort* recorder = findPort(ports.recorders, c.recorder)) c.recorderMixer = recorder->mixer;
}

double SoundCalibration::loopAt(double hertz) const {
    if (loop.empty() || !(hertz > 0)) return 0;
    const auto above =
        std::lower_bound(loop.begin(), loop.end(), hertz, [](const auto& p, double hz) { return p.hertz < hz; });
    if (above == loop.begin()) return loop.front().db;
    if (above == loop.end()) return loop.back().db;
    const auto below = above - 1;
    return below->db + std::log(hertz / below->hertz) / std::log(above->hertz / below->hertz) * (above->db - below->db);
}

void takeLoop(SoundCalibration& c, const LoopbackCheck& check) {
    c.ownThdPercent = check.thdPercent, c.ownNoise = check.noise;
    c.latency = check.latency, c.loop = check.response;
}

Expected<LoopbackCheck> checkLoopback(const SoundCalibration& calibration, const TakeWatch& watch) {
    // Quietly first: where an amplifier is still connected, this is all that it hears. A server that stumbled is asked
    // again before the loop is doubted.
    constexpr int tries = 3;
    double before = 0;
    for (const double level : {-60.0, -40.0, -20.0}) {
        double crest = 0;
        const auto rises = [&] { return !(before > 0) || std::abs(20 * std::log10(crest / before) - 20) < 3; };
        for (int k = 0; k < tries && (crest == 0 || !rises()); ++k) {
            const auto quiet = toneBack(calibration, 1, level, watch);
            if (quiet)
                crest = crestOfTone(quiet->analysis);
            else if (quiet.problem().sentence != notCaptured)
                return quiet.problem();
        }
        if (crest == 0)
            return Problem{
                "sound",
                fmt::format("At {:.0f} dB of full scale nothing came back, and nothing louder was played: join "
                            "the device's output to its input, the amplifier's lead off.",
                            level)};
        if (!rises())
            return Problem{
                "sound", fmt::format("From {:.0f} to {:.0f} dB of full scale the tone did not rise by 20 dB: something "
                                     "else than the device's own output is connected. Nothing louder was played.",
                                     level - 20, level)};
        before = crest;
    }
    const auto back = toneBack(calibration, 2, -6, watch);
    if (!back) return back.problem();
    LoopbackCheck out{
        0, crestOfTone(back->analysis) / back->playedCrest, back->analysis.thdPercent, back->analysis.noiseFloor, {}};
    // The sweep is a chirp: where its deconvolved impulse stands is the latency, what it looks like is the response.
    const auto sweep = signal::samplesOf(
        {.kind = signal::StimulusKind::Sweep, .from = 15, .to = 22000, .seconds = 3, .rate = takeRate, .level = -6});
    if (!sweep) return sweep.problem();
    const auto captured = record(calibration, *sweep, takeRate, watch);
    if (!captured) return captured.problem();
    const auto r = signal::sweepResponse({captured->first, takeRate, 1, ""}, {*sweep, takeRate, 1, ""});
    if (!r) return r.problem();
    out.latency = std::max(0.0, captured->startsAt + r->delay - recorderLead); // a monitor may begin within its lead
    out.response = r->points;
    double middle = 0, nearest = 1e9;
    for (const signal::ResponsePoint& p : out.response)
        if (const double off = std::abs(std::log(p.hertz / 1000)); off < nearest) nearest = off, middle = p.db;
    for (signal::ResponsePoint& p : out.response) p.db -= middle;
    return out;
}

} // namespace ember::bench
