#include "sound_commands.h"

#include "output.h"

#include "core/bench/approach.h"
#include "core/bench/sound_bench.h"
#include "core/bench/virtual_amplifier.h"
#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/signal/sound_file.h"
#include "core/signal/stimulus.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <memory>
#include <numbers>

namespace ember::cli {

namespace {

struct SoundAsked {
    std::string stimulus, out, player, recorder, build, fault;
    int input = 1, channel = 1;
    double volts = 0;
    bool atOnce = false;
    std::uint64_t seed = 1;
};

int listPorts() {
    const auto ports = bench::soundPorts();
    if (!ports) return refuse(ports.problem());
    const auto list = [](const std::vector<bench::SoundPort>& all) {
        Json out = Json::array();
        for (const bench::SoundPort& p : all)
            out.push_back({{"id", p.id},
                           {"title", p.title},
                           {"rate", p.rate},
                           {"channels", p.channels},
                           {"mixer", p.mixer},
                           {"default", p.isDefault}});
        return out;
    };
    print({{"players", list(ports->players)}, {"recorders", list(ports->recorders)}});
    return fine;
}

int check(const SoundAsked& a) {
    bench::SoundCalibration c;
    c.player = a.player, c.recorder = a.recorder, c.input = a.input;
    const auto found = bench::checkLoopback(c);
    if (!found) return refuse(found.problem());
    Json response = Json::array();
    for (const signal::ResponsePoint& p : found->response) response.push_back({{"hz", p.hertz}, {"db", p.db}});
    print({{"latency_seconds", found->latency},
           {"recorded_share", found->recordedShare},
           {"thd_percent", found->thdPercent},
           {"noise_share", found->noise},
           {"response", response}});
    return fine;
}

/// As played and as recorded, in shares of full scale; before it, tones of 1 kHz that rise to the same crest, each
/// looked at before the next.
int takeWithDevice(const SoundAsked& a, const signal::Capture& stimulus) {
    const auto tone = [&](double rms) -> Expected<signal::Capture> {
        const auto samples = signal::samplesOf({.kind = signal::StimulusKind::Tone,
                                                .hertz = 1000,
                                                .seconds = bench::approachSeconds,
                                                .rate = stimulus.sampleRate,
                                                .level = std::min(0.0, 20 * std::log10(rms * std::numbers::sqrt2))});
        if (!samples) return samples.problem();
        auto back =
            bench::playAndRecord(*samples, {.player = a.player, .recorder = a.recorder, .rate = stimulus.sampleRate});
        if (!back) return back.problem();
        if (a.input > static_cast<int>(back->channels.size()))
            return Problem{"--input", fmt::format("the recorder has {} channels", back->channels.size())};
        return signal::Capture{back->channels[static_cast<std::size_t>(a.input - 1)], back->rate, 1, a.recorder};
    };
    if (!a.atOnce) {
        const auto steps = bench::approach(signal::crestOf(stimulus.volts) / std::numbers::sqrt2, 1000, {}, tone);
        if (!steps) return refuse(steps.problem());
    }
    const auto recorded =
        bench::playAndRecord(stimulus.volts, {.player = a.player, .recorder = a.recorder, .rate = stimulus.sampleRate});
    if (!recorded) return refuse(recorded.problem());
    if (a.input > static_cast<int>(recorded->channels.size()))
        return refuse({"--input", fmt::format("the recorder has {} channels", recorded->channels.size())});
    const auto& samples = recorded->channels[static_cast<std::size_t>(a.input - 1)];
    if (auto done = signal::writeSound(a.out, samples, recorded->rate); !done) return refuse(done.problem());
    print({{"capture", a.out},
           {"rate", recorded->rate},
           {"seconds", static_cast<double>(samples.size()) / recorded->rate}});
    return fine;
}

int takeInPractice(const SoundAsked& a, const signal::Capture& stimulus) {
    const auto build = loadBuild(a.build);
    if (!build) return refuse(build.problem());
    auto amplifier = bench::VirtualAmplifier::make(*build, catalogueOf(*build), a.seed, a.fault);
    if (!amplifier) return refuse(amplifier.problem());
    if (auto done = amplifier->power(6, build->mains.volts); !done) return refuse(done.problem());
    std::vector<double> volts = stimulus.volts;
    for (double& v : volts) v *= a.volts;
    auto capture =
        amplifier->play(static_cast<std::size_t>(a.channel - 1), volts, stimulus.sampleRate, bench::TakeWatch{});
    if (!capture) return refuse(capture.problem());
    for (double& v : capture->volts) v /= capture->fullScale;
    if (auto done = signal::writeSound(a.out, capture->volts, capture->sampleRate); !done)
        return refuse(done.problem());
    print({{"capture", a.out},
           {"rate", capture->sampleRate},
           {"seconds", static_cast<double>(capture->volts.size()) / capture->sampleRate},
           {"full_scale", capture->fullScale}});
    return fine;
}

int take(const SoundAsked& a) {
    const auto stimulus = signal::readSound(a.stimulus, 1, 1);
    if (!stimulus) return refuse(stimulus.problem());
    return a.build.empty() ? takeWithDevice(a, *stimulus) : takeInPractice(a, *stimulus);
}

} // namespace

void addSoundCommands(CLI::App& app, int& code) {
    const auto a = std::make_shared<SoundAsked>();
    const auto ports = [&](CLI::App* to) {
        to->add_option("--player", a->player, "by its id in \"sound list\"; else the desktop's default");
        to->add_option("--recorder", a->recorder, "likewise");
        to->add_option("--input", a->input, "channel that is recorded, 1 the left")->check(CLI::Range(1, 64));
        return to;
    };
    auto* sound = app.add_subcommand("sound", "The sound devices of this computer");
    sound->require_subcommand(1);
    sound->add_subcommand("list", "What can play and what can record")->callback([&code] { code = listPorts(); });
    ports(sound->add_subcommand("check", "Distortion and noise of a device, its output joined to its input"))
        ->callback([a, &code] { code = check(*a); });
    auto* t = ports(app.add_subcommand("take", "Play a signal and record the answer: sound device or practice bench"));
    t->add_option("STIMULUS", a->stimulus, "FILE.wav as \"stimulus\" makes it")->required();
    t->add_option("-o,--output", a->out, "FILE.wav")->required();
    t->add_flag("--at-once", a->atOnce, "without the tones that rise to its level first");
    auto* build = t->add_option("--practice", a->build, "BUILD whose practice amplifier plays it");
    t->add_option("--volts", a->volts, "at its input, of a full-scale sample")->needs(build);
    t->add_option("--channel", a->channel, "1 is the first")->check(CLI::Range(1, 64))->needs(build);
    t->add_option("--seed", a->seed, "of the practice amplifier's parts")->needs(build);
    t->add_option("--fault", a->fault, "an id of \"faults\"")->needs(build);
    t->callback([a, &code] { code = take(*a); });
}

} // namespace ember::cli
