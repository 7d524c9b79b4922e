#pragma once
// Paths put together in a few lines, held at their nodes' volts.

#include "core/build/build.h"
#include "core/plan/channel_circuit.h"

#include <cmath>
#include <string>
#include <utility>
#include <vector>

namespace ember {

inline StagePart r(const char* slot, double ohms, const char* at = "") {
    return {{}, slot, at, "", ResistorPart{{}, "", ohms, 1, 0.05}};
}
inline StagePart c(const char* slot, double farads, const char* at = "") {
    return {{}, slot, at, "", CapacitorPart{{}, "", farads, 400, 0.1, 0, 0}};
}
inline StagePart p(const char* slot, double ohms, double position) {
    return {{}, slot, "", "", PotentiometerPart{{}, "", ohms, Taper::Linear, position, 0.2, 0.2}};
}
inline StagePart iron(double primary, double load, double henries, double ohms, double secondary, double leakage) {
    OutputTransformer t;
    t.primaryImpedance = primary, t.loadImpedance = load, t.primaryInductance = henries;
    t.primaryResistanceA = t.primaryResistanceB = ohms / 2;
    t.secondaryResistance = secondary, t.leakageInductance = leakage;
    return {{}, "transformer", "", "", t};
}

/// A build of one channel without a supply: its nodes are held.
struct Bench {
    Build b;
    Bench() {
        b.channels.emplace_back();
        b.channels[0].id = "one", b.channels[0].name = "One";
    }
    Stage& stage(const char* kind, int node = 1) {
        auto& all = b.channels[0].stages;
        all.emplace_back();
        all.back().id = "s" + std::to_string(all.size());
        all.back().kind = kind;
        all.back().node = node;
        return all.back();
    }
    /// A bottle of this type for a stage; `share` puts it into the last bottle's next section.
    void valve(Stage& s, const std::string& type, const char* at = "", bool share = false) {
        if (!share) {
            b.bottles.emplace_back();
            b.bottles.back().id = "v" + std::to_string(b.bottles.size());
            b.bottles.back().type = type;
            section = 1;
        }
        s.valves.push_back({{}, at, b.bottles.back().id, section++});
    }
    void loose(const char* from, const std::string& to, const PartValue& part) {
        b.loose.push_back({{}, from, to, "", part});
    }
    int section = 1;
};
inline PartValue ohms(double value) {
    return ResistorPart{{}, "", value, 1, 0.05};
}
inline PartValue farads(double value) {
    return CapacitorPart{{}, "", value, 400, 0.1, 0, 0};
}

inline Stage& triode(Bench& x, const char* law, double plate, double cathode, double bypass, double source, double leak,
                     int node = 1) {
    Stage& input = x.stage("input");
    input.parts = {r("series", source), r("shunt", leak)};
    Stage& s = x.stage("triode", node);
    x.valve(s, law);
    s.parts = {r("plate", plate), r("cathode", cathode)};
    if (bypass > 0) s.parts.push_back(c("bypass", bypass));
    return s;
}

/// A stage of two ideal halves, each with the input's volts: a transformer without leakage or copper worth naming.
inline void idealPhases(Bench& x) {
    OutputTransformer t;
    t.primaryImpedance = 1e3, t.loadImpedance = 4e3, t.primaryInductance = 1e4;
    t.primaryResistanceA = t.primaryResistanceB = 0.01;
    t.secondaryResistance = 0.001, t.leakageInductance = 0;
    x.stage("phase transformer").parts = {{{}, "transformer", "", "", t}};
}

inline bool near(double got, double want, double share, double least, const std::string& what) {
    if (std::abs(got - want) <= share * std::abs(want) + least) return true;
    qWarning("%s: %.8g against %.8g", what.c_str(), got, want);
    return false;
}
inline double db(double ratio) {
    return 20 * std::log10(ratio);
}

/// A path held at its nodes' volts.
inline plan::HeldChannel held(const Build& b, const Catalogue& catalogue, const std::vector<double>& nodes,
                              const circuit::Waveform& drive = {}) {
    return plan::heldChannel(b, catalogue, 0, {nodes, std::vector<double>(8, -12.0), {}}, drive);
}

} // namespace ember
