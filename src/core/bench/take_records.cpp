#include "take_records.h"

#include "core/build/build_json.h"
#include "core/build/storage.h"
#include "core/signal/sound_file.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <openssl/evp.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <sstream>

namespace ember::bench {

using nlohmann::json;

namespace {

constexpr const char* takesFormat = "dim-ember/takes";
constexpr std::size_t mostTakes = 5000;

/// As five numbers; null: none.
json asJson(const std::optional<Loudspeaker>& l) {
    return l ? json{l->ohms, l->henries, l->resonanceOhms, l->farads, l->coil} : json(nullptr);
}

std::optional<Loudspeaker> loudspeakerFromJson(const json& j) {
    if (!j.contains("loudspeaker") || !j["loudspeaker"].is_array() || j["loudspeaker"].size() != 5) return std::nullopt;
    const auto v = j["loudspeaker"].get<std::vector<double>>();
    return Loudspeaker{v[0], v[1], v[2], v[3], v[4]};
}

json asJson(const Setup& s) {
    return {{"load", s.loadOhms},
            {"loudspeaker", asJson(s.loudspeaker)},
            {"control", s.control},
            {"every_channel", s.everyChannel},
            {"second", secondInputNames[static_cast<std::size_t>(s.second)]}};
}

Setup setupFrom(const json& j) {
    Setup s;
    s.loadOhms = j.value("load", 0.0), s.loudspeaker = loudspeakerFromJson(j);
    s.control = j.value("control", Setup::asItStands), s.everyChannel = j.value("every_channel", false);
    const auto second = std::find(secondInputNames.begin(), secondInputNames.end(), j.value("second", ""));
    if (second != secondInputNames.end()) s.second = static_cast<SecondInput>(second - secondInputNames.begin());
    return s;
}

json asJson(const TakeRequest& r) {
    return {{"kind", formOf(r.kind).id}, {"channel", r.channel}, {"input_rms", r.inputRms}, {"hz", r.hertz},
            {"seconds", r.seconds},      {"node", r.node},       {"setup", asJson(r.setup)}};
}

/// The form with this id, or nullptr.
template <typename Forms>
auto formCalled(const Forms& forms, const std::string& id) -> decltype(&*forms.begin()) {
    const auto at = std::find_if(forms.begin(), forms.end(), [&](const auto& f) { return f.id == id; });
    return at == forms.end() ? nullptr : &*at;
}

/// A Problem where the kind is none of this version's.
Expected<TakeRequest> requestFrom(const json& j) {
    const std::string kind = j.value("kind", "");
    const TakeForm* form = formCalled(takeForms(), kind);
    if (!form) return Problem{"", fmt::format("a take of kind \"{}\" is not known to this version", kind)};
    TakeRequest r;
    r.kind = form->kind;
    r.channel = j.value("channel", std::size_t(0)), r.inputRms = j.value("input_rms", 0.0);
    r.hertz = j.value("hz", 1000.0), r.seconds = j.value("seconds", 0.0), r.node = j.value("node", 0);
    r.levelTried = true;
    if (j.contains("setup")) r.setup = setupFrom(j["setup"]);
    return r;
}

json asJson(const SeriesRequest& r) {
    return {{"kind", formOf(r.kind).id},
            {"channel", r.channel},
            {"hz", r.hertz},
            {"watts", r.watts},
            {"frequencies", r.frequencies},
            {"every_channel", r.everyChannel},
            {"second_load", r.secondLoad},
            {"loudspeaker", asJson(r.loudspeaker)}};
}

Expected<SeriesRequest> seriesFrom(const json& j) {
    const std::string kind = j.value("kind", "");
    const SeriesForm* form = formCalled(seriesForms(), kind);
    if (!form) return Problem{"", fmt::format("a measurement \"{}\" is not known to this version", kind)};
    SeriesRequest r;
    r.kind = form->kind;
    r.channel = j.value("channel", std::size_t(0)), r.hertz = j.value("hz", 1000.0);
    r.watts = j.value("watts", 1.0), r.everyChannel = j.value("every_channel", false);
    r.frequencies = j.value("frequencies", r.frequencies), r.secondLoad = j.value("second_load", 0.0);
    r.loudspeaker = loudspeakerFromJson(j);
    return r;
}

json asJson(const SeriesContext& c) {
    json channels = json::array();
    const auto known = [](double v) { return std::isfinite(v) ? json(v) : json(nullptr); };
    for (const SeriesChannel& s : c.channels)
        channels.push_back({{"name", s.name},
                            {"load", s.loadOhms},
                            {"load_watts", s.loadWatts},
                            {"gain", known(s.gain)},
                            {"control", s.control},
                            {"clip_watts", known(s.clipWatts)}});
    return {{"channels", channels}, {"nodes", c.nodes}, {"most_input", c.mostInput}};
}

SeriesContext contextFrom(const json& j) {
    SeriesContext out;
    const auto number = [](const json& o, const char* key) {
        return o.contains(key) && o[key].is_number() ? o[key].get<double>() : plan::unknown;
    };
    for (const json& s : j.value("channels", json::array()))
        out.channels.push_back({s.value("name", ""), s.value("load", 0.0), s.value("load_watts", 0.0),
                                number(s, "gain"), s.value("control", Setup::asItStands), number(s, "clip_watts")});
    out.nodes = j.value("nodes", 0), out.mostInput = j.value("most_input", 5.0);
    return out;
}

/// Samples put behind all that are there, scaled to their crest; where they are.
json appended(std::vector<double>& all, const std::vector<double>& volts) {
    const double crest = signal::crestOf(volts), scale = crest > 0 ? crest * 1.0001 : 1;
    json out{{"from", all.size()}, {"count", volts.size()}, {"scale", scale}};
    for (const double v : volts) all.push_back(v / scale);
    return out;
}

/// And back; empty: they are not all there.
std::optional<std::vector<double>> samplesAt(const json& place, const std::vector<double>& all) {
    const auto from = place.at("from").get<std::size_t>(), count = place.at("count").get<std::size_t>();
    if (from > all.size() || count > all.size() - from) return std::nullopt;
    std::vector<double> out(all.begin() + static_cast<std::ptrdiff_t>(from),
                            all.begin() + static_cast<std::ptrdiff_t>(from + count));
    const double scale = place.at("scale");
    for (double& v : out) v *= scale;
    return out;
}

std::string hexadecimal(const unsigned char* bytes, unsigned count) {
    std::string out;
    for (unsigned k = 0; k < count; ++k) out += fmt::format("{:02x}", bytes[k]);
    return out;
}

} // namespace

Taker recordingInto(std::vector<TakeRecord>& records, Taker take) {
    return [&records, take = std::move(take)](const TakeRequest& r) {
        auto c = take(r);
        if (c) records.push_back({r, *c});
        return c;
    };
}

Taker answeringFrom(std::shared_ptr<const std::vector<TakeRecord>> records) {
    return [records = std::move(records)](const TakeRequest& r) -> Expected<signal::Capture> {
        const TakeRecord* best = nullptr;
        const auto off = [&](const TakeRecord& t) { return std::abs(t.request.inputRms - r.inputRms); };
        for (const TakeRecord& t : *records)
            if (t.request.kind == r.kind && t.request.channel == r.channel && t.request.setup == r.setup &&
                t.request.node == r.node && std::abs(t.request.hertz - r.hertz) <= 1e-6 * r.hertz &&
                (!best || off(t) < off(*best)))
                best = &t;
        if (!best || off(*best) > 1e-3 * r.inputRms)
            return Problem{"", fmt::format("there is no capture of {} at {}", format(r.inputRms, Unit::Volt, 4),
                                           format(r.hertz, Unit::Hertz))};
        return best->capture;
    };
}

Expected<std::string> hashOf(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return Problem{file.filename().string(), "there is no such file"};
    const std::unique_ptr<EVP_MD_CTX, void (*)(EVP_MD_CTX*)> context(EVP_MD_CTX_new(), EVP_MD_CTX_free);
    EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr);
    std::array<char, 65536> chunk;
    while (in) {
        in.read(chunk.data(), chunk.size());
        EVP_DigestUpdate(context.get(), chunk.data(), static_cast<std::size_t>(in.gcount()));
    }
    std::array<unsigned char, EVP_MAX_MD_SIZE> bytes;
    unsigned count = 0;
    EVP_DigestFinal_ex(context.get(), bytes.data(), &count);
    return hexadecimal(bytes.data(), count);
}

Expected<KeptFiles> writeMeasurement(const std::filesystem::path& folder, const std::string& stem,
                                     const Measurement& m) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error) return Problem{folder.string(), "the folder for captures could not be made: " + error.message()};
    std::string free = stem;
    for (int k = 2; std::filesystem::exists(folder / (free + ".json")); ++k) free = fmt::format("{}-{}", stem, k);
    json captures = json::array();
    std::vector<double> all;
    for (const TakeRecord& t : m.takes) {
        captures.push_back(appended(all, t.capture.volts));
        captures.back().update({{"request", asJson(t.request)},
                                {"rate", t.capture.sampleRate},
                                {"full_scale", t.capture.fullScale},
                                {"source", t.capture.source}});
        if (!t.capture.second.empty()) captures.back()["second"] = appended(all, t.capture.second);
    }
    const auto sound = folder / (free + ".flac");
    if (auto done = signal::writeSound(sound, all, takeRate); !done) return done.problem();
    const auto hash = hashOf(sound);
    if (!hash) return hash.problem();
    Build bare = m.build;
    bare.log.clear();
    json j{{"format", takesFormat}, {"version", 1},
           {"made", m.made},        {"title", m.title},
           {"captures", captures},  {"sound", sound.filename().string()},
           {"sound_sha256", *hash}, {"context", asJson(m.context)},
           {"build", toJson(bare)}};
    if (m.series) j["series"] = asJson(*m.series);
    const auto file = folder / (free + ".json");
    if (auto done = saveText(j.dump(1) + "\n", file); !done) return done.problem();
    const auto own = hashOf(file);
    if (!own) return own.problem();
    return KeptFiles{file.filename().string(), *own};
}

Expected<Measurement> readMeasurement(const std::filesystem::path& folder, const KeptFiles& files) {
    const auto file = folder / std::filesystem::path(files.name).filename(); // never outside of the folder
    const auto hash = hashOf(file);
    if (!hash) return Problem{file.string(), "its captures are not there; they belong into this folder"};
    if (!files.hash.empty() && *hash != files.hash)
        return Problem{file.string(), "the file is not the one that was written: its hash differs from the log's"};
    std::error_code error;
    if (std::filesystem::file_size(file, error) > largestFile || error)
        return Problem{file.string(), "it is larger than any measurement of this program"};
    std::ifstream in(file);
    const json j = json::parse(in, nullptr, false);
    const auto wrong = [&](const std::string& why) { return Problem{file.string(), why}; };
    if (!j.is_object() || j.value("format", json{}) != takesFormat) return wrong("these are no takes of this program");
    if (j.value("version", 0) != 1) return wrong("its version is newer than this program");
    try {
        Measurement m;
        m.made = j.at("made"), m.title = j.at("title");
        m.context = contextFrom(j.at("context"));
        auto build = fromJson(Json::parse(j.at("build").dump()));
        if (!build) return wrong("its build: " + build.problem().text());
        m.build = std::move(*build);
        if (j.contains("series")) {
            auto series = seriesFrom(j["series"]);
            if (!series) return wrong(series.problem().sentence);
            m.series = std::move(*series);
        }
        const auto sound = folder / std::filesystem::path(j.at("sound").get<std::string>()).filename();
        const auto heard = hashOf(sound);
        if (!heard) return Problem{sound.string(), "the captures' sound is not there"};
        if (*heard != j.at("sound_sha256").get<std::string>())
            return Problem{sound.string(), "the file is not the one that was written: its hash differs"};
        const auto samples = signal::readSound(sound, 1, 1.0);
        if (!samples) return samples.problem();
        const json& captures = j.at("captures");
        if (!captures.is_array() || captures.size() > mostTakes) return wrong("it has no list of captures");
        for (const json& c : captures) {
            auto volts = samplesAt(c, samples->volts);
            auto second = c.contains("second") ? samplesAt(c["second"], samples->volts) : std::vector<double>{};
            if (!volts || !second) return wrong("a capture lies beyond the end of its sound");
            auto request = requestFrom(c.at("request"));
            if (!request) return wrong(request.problem().sentence);
            TakeRecord t{*request, {}};
            t.capture.volts = std::move(*volts), t.capture.second = std::move(*second);
            t.capture.sampleRate = c.at("rate"), t.capture.fullScale = c.at("full_scale");
            t.capture.source = c.value("source", "");
            m.takes.push_back(std::move(t));
        }
        return m;
    } catch (const json::exception&) {
        return wrong("a value in it is missing or of another kind than expected");
    }
}

std::filesystem::path filesFolder(const std::filesystem::path& buildFile) {
    std::string name = buildFile.filename().string();
    if (const auto at = name.find(".ember.json"); at != std::string::npos) name.resize(at);
    return buildFile.parent_path() / (name + ".files");
}

std::vector<std::string> differencesOf(const Build& before, const Build& after) {
    std::vector<std::string> out;
    const auto a = settingsOf(before), b = settingsOf(after);
    bool layout = false, wires = false;
    const auto shown = [](const ember::Setting& s) {
        return s.kind == ember::Setting::Kind::Number ? formatExact(s.number.value, s.number.unit) : s.text;
    };
    const auto area = [&](const ember::Setting& s) {
        if (s.pointer.rfind("/chassis", 0) == 0) return layout = true;
        if (s.pointer.rfind("/wiring", 0) == 0) return wires = true;
        return false;
    };
    std::map<std::string, const ember::Setting*> were;
    for (const ember::Setting& s : a) were[s.pointer] = &s;
    for (const ember::Setting& s : b) {
        const auto at = were.find(s.pointer);
        const bool fresh = at == were.end();
        if (!fresh && shown(*at->second) == shown(s)) {
            were.erase(at);
            continue;
        }
        if (!area(s))
            out.push_back(fresh ? fmt::format("{}: {}, new", s.label, shown(s))
                                : fmt::format("{}: {}, was {}", s.label, shown(s), shown(*at->second)));
        if (!fresh) were.erase(at);
    }
    for (const auto& [pointer, s] : were)
        if (!area(*s)) out.push_back(fmt::format("{}: gone, was {}", s->label, shown(*s)));
    if (layout) out.push_back("the layout of the chassis");
    if (wires) out.push_back("the wiring");
    return out;
}

} // namespace ember::bench
