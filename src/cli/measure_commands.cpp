#include "measure_commands.h"

#include "output.h"

#include "core/signal/intermodulation.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/response.h"
#include "core/signal/sound_file.h"
#include "core/signal/square_wave.h"
#include "core/signal/stimulus.h"
#include "core/signal/table_file.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <memory>
#include <optional>

namespace ember::cli {

namespace {

using namespace signal;

struct MeasureAsked {
    std::string kind, file, stimulus, reference, out;
    int channel = 1;
    double fullScale = 1, mains = 50, rated = 0, hertz = 0;
    Stimulus signal;
};

int makeStimulus(MeasureAsked& a, bool fromGiven, bool toGiven) {
    const auto kind = stimulusKind(a.kind);
    if (!kind) return refuse({"", fmt::format("\"{}\": sweep, tone, square, imd, noise or burst is expected", a.kind)});
    a.signal.kind = *kind;
    if (*kind == StimulusKind::Intermodulation) {
        if (!fromGiven) a.signal.from = 60;
        if (!toGiven) a.signal.to = fromGiven && a.signal.from > 1000 ? a.signal.from + 1000 : 7000;
    }
    if (*kind == StimulusKind::Sweep && !toGiven) a.signal.to = std::min(20000.0, 0.45 * a.signal.rate);
    const auto samples = samplesOf(a.signal);
    if (!samples) return refuse(samples.problem());
    if (auto done = writeSound(a.out, *samples, a.signal.rate); !done) return refuse(done.problem());
    print({{"stimulus", a.out},
           {"kind", a.kind},
           {"rate", a.signal.rate},
           {"seconds", a.signal.seconds},
           {"silence_seconds", silence},
           {"level_dbfs", a.signal.level}});
    return fine;
}

Expected<Capture> captured(const MeasureAsked& a) {
    return readCapture(a.file, a.channel, a.fullScale);
}

int tellResponse(const MeasureAsked& a) {
    const auto capture = captured(a);
    if (!capture) return refuse(capture.problem());
    const auto stimulus = readCapture(a.stimulus, 1, 1);
    if (!stimulus) return refuse(stimulus.problem());
    std::optional<Capture> reference;
    if (!a.reference.empty()) {
        auto loop = readCapture(a.reference, a.channel, a.fullScale);
        if (!loop) return refuse(loop.problem());
        reference = std::move(*loop);
    }
    const auto r = sweepResponse(*capture, *stimulus, reference ? &*reference : nullptr);
    if (!r) return refuse({a.file + (r.problem().where.empty() ? "" : ", " + r.problem().where), r.problem().sentence});
    const auto points = [](const std::vector<ResponsePoint>& all) {
        Json out = Json::array();
        for (const ResponsePoint& p : all) out.push_back({{"hz", p.hertz}, {"db", p.db}});
        return out;
    };
    Json harmonics = Json::array();
    for (const HarmonicCurve& h : r->harmonics) harmonics.push_back({{"order", h.order}, {"points", points(h.points)}});
    print({{"response", points(r->points)},
           {"minus3_low_hz", known(r->lowCorner)},
           {"minus3_high_hz", known(r->highCorner)},
           {"harmonics", harmonics},
           {"delay_seconds", r->delay},
           {"clock_ppm", r->clockPpm},
           {"trust", r->trust}});
    return fine;
}

int tellSquare(const MeasureAsked& a) {
    const auto capture = captured(a);
    if (!capture) return refuse(capture.problem());
    Capture shown = *capture;
    if (!a.reference.empty()) {
        const auto source = readCapture(a.reference, a.channel, a.fullScale);
        if (!source) return refuse(source.problem());
        auto without = withoutSource(*capture, *source, a.hertz);
        if (!without) return refuse({a.file, without.problem().text()});
        shown = std::move(*without);
    }
    const auto s = analyseSquare(shown, a.hertz);
    if (!s) return refuse({a.file, s.problem().sentence});
    print({{"hz", s->hertz},
           {"tilt_percent", known(s->tiltPercent)},
           {"low_corner_hz", known(s->lowCorner)},
           {"rise_seconds", known(s->riseSeconds)},
           {"high_corner_hz", known(s->highCorner)},
           {"overshoot_percent", known(s->overshootPercent)},
           {"ringing_hz", known(s->ringingHertz)},
           {"damping", known(s->damping)},
           {"trust", s->trust}});
    return fine;
}

int tellNoise(const MeasureAsked& a) {
    const auto capture = captured(a);
    if (!capture) return refuse(capture.problem());
    const auto n = analyseNoise(*capture, a.mains);
    if (!n) return refuse({a.file, n.problem().sentence});
    Json lines = Json::array();
    for (const NoiseLine& l : n->lines) lines.push_back({{"hz", l.hertz}, {"rms", l.rms}});
    print({{"rms", n->rms},
           {"a_weighted_rms", n->weighted},
           {"below_rated_db", a.rated > 0 && n->rms > 0 ? Json(20 * std::log10(a.rated / n->rms)) : Json(nullptr)},
           {"lines", lines},
           {"verdict", n->verdict}});
    return fine;
}

int tellIntermodulation(const MeasureAsked& a) {
    const auto capture = captured(a);
    if (!capture) return refuse(capture.problem());
    const auto m = analyseIntermodulation(*capture);
    if (!m) return refuse({a.file, m.problem().sentence});
    Json products = Json::array();
    for (const IntermodulationProduct& p : m->products)
        products.push_back({{"hz", p.hertz}, {"db", p.db}, {"order", p.order}});
    print({{"kind", m->difference ? "difference" : "modulation"},
           {"tones_hz", {m->low, m->high}},
           {"percent", m->percent},
           {"products", products}});
    return fine;
}

} // namespace

void addMeasureCommands(CLI::App& app, int& code) {
    const auto a = std::make_shared<MeasureAsked>();
    auto* stimuli = app.add_subcommand("stimulus", "A signal to be played through an amplifier, as a WAV");
    stimuli->add_option("KIND", a->kind, "sweep, tone, square, imd, noise or burst")->required();
    auto* from = stimuli->add_option("--from", a->signal.from, "[Hz] where a sweep begins; the lower of two tones");
    auto* to = stimuli->add_option("--to", a->signal.to, "[Hz] where it ends; the higher one");
    stimuli->add_option("--hz", a->signal.hertz, "[Hz] of a tone, square or burst");
    stimuli->add_option("--seconds", a->signal.seconds, "without the second of silence behind it");
    stimuli->add_option("--rate", a->signal.rate, "[Hz] samples");
    stimuli->add_option("--level", a->signal.level, "crest, in dB of full scale");
    stimuli->add_option("-o,--output", a->out, "FILE.wav")->required();
    stimuli->callback([a, from, to, &code] { code = makeStimulus(*a, from->count() > 0, to->count() > 0); });

    auto* measure = app.add_subcommand("measure", "Figures from a capture: WAV, FLAC, or the table of an oscilloscope");
    measure->require_subcommand(1);
    const auto add = [&](const char* name, const char* about, int (*run)(const MeasureAsked&)) {
        auto* m = measure->add_subcommand(name, about);
        m->add_option("CAPTURE", a->file)->required();
        m->add_option("--channel", a->channel, "1 is the first")->check(CLI::Range(1, 64));
        m->add_option("--full-scale", a->fullScale, "volts of a full-scale sample")->check(CLI::Range(1e-9, 1e6));
        m->callback([a, run, &code] { code = run(*a); });
        return m;
    };
    auto* r = add("response", "Frequency response and harmonics from a captured sweep", tellResponse);
    r->add_option("--stimulus", a->stimulus, "the sweep as it was played")->required();
    r->add_option("--reference", a->reference, "the same sweep captured without the amplifier");
    auto* q = add("square", "Tilt, rise, overshoot and ringing of a square wave", tellSquare);
    q->add_option("--hz", a->hertz, "[Hz] where it is known");
    q->add_option("--source", a->reference, "the source's own square, captured without the amplifier: it is taken out");
    auto* n = add("noise", "Hum and noise with the input shorted", tellNoise);
    n->add_option("--mains", a->mains, "50 or 60");
    n->add_option("--rated", a->rated, "[V RMS] of rated output")->check(CLI::Range(1e-6, 1e6));
    add("imd", "Intermodulation of two tones", tellIntermodulation);
}

} // namespace ember::cli
