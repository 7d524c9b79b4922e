#include "sound_device.h"

#include <fmt/format.h>
#include <pulse/pulseaudio.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <memory>
#include <span>

namespace ember::bench {

namespace {

using Clock = std::chrono::steady_clock;
constexpr auto patience = std::chrono::seconds(4); // for an answer of a server on the same machine
constexpr int pollMicroseconds = 20000;

/// A connection to the sound server, served by the thread that owns it.
class Server {
  public:
    Server() : loop(pa_mainloop_new()), context(pa_context_new(pa_mainloop_get_api(loop), "Dim Ember")) {}
    ~Server() {
        pa_context_disconnect(context);
        pa_context_unref(context);
        pa_mainloop_free(loop);
    }
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;

    Expected<Done> connect() {
        if (pa_context_connect(context, nullptr, PA_CONTEXT_NOAUTOSPAWN, nullptr) < 0) return problem("");
        const bool answered =
            serveUntil([this] { return pa_context_get_state(context) == PA_CONTEXT_READY || broken(); });
        if (!answered || broken()) return problem("");
        return Done{};
    }
    /// Serves until `met` or for `patience`; whether it was met.
    bool serveUntil(const std::function<bool()>& met) {
        const auto until = Clock::now() + patience;
        while (!met()) {
            if (Clock::now() > until) return false;
            serve();
        }
        return true;
    }
    void serve() {
        if (pa_mainloop_prepare(loop, pollMicroseconds) >= 0 && pa_mainloop_poll(loop) >= 0) pa_mainloop_dispatch(loop);
    }
    [[nodiscard]] bool broken() const { return !PA_CONTEXT_IS_GOOD(pa_context_get_state(context)); }
    [[nodiscard]] Problem problem(const std::string& what) const {
        return {"sound", fmt::format("{}the sound server does not answer ({}): is PipeWire or PulseAudio running?",
                                     what.empty() ? "" : what + ": ", pa_strerror(pa_context_errno(context)))};
    }
    /// Waits for an operation and gives it back.
    bool finish(pa_operation* operation) {
        if (!operation) return false;
        const bool done = serveUntil([&] { return pa_operation_get_state(operation) != PA_OPERATION_RUNNING; });
        pa_operation_unref(operation);
        return done;
    }
    pa_context* get() { return context; }

  private:
    pa_mainloop* loop;
    pa_context* context;
};

std::string mixerOf(const pa_cvolume& volume, bool muted) {
    if (muted) return "muted";
    std::string out;
    for (int k = 0; k < volume.channels; ++k)
        out += fmt::format("{}{:.2f} dB", k ? ", " : "", pa_sw_volume_to_dB(volume.values[k]));
    return out;
}

/// The same for sinks and sources, whose records differ in type alone.
template <class Record>
SoundPort portOf(const Record& r, const std::string& preferred) {
    SoundPort p{r.name, r.description ? r.description : r.name, static_cast<double>(r.sample_spec.rate),
                r.sample_spec.channels, mixerOf(r.volume, r.mute)};
    p.isDefault = p.id == preferred;
    return p;
}

struct Listing {
    SoundPorts ports;
    std::string player, recorder; ///< the desktop's defaults
};

Expected<SoundPorts> list(Server& server) {
    Listing out;
    const bool known = server.finish(pa_context_get_server_info(
        server.get(),
        [](pa_context*, const pa_server_info* i, void* to) {
            if (!i) return;
            auto& l = *static_cast<Listing*>(to);
            l.player = i->default_sink_name ? i->default_sink_name : "";
            l.recorder = i->default_source_name ? i->default_source_name : "";
        },
        &out));
    const bool players = server.finish(pa_context_get_sink_info_list(
        server.get(),
        [](pa_context*, const pa_sink_info* i, int, void* to) {
            auto& l = *static_cast<Listing*>(to);
            if (i) l.ports.players.push_back(portOf(*i, l.player));
        },
        &out));
    const bool recorders = server.finish(pa_context_get_source_info_list(
        server.get(),
        [](pa_context*, const pa_source_info* i, int, void* to) {
            auto& l = *static_cast<Listing*>(to);
            if (!i) return;
            l.ports.recorders.push_back(portOf(*i, l.recorder));
            l.ports.recorders.back().ofPlayer = i->monitor_of_sink != PA_INVALID_INDEX;
        },
        &out));
    if (!known || !players || !recorders) return server.problem("");
    return std::move(out.ports);
}

/// The wanted port, or the desktop's default, or the first.
const SoundPort* choose(const std::vector<SoundPort>& ports, const std::string& id) {
    const auto at = std::find_if(ports.begin(), ports.end(),
                                 [&](const SoundPort& p) { return id.empty() ? p.isDefault : p.id == id; });
    if (at != ports.end()) return &*at;
    return id.empty() && !ports.empty() ? &ports.front() : nullptr;
}

std::string namesOf(const std::vector<SoundPort>& ports) {
    std::string out;
    for (const SoundPort& p : ports) out += (out.empty() ? "" : ", ") + p.id;
    return out.empty() ? "none" : out;
}

struct StreamEnd {
    void operator()(pa_stream* s) const {
        for (auto* clear : {&pa_stream_set_underflow_callback, &pa_stream_set_overflow_callback})
            (*clear)(s, nullptr, nullptr);
        pa_stream_disconnect(s);
        pa_stream_unref(s);
    }
};
using Stream = std::unique_ptr<pa_stream, StreamEnd>;

void raise(pa_stream*, void* flag) {
    *static_cast<bool*>(flag) = true;
}

/// One take on a connected server.
class Take {
  public:
    Take(Server& s, const std::vector<double>& samples, const SoundTake& how) : server(s), played(samples), take(how) {}

    Expected<SoundRecording> run(const SoundPort& player, const SoundPort& recorder) {
        out.rate = take.rate;
        out.channels.resize(static_cast<std::size_t>(recorder.channels));
        playChannels = static_cast<std::size_t>(player.channels);
        if (auto done = open(player, recorder); !done) return done.problem();
        // The recorder runs before the first sample is played.
        const double lead = recorderLead;
        if (!server.serveUntil([&] { return read() && seconds() >= lead; }))
            return Problem{"sound", fmt::format("{} records nothing", recorder.title)};
        const double ends = seconds() + static_cast<double>(played.size()) / take.rate + take.after + 0.2;
        if (!write()) return server.problem("playing");
        server.finish(pa_stream_cork(output.get(), 0, nullptr, nullptr));
        double last = 0;
        auto heard = Clock::now(), told = heard;
        while (seconds() < ends) {
            if (take.watch.stop.stop_requested()) return Problem{"", "cancelled"};
            server.serve();
            if (server.broken() || !read() || !write()) return server.problem("the take was broken off");
            if (const auto wrong = spoilt(); !wrong.empty()) return Problem{"sound", wrong};
            const auto now = Clock::now();
            if (seconds() > last) last = seconds(), heard = now;
            if (now - heard > patience) return Problem{"sound", fmt::format("{} stopped recording", recorder.title)};
            if (take.watch.progress && now - told > std::chrono::milliseconds(100)) {
                told = now;
                take.watch.progress(std::min(1.0, seconds() / ends));
            }
        }
        return std::move(out);
    }

  private:
    Expected<Done> open(const SoundPort& player, const SoundPort& recorder) {
        const auto ready = [&](pa_stream* s) {
            const auto state = [s] { return pa_stream_get_state(s); };
            return server.serveUntil([&] { return state() == PA_STREAM_READY || !PA_STREAM_IS_GOOD(state()); }) &&
                   state() == PA_STREAM_READY;
        };
        const auto spec = [&](int channels) {
            return pa_sample_spec{PA_SAMPLE_FLOAT32NE, static_cast<std::uint32_t>(std::lround(take.rate)),
                                  static_cast<std::uint8_t>(channels)};
        };
        const auto bytes = [](const pa_sample_spec& s, unsigned milliseconds) {
            return static_cast<std::uint32_t>(pa_usec_to_bytes(1000ULL * milliseconds, &s));
        };
        constexpr auto whole = static_cast<std::uint32_t>(-1);
        const pa_sample_spec in = spec(recorder.channels), outSpec = spec(player.channels);
        input.reset(pa_stream_new(server.get(), "capture of the load", &in, nullptr));
        output.reset(pa_stream_new(server.get(), "test signal", &outSpec, nullptr));
        if (!input || !output) return Problem{"sound", fmt::format("the sound server cannot do {:.0f} Hz", take.rate)};
        pa_stream_set_overflow_callback(input.get(), raise, &overrun);
        pa_stream_set_underflow_callback(output.get(), raise, &starved);
        const pa_buffer_attr recordBuffer{bytes(in, 4000), whole, whole, whole, bytes(in, 40)};
        const pa_buffer_attr playBuffer{whole, bytes(outSpec, 400), 0, whole, whole};
        if (pa_stream_connect_record(input.get(), recorder.id.c_str(), &recordBuffer,
                                     static_cast<pa_stream_flags_t>(PA_STREAM_ADJUST_LATENCY | PA_STREAM_DONT_MOVE)) <
                0 ||
            !ready(input.get()))
            return Problem{"sound", fmt::format("{} cannot be recorded from", recorder.title)};
        if (pa_stream_connect_playback(output.get(), player.id.c_str(), &playBuffer,
                                       static_cast<pa_stream_flags_t>(PA_STREAM_START_CORKED | PA_STREAM_DONT_MOVE),
                                       nullptr, nullptr) < 0 ||
            !ready(output.get()))
            return Problem{"sound", fmt::format("{} cannot be played on", player.title)};
        return Done{};
    }
    /// Takes what has been recorded. False: the stream is broken.
    bool read() {
        while (pa_stream_readable_size(input.get()) > 0) {
            const void* data = nullptr;
            std::size_t bytes = 0;
            if (pa_stream_peek(input.get(), &data, &bytes) < 0) return false;
            if (bytes == 0) return true;
            if (!data) {
                gap = true; // a hole in the stream
            } else {
                const std::span<const float> values(static_cast<const float*>(data), bytes / sizeof(float));
                for (std::size_t k = 0; k < values.size(); ++k)
                    out.channels[k % out.channels.size()].push_back(static_cast<double>(values[k]));
            }
            pa_stream_drop(input.get());
        }
        return PA_STREAM_IS_GOOD(pa_stream_get_state(input.get()));
    }
    /// Gives the player what it has room for; silence behind the signal.
    bool write() {
        const std::size_t room = pa_stream_writable_size(output.get());
        if (room == static_cast<std::size_t>(-1)) return false;
        const std::size_t frames = room / (playChannels * sizeof(float));
        if (frames == 0) return true;
        std::vector<float> block(frames * playChannels, 0.0F);
        for (std::size_t k = 0; k < frames && at < played.size(); ++k, ++at)
            for (std::size_t c = 0; c < playChannels; ++c)
                if (take.only < 0 || static_cast<std::size_t>(take.only) % playChannels == c)
                    block[k * playChannels + c] = static_cast<float>(played[at]);
        return pa_stream_write(output.get(), block.data(), block.size() * sizeof(float), nullptr, 0,
                               PA_SEEK_RELATIVE) == 0;
    }
    [[nodiscard]] double seconds() const { return static_cast<double>(out.channels.front().size()) / take.rate; }
    [[nodiscard]] std::string spoilt() const {
        const char* then = "The take is not used: close what else plays or loads the computer, and take it again.";
        if (gap) return fmt::format("The capture has a gap. {}", then);
        if (overrun) return fmt::format("The recorder lost samples. {}", then);
        if (starved) return fmt::format("The player ran out of samples. {}", then);
        return {};
    }

    Server& server;
    const std::vector<double>& played;
    const SoundTake& take;
    SoundRecording out;
    std::size_t at = 0, playChannels = 2;
    bool gap = false, overrun = false, starved = false;
    Stream input, output;
};

} // namespace

Expected<SoundPorts> soundPorts() {
    Server server;
    if (auto done = server.connect(); !done) return done.problem();
    return list(server);
}

Expected<SoundRecording> playAndRecord(const std::vector<double>& samples, const SoundTake& take) {
    if (samples.empty()) return Problem{"sound", "there is nothing to play"};
    if (!(take.rate >= 8000 && take.rate <= 192000))
        return Problem{"sound", fmt::format("{:.0f} Hz is no rate from 8 to 192 kHz", take.rate)};
    Server server;
    if (auto done = server.connect(); !done) return done.problem();
    const auto ports = list(server);
    if (!ports) return ports.problem();
    const SoundPort *player = choose(ports->players, take.player), *recorder = choose(ports->recorders, take.recorder);
    if (!player)
        return Problem{"sound",
                       fmt::format("there is no player \"{}\"; there are: {}", take.player, namesOf(ports->players))};
    if (!recorder)
        return Problem{"sound", fmt::format("there is no recorder \"{}\"; there are: {}", take.recorder,
                                            namesOf(ports->recorders))};
    if (player->mixer == "muted") return Problem{"sound", player->title + " is muted in the desktop's mixer"};
    if (recorder->mixer == "muted") return Problem{"sound", recorder->title + " is muted in the desktop's mixer"};
    return Take(server, samples, take).run(*player, *recorder);
}

} // namespace ember::bench
